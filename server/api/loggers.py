"""Loggers that send readings as they come: their tokens, their state, how their names are read."""

import time
from dataclasses import asdict, dataclass

import orjson
from django.http import HttpRequest
from ninja import Body, Router

from ember.basis.errors import IntakeError
from ember.description.installation import channels_of
from ember.description.logged import Column
from ember.intake.live import known_as
from server.api.fleet import get_system
from server.readings.folding import LoggerStanding, standing
from server.readings.live import gaps, known_now, register, renew_token, revoke
from server.readings.models import Logger
from server.readings.store import NotThere

router = Router(tags=["loggers"])
WEEK = 604_800
LOGGERS_QUIET = 900  # without a batch, after which a logger counts as silent [s]
DRIFT = 60  # of its clock, from which on it is said [s]
RECENT = 40  # batches in which its names are looked up
LOGGERS_SHOWN = 12  # gaps


@dataclass(frozen=True)
class NameShown:
    """A name that a logger sends, its latest value, and what it is read as."""

    name: str
    value: float
    channel: str | None
    unit: str | None


@dataclass(frozen=True)
class GapShown:
    """A stretch in which nothing was sent [s]."""

    start: float
    stop: float


@dataclass(frozen=True)
class LoggerShown:
    """A logger. state : sending, silent, waiting or revoked; drift : its clock less ours [s];
    waiting : batches that are not in the charts yet."""

    id: int
    name: str
    state: str
    said: str
    seen: float | None
    latest: float | None
    drift: float | None
    readings: int
    waiting: int
    step: int | None
    problem: str
    gaps: list[GapShown]
    names: list[NameShown]


@dataclass(frozen=True)
class Loggers:
    """The loggers of a system. token : of the one that was made just now, shown once. lacking :
    channels of the description that none of them sends."""

    rows: list[LoggerShown]
    token: str | None
    token_of: int | None
    lacking: list[str]


@dataclass(frozen=True)
class LoggerNamed:
    """A name for a new logger."""

    name: str


@dataclass(frozen=True)
class NameChoice:
    """What a name is read as."""

    header: str
    channel: str
    unit: str | None


@dataclass(frozen=True)
class NamesChosen:
    """What a logger's names are read as; those that are channels by themselves need not be in."""

    columns: list[NameChoice]


@router.get("/systems/{pk}/loggers", response=Loggers)
def loggers(request: HttpRequest, pk: int) -> Loggers:
    """The loggers of a system and their state."""
    return _shown(pk)


@router.post("/systems/{pk}/loggers", response=Loggers)
def add(request: HttpRequest, pk: int, asked: Body[LoggerNamed]) -> Loggers:
    """A new logger; its token is shown this once."""
    made, token = register(get_system(pk), asked.name)
    return _shown(pk, token, made.pk)


@router.put("/loggers/{key}/token", response=Loggers)
def anew(request: HttpRequest, key: int) -> Loggers:
    """A new token; the old one is worth nothing from now on."""
    logger = _logger(key)
    return _shown(logger.system_id, renew_token(logger), key)


@router.delete("/loggers/{key}", response=Loggers)
def stop(request: HttpRequest, key: int) -> Loggers:
    """Takes its token away; what it sent stays."""
    logger = _logger(key)
    revoke(logger)
    return _shown(logger.system_id)


@router.put("/loggers/{key}/names", response=Loggers)
def read_as(request: HttpRequest, key: int, chosen: Body[NamesChosen]) -> Loggers:
    """Says what a logger's names are read as, from the next batch on and for the last hour."""
    logger = _logger(key)
    columns = [Column(c.header, c.channel, c.unit) for c in chosen.columns]
    taken = [c.channel for c in columns]
    for channel in taken:
        if taken.count(channel) > 1:
            raise IntakeError(f"two names are read as {channel}; each channel has one source.")
    logger.columns = [asdict(c) for c in columns]
    logger.save(update_fields=["columns"])
    return _shown(logger.system_id)


def _logger(key: int) -> Logger:
    found = Logger.objects.filter(pk=key).select_related("system").first()
    if found is None:
        raise NotThere(f"There is no logger {key}.")
    return found


def _shown(pk: int, token: str | None = None, token_of: int | None = None) -> Loggers:
    system = get_system(pk)
    now = time.time()
    rows = [_row(logger, now) for logger in system.loggers.order_by("name")]
    sent = {name.channel for row in rows for name in row.names if row.state != "revoked"}
    lacking = [c for c in channels_of(system.installation) if c not in sent] if rows else []
    return Loggers(rows, token, token_of, lacking)


def _row(logger: Logger, now: float) -> LoggerShown:
    names: dict[str, float] = {}
    payloads = logger.batches.order_by("-pk").values_list("payload", flat=True)[:RECENT]
    for payload in payloads:
        for _, name, value in reversed(orjson.loads(bytes(payload))):
            names.setdefault(name, value)
    known = known_as(names, [Column(**column) for column in logger.columns])
    shown = [
        NameShown(
            name,
            value,
            known[name].channel if name in known else None,
            known[name].unit if name in known else None,
        )
        for name, value in sorted(names.items())
    ]
    found = gaps(logger, now - WEEK)[-LOGGERS_SHOWN:]
    stands = standing(logger)
    state, said = _state(logger, stands, now)
    return LoggerShown(
        id=logger.pk,
        name=logger.name,
        state=state,
        said=said,
        seen=stands.seen,
        latest=stands.latest,
        drift=stands.drift,
        readings=stands.readings,
        waiting=known_now(logger).waiting,
        step=logger.step,
        problem=stands.problem,
        gaps=[GapShown(gap.start, gap.stop) for gap in reversed(found)],
        names=shown,
    )


def _state(logger: Logger, stands: LoggerStanding, now: float) -> tuple[str, str]:
    """In a word and a sentence."""
    if logger.revoked is not None:
        return "revoked", f"Its token was taken away on {logger.revoked:%Y-%m-%d}."
    if stands.seen is None:
        return "waiting", "Nothing has come yet."
    if now - stands.seen > LOGGERS_QUIET:
        return "silent", f"Nothing for {_ago(now - stands.seen)}."
    if stands.drift is not None and abs(stands.drift) > DRIFT:
        ahead = "ahead" if stands.drift > 0 else "behind"
        return "sending", f"Its clock is {_ago(abs(stands.drift))} {ahead}."
    if stands.latest is not None and now - stands.latest > LOGGERS_QUIET:
        return "sending", f"It sends old readings: the newest is {_ago(now - stands.latest)} old."
    return "sending", "All well."


def _ago(seconds: float) -> str:
    for limit, unit, word in ((120, 1, "s"), (7200, 60, "min"), (172_800, 3600, "h")):
        if seconds < limit:
            return f"{seconds / unit:.0f} {word}"
    return f"{seconds / 86_400:.0f} days"
