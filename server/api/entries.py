"""Observations and bills, and the history of all that was logged."""

from dataclasses import asdict, dataclass
from datetime import date, timedelta
from time import time as now
from typing import Annotated
from zoneinfo import ZoneInfo

from django.http import HttpRequest
from ninja import Body, Router
from pydantic import Field

from ember.basis.clock import instant_of, iso_local, wall_clock, zone_named
from ember.basis.errors import EmberError, IntakeError
from ember.readings.bills import billed, overlapping
from server.api.fleet import get_system
from server.api.typed import Money, Short, Text
from server.assessments.cache import renew
from server.assessments.times import instant
from server.readings.entries import COUNTED, Written, bill_of, turn, write
from server.readings.models import Change, Entry, Import
from server.readings.store import NotThere

router = Router(tags=["by hand"])

NOTES_KINDS = {
    "defrost begins": True,
    "defrost ends": True,
    "vapour": True,
    "ice left": True,
    "noise": True,
    "setting changed": False,
    "work done": False,
    "complaint": False,
    "note": True,
}
INTERVENTIONS = ("setting changed", "work done")  # kinds that change the system


@dataclass(frozen=True)
class ObservationShown:
    """Something seen or done at a time. kind : see KINDS; cost : what it cost, in the tariff's
    currency; done_by : who did it."""

    id: int
    time: float
    local: str
    kind: str
    words: str
    note: str
    photo: str
    cost: float | None
    done_by: str
    user: str | None


@dataclass(frozen=True)
class KindShown:
    """A kind of observation; tap : offered as a button; change : of the system, with a cost and who
    did it."""

    kind: str
    words: str
    tap: bool
    change: bool


@dataclass(frozen=True)
class Observations:
    """The latest first, and what may be noted."""

    currency: str | None
    kinds: list[KindShown]
    rows: list[ObservationShown]


@dataclass(frozen=True)
class ObservationTyped:
    """An observation. time : local; empty for now. id : of the one it changes. cost, done_by : of a
    change of the system."""

    id: int | None
    time: Short
    kind: Short
    note: Text
    photo: Annotated[str, Field(max_length=200)]
    cost: Money | None
    done_by: Short


@dataclass(frozen=True)
class BillShown:
    """A bill. first, last : local days, both in it. overlap : it holds days of another."""

    id: int
    first: str
    last: str
    carrier: str
    amount: float
    unit: str
    kwh_per_unit: float
    cost: float | None
    estimated: bool
    before: bool
    note: str
    meter: str | None
    overlap: bool


@dataclass(frozen=True)
class StretchShown:
    """Bills up to one that ends with a reading. sure : both ends were read."""

    carrier: str
    before: bool
    first: str
    last: str
    days: float
    kwh: float
    kwh_a_day: float
    watts: float
    price: float | None
    sure: bool


@dataclass(frozen=True)
class Bills:
    """Bills, and what they say together. meters : the unit's own, of which a bill may be."""

    currency: str | None
    meters: list[str]
    rows: list[BillShown]
    stretches: list[StretchShown]


@dataclass(frozen=True)
class BillTyped:
    """A bill as typed. first, last : local days, both in it."""

    id: int | None
    first: Short
    last: Short
    carrier: Short
    amount: Money
    unit: Short
    kwh_per_unit: Money
    cost: Money | None
    estimated: bool
    before: bool
    note: Text
    meter: str | None


@dataclass(frozen=True)
class ChangeShown:
    """A line of the history. kind : import, live or by hand. key : of the import or the change."""

    kind: str
    key: int
    time: float
    words: str
    user: str | None
    undone: bool


# --- observations ---------------------------------------------------------------------------


@router.get("/systems/{pk}/observations", response=Observations)
def observations(request: HttpRequest, pk: int) -> Observations:
    """What was seen and done."""
    system = get_system(pk)
    zone = zone_named(system.installation.zone)
    rows = [
        ObservationShown(
            id=e.pk,
            time=e.time,
            local=iso_local(e.time, zone),
            kind=e.content["kind"],
            words=e.content["kind"].capitalize(),
            note=e.content["note"],
            photo=e.content["photo"],
            cost=e.content.get("cost"),
            done_by=e.content.get("done_by", ""),
            user=e.user.get_username() if e.user else None,
        )
        for e in system.entries.filter(kind=Entry.Kind.OBSERVATION)
        .select_related("user")
        .order_by("-time", "-pk")
    ]
    tariff = system.installation.tariff
    kinds = [
        KindShown(k, k.capitalize(), tap, k in INTERVENTIONS) for k, tap in NOTES_KINDS.items()
    ]
    return Observations(tariff.currency if tariff else None, kinds, rows)


@router.post("/systems/{pk}/observations", response=Observations)
def observe(request: HttpRequest, pk: int, typed: Body[ObservationTyped]) -> Observations:
    """Notes something; now, if no time is given."""
    system = get_system(pk)
    zone = zone_named(system.installation.zone)
    if typed.kind not in NOTES_KINDS:
        raise IntakeError(
            f"'{typed.kind}' is no kind of observation; take one of {list(NOTES_KINDS)}."
        )
    try:
        when = instant(typed.time, zone, "time") if typed.time.strip() else now()
    except EmberError as error:
        raise IntakeError(str(error), "time") from error
    if when > now() + 86_400:
        raise IntakeError("time: lies in the future.", "time")
    change = typed.kind in INTERVENTIONS
    content = {
        "kind": typed.kind,
        "note": typed.note,
        "photo": typed.photo,
        "cost": typed.cost if change else None,
        "done_by": typed.done_by if change else "",
    }
    one = Written(typed.id, Entry.Kind.OBSERVATION, int(when), None, content)
    said = typed.kind if typed.id is None else f"{typed.kind} changed"
    write(system, request.user, f"{said}, {iso_local(when, zone)}", [one])
    return observations(request, pk)


@router.delete("/systems/{pk}/entries/{key}", response=ChangeShown)
def take_out(request: HttpRequest, pk: int, key: int) -> ChangeShown:
    """Takes an observation or a bill out; it can be put back from the history."""
    system = get_system(pk)
    entry = system.entries.filter(pk=key).first()
    if entry is None:
        raise NotThere("It is no longer there; somebody took it out.")
    what = entry.content.get("kind") or f"{entry.kind}"
    change = write(system, request.user, f"{what} taken out", [], [key])
    return _change(change)


# --- bills ----------------------------------------------------------------------------------


@router.get("/systems/{pk}/bills", response=Bills)
def bills(request: HttpRequest, pk: int) -> Bills:
    """An owner's bills, and what they say together."""
    system = get_system(pk)
    installation = system.installation
    zone = zone_named(installation.zone)
    entries = list(system.entries.filter(kind=Entry.Kind.BILL))
    found = [bill_of(entry) for entry in entries]
    groups: dict[tuple[str, bool], list[int]] = {}
    for k, bill in enumerate(found):
        groups.setdefault((bill.carrier, bill.before), []).append(k)
    clash = set[int]()
    stretches = []
    for (carrier, before), which in sorted(groups.items()):
        mine = [found[k] for k in which]
        clash |= {which[k] for pair in overlapping(mine) for k in pair}
        stretches += [
            StretchShown(
                carrier,
                before,
                *_days(s.start, s.stop, zone),
                s.days,
                s.kwh,
                s.kwh_a_day,
                s.watts,
                s.price,
                s.sure,
            )
            for s in billed(mine)
        ]
    rows = [
        BillShown(
            entries[k].pk,
            *_days(b.start, b.stop, zone),
            b.carrier,
            b.amount,
            b.unit,
            b.kwh_per_unit,
            b.cost,
            b.estimated,
            b.before,
            b.note,
            b.meter,
            k in clash,
        )
        for k, b in enumerate(found)
    ]
    currency = installation.tariff.currency if installation.tariff else None
    return Bills(currency, [m.name for m in installation.electricity], rows, stretches)


@router.post("/systems/{pk}/bills", response=Bills)
def keep_bill(request: HttpRequest, pk: int, typed: Body[BillTyped]) -> Bills:
    """Stores a bill."""
    system = get_system(pk)
    zone = zone_named(system.installation.zone)
    days = []
    for where, text, what in (
        ("first", typed.first, "first day"),
        ("last", typed.last, "last day"),
    ):
        try:
            days.append(date.fromisoformat(text))
        except ValueError as error:
            raise IntakeError(f"{what}: '{text}' is no day; write 2026-01-22.", where) from error
    first, last = days
    if last < first:
        raise IntakeError("last day: it lies before the first.", "last")
    if (last - first).days > 800 or first.year < 1990 or last > date.today() + timedelta(days=40):
        raise IntakeError(
            f"{first} to {last}: is that the period of one bill? Check the years.", "last"
        )
    if not typed.carrier.strip():
        raise IntakeError("carrier: say what was billed: electricity, gas, oil …", "carrier")
    if typed.amount < 0:
        raise IntakeError("amount: a bill is of zero or more.", "amount")
    if typed.kwh_per_unit <= 0:
        raise IntakeError("kWh in one: a unit holds more than 0 kWh.", "kwh_per_unit")
    if typed.meter is not None and typed.meter not in {
        m.name for m in system.installation.electricity
    }:
        raise IntakeError(f"meter: no electricity meter is called '{typed.meter[:40]}'.", "meter")
    content = {k: v for k, v in asdict(typed).items() if k not in ("id", "first", "last")}
    content["carrier"] = typed.carrier.strip().lower()[:40]
    stop = instant_of(last + timedelta(days=1), zone)
    one = Written(typed.id, Entry.Kind.BILL, instant_of(first, zone), stop, content)
    said = f"bill of {content['carrier']}, {first} to {last}"
    write(system, request.user, said if typed.id is None else f"{said} changed", [one])
    renew(system, request.user)
    return bills(request, pk)


def _days(start: float, stop: float, zone: ZoneInfo) -> tuple[str, str]:
    return str(wall_clock(start, zone).date()), str(wall_clock(stop - 1, zone).date())


# --- history --------------------------------------------------------------------------------


@router.get("/systems/{pk}/history", response=list[ChangeShown])
def history(request: HttpRequest, pk: int) -> list[ChangeShown]:
    """All that was logged and undone, the latest first."""
    system = get_system(pk)
    found = [_change(change) for change in system.changes.select_related("user")[:200]]
    for batch in system.imports.order_by("-pk")[:200]:
        kind = "live" if batch.logger_id else "import"
        words = f"{batch.file}, {batch.rows:,} rows"
        undone = batch.state != Import.State.STORED
        found.append(ChangeShown(kind, batch.pk, batch.created.timestamp(), words, None, undone))
    return sorted(found, key=lambda one: -one.time)


@router.post("/changes/{key}/turn", response=ChangeShown)
def turn_change(request: HttpRequest, key: int) -> ChangeShown:
    """Undoes a change of entries by hand, or does it again."""
    change = Change.objects.filter(pk=key).select_related("system", "user").first()
    if change is None:
        raise NotThere(f"There is no change {key}.")
    turn(change)
    change.refresh_from_db()
    if COUNTED & {one["kind"] for one in (*change.before, *change.after)}:
        renew(change.system, request.user)
    return _change(change)


def _change(change: Change) -> ChangeShown:
    user = change.user.get_username() if change.user else None
    return ChangeShown(
        "by hand", change.pk, change.created.timestamp(), change.words, user, change.undone
    )
