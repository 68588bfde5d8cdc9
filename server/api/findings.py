"""Findings of a system: what was found, where each stands, its history, and the limits in force."""

import csv
from dataclasses import dataclass, fields, replace
from datetime import date
from io import StringIO
from typing import Any

import orjson
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Body, Router

from ember.basis.codes import FindingCode
from ember.basis.quantity import Estimate, Part, symbol
from ember.description.as_json import installation_from_json, thresholds_from_json
from ember.description.thresholds import LIMITS, Thresholds
from ember.diagnosis import Finding, NotJudged, table_or_house
from ember.diagnosis.kept import from_json
from ember.messages import FINDINGS
from server.analysis.asis import as_shown, shape_of
from server.analysis.keep import renew, state_of
from server.analysis.lives import put
from server.analysis.models import Kept, Life, LifeEvent, Look
from server.api.files import attachment, harmless
from server.api.fleet import get_system
from server.api.typed import Text
from server.installations.models import System

router = Router(tags=["findings"])
FindingOut: Any = shape_of(Finding)
NotJudgedOut: Any = shape_of(NotJudged)
NEWS = 50


@dataclass(frozen=True)
class LifeEventShown:
    """What happened to a finding. at [s]; by : nobody where the evidence itself did it."""

    code: str
    state: str
    words: str
    at: float
    by: str | None


@dataclass(frozen=True)
class LifeShown:
    """Where a finding stands. came_back : since it was last closed."""

    code: str
    name: str
    state: str
    sentence: str
    reason: str
    fixed_on: str | None
    changed: float
    came_back: bool
    events: list[LifeEventShown]


@dataclass(frozen=True)
class SiblingShown:
    """A system with the same rated table, and its performance ratio."""

    id: int
    name: str
    ratio: float
    U: float


@dataclass(frozen=True)
class FindingsShown:
    """Findings in the order in which to look at them; lives by code, those of findings that are
    gone too. not_judged : what is not looked for. siblings : of the same rated table."""

    made: bool
    stale: bool
    findings: list[FindingOut]
    not_judged: list[NotJudgedOut]
    lives: list[LifeShown]
    siblings: list[SiblingShown]


@dataclass(frozen=True)
class LifeAsked:
    """Where a finding shall stand. fixed_on : local date, for fixed."""

    code: str
    state: str
    reason: Text
    fixed_on: date | None


@dataclass(frozen=True)
class ThresholdShown:
    """A threshold. value : in force; default : with its source."""

    name: str
    words: str
    unit: str
    value: float
    default: float
    source: str


@dataclass(frozen=True)
class ThresholdsShown:
    """Every threshold of the rules."""

    limits: list[ThresholdShown]


@dataclass(frozen=True)
class Changed:
    """Thresholds by name."""

    values: dict[str, float]


@dataclass(frozen=True)
class NewsLine:
    """Something new about a finding of some system."""

    system: int
    name: str
    code: str
    finding: str
    sentence: str
    words: str
    at: float


@dataclass(frozen=True)
class News:
    """What is new in the fleet since somebody last looked; since : None for never."""

    since: float | None
    lines: list[NewsLine]


@router.get("/systems/{pk}/findings", response=FindingsShown)
def findings(request: HttpRequest, pk: int) -> FindingsShown:
    """What was found, of the latest year or the whole record."""
    return shown(get_system(pk))


def shown(system: System) -> FindingsShown:
    """The kept findings of a system with their lives."""
    kept = Kept.objects.filter(system=system).only("findings", "made_from", "type").first()
    if kept is None or not kept.findings:
        return FindingsShown(False, True, [], [], _lives(system), [])
    found = from_json(kept.findings)
    siblings = _siblings(system, kept.type)
    limit = system.installation.thresholds.below_rated
    made = [_with_siblings(f, siblings, limit) for f in found.findings]
    return FindingsShown(
        True, kept.made_from != state_of(system), [as_shown(f) for f in made],
        [as_shown(s) for s in found.not_judged], _lives(system), siblings,
    )  # fmt: skip


def _with_siblings(finding: Finding, siblings: list[SiblingShown], limit: float) -> Finding:
    """A finding against the rated table, with what its siblings say of the table."""
    if finding.code != FindingCode.BELOW_RATED:
        return finding
    others = [(s.name, Estimate(s.ratio, "", (Part("its own", s.U / 2),))) for s in siblings]
    cause = table_or_house(finding.evidence[0].measured, others, limit)
    first = (cause, *finding.causes) if cause.speaks_for else (*finding.causes, cause)
    return replace(finding, causes=first)


def _siblings(system: System, type_: str) -> list[SiblingShown]:
    if not type_:
        return []
    rows = (
        Kept.objects.filter(type=type_)
        .exclude(system=system)
        .values_list("system_id", "system__name", "row")
    )
    found = []
    for pk, name, row in rows:
        value = orjson.loads(row)
        acts = [FindingCode(one["code"]) for one in value["foremost"]["acts"]]
        ill = any(code.of_metering for code in acts)
        if value["ratio"] is not None and not ill:
            found.append(SiblingShown(pk, name, value["ratio"]["value"], value["ratio"]["U"]))
    return found


def _lives(system: System) -> list[LifeShown]:
    return [
        LifeShown(
            life.code, FINDINGS[FindingCode(life.code)], life.state, life.sentence, life.reason,
            life.fixed_on.isoformat() if life.fixed_on else None, life.changed.timestamp(),
            life.state == Life.State.NEW and any("came back" in e.words for e in events[:1]),
            [_event(life.code, e) for e in events],
        )
        for life in system.lives.prefetch_related("events__user").order_by("code")
        for events in [list(life.events.all())]
    ]  # fmt: skip


def _event(code: str, event: LifeEvent) -> LifeEventShown:
    by = event.user.get_username() if event.user else None
    return LifeEventShown(code, event.state, event.words, event.at.timestamp(), by)


@router.post("/systems/{pk}/findings/life", response=FindingsShown)
def live(request: HttpRequest, pk: int, asked: Body[LifeAsked]) -> FindingsShown:
    """Accepts, dismisses, marks as fixed, or opens a finding again."""
    system = get_system(pk)
    put(system, asked.code, asked.state, asked.reason, asked.fixed_on, request.user)
    return shown(system)


@router.get("/systems/{pk}/limits", response=ThresholdsShown)
def limits(request: HttpRequest, pk: int) -> ThresholdsShown:
    """The thresholds of the rules, in force for a system."""
    return _limits(get_system(pk))


@router.post("/systems/{pk}/limits", response=ThresholdsShown)
def change(request: HttpRequest, pk: int, asked: Body[Changed]) -> ThresholdsShown:
    """Changes thresholds of a system; its findings are worked out anew."""
    system = get_system(pk)
    value = orjson.loads(system.description)
    given = {**value.get("thresholds", {}), **asked.values}
    thresholds_from_json(given)
    value["thresholds"] = given
    system.put(installation_from_json(orjson.dumps(value), system.name), request.user)
    renew(system, request.user)
    return _limits(system)


def _limits(system: System) -> ThresholdsShown:
    mine, usual = system.installation.thresholds, Thresholds()
    assert {limit.name for limit in LIMITS} == {f.name for f in fields(Thresholds)}
    return ThresholdsShown([
        ThresholdShown(
            limit.name, limit.words, "%" if limit.unit == "fraction" else symbol(limit.unit),
            getattr(mine, limit.name), getattr(usual, limit.name), limit.source,
        )
        for limit in LIMITS
    ])  # fmt: skip


HEAD = (
    "system", "finding", "weight", "stands", "sentence", "evidence", "measured", "U (k = 2)",
    "threshold", "lost in the period [kWh]", "money lost in the period", "kWh a year",
    "money a year", "currency", "next check", "who",
)  # fmt: skip


@router.get("/findings.csv")
def findings_csv(request: HttpRequest) -> HttpResponse:
    """Every finding of every system, one a row, as CSV."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEAD)
    states = {(x.system_id, x.code): x.state for x in Life.objects.all()}
    for kept in Kept.objects.select_related("system").order_by("-lost", "system__name"):
        for f in from_json(kept.findings).findings if kept.findings else ():
            evidence = f.evidence[0]
            money = f.money_a_year or f.money_lost
            row = [
                harmless(kept.system.name), f.name, f.weight.value,
                states.get((kept.system_id, f.code), "new"), harmless(f.sentence), evidence.words,
                f"{evidence.measured.value:.6g}", f"{evidence.measured.U:.6g}",
                f"{evidence.threshold:g}",
                *(f"{e.value:.2f}" if e else "" for e in (f.lost, f.money_lost, f.kwh_a_year,
                                                           f.money_a_year)),
                money.unit if money else "", f.next_check, f.who,
            ]  # fmt: skip
            writer.writerow(row)
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment("findings", "csv")
    return response


@router.get("/news", response=News)
def news(request: HttpRequest) -> News:
    """Findings that are new or came back since this user last looked."""
    user: Any = request.user
    look = Look.objects.filter(user=user).first()
    events = LifeEvent.objects.filter(state=Life.State.NEW, user=None)
    if look is not None:
        events = events.filter(at__gt=look.at)
    events = events.filter(life__state=Life.State.NEW).select_related("life__system")
    lines = [
        NewsLine(
            e.life.system_id, e.life.system.name, e.life.code, FINDINGS[FindingCode(e.life.code)],
            e.life.sentence, e.words,
            e.at.timestamp(),
        )
        for e in events[:NEWS]
    ]  # fmt: skip
    return News(look.at.timestamp() if look else None, lines)


@router.post("/news/seen", response=News)
def seen(request: HttpRequest) -> News:
    """Says that the news are seen."""
    user: Any = request.user
    Look.objects.update_or_create(user=user, defaults={"at": timezone.now()})
    return news(request)
