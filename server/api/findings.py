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

from ember.basis.codes import FindingCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, symbol
from ember.description.as_json import installation_from_json, thresholds_from_json
from ember.description.thresholds import THRESHOLDS_LIMITS, Thresholds
from ember.diagnosis import Finding, NotJudged, table_or_house
from ember.diagnosis.cached import from_json
from ember.messages import Source, finding_name
from server.api.files import attachment, harmless
from server.api.fleet import get_system
from server.api.typed import Text
from server.assessments.asis import as_shown, shape_of
from server.assessments.cache import renew, state_of
from server.assessments.finding_status import put
from server.assessments.models import CachedResults, FindingEvent, FindingStatus, NewsSeen
from server.systems.models import System

router = Router(tags=["findings"])
FindingOut: Any = shape_of(Finding)
NotJudgedOut: Any = shape_of(NotJudged)
NEWS = 50


@dataclass(frozen=True)
class FindingEventShown:
    """What happened to a finding. at [s]; by : nobody where the evidence itself did it."""

    code: str
    state: str
    words: str
    at: float
    by: str | None


@dataclass(frozen=True)
class FindingStatusShown:
    """Where a finding stands. came_back : since it was last closed."""

    code: str
    name: str
    state: str
    sentence: str
    reason: str
    fixed_on: str | None
    changed: float
    came_back: bool
    events: list[FindingEventShown]


@dataclass(frozen=True)
class SiblingShown:
    """A system with the same rated table, and its performance ratio."""

    id: int
    name: str
    ratio: float
    U: float


@dataclass(frozen=True)
class FindingsShown:
    """Findings in the order in which to look at them; statuses by code, those of findings that are
    gone too. not_judged : what is not looked for. siblings : of the same rated table."""

    made: bool
    stale: bool
    findings: list[FindingOut]
    not_judged: list[NotJudgedOut]
    statuses: list[FindingStatusShown]
    siblings: list[SiblingShown]


@dataclass(frozen=True)
class FindingStatusAsked:
    """Where a finding shall stand. fixed_on : local date, for fixed."""

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
    """The cached findings of a system with where each stands."""
    cached = (
        CachedResults.objects.filter(system=system).only("findings", "made_from", "type").first()
    )
    if cached is None or not cached.findings:
        return FindingsShown(False, True, [], [], _statuses(system), [])
    found = from_json(cached.findings)
    siblings = _siblings(system, cached.type)
    limit = system.installation.thresholds.below_rated
    made = [_with_siblings(f, siblings, limit) for f in found.findings]
    return FindingsShown(
        True,
        cached.made_from != state_of(system),
        [as_shown(f) for f in made],
        [as_shown(s) for s in found.not_judged],
        _statuses(system),
        siblings,
    )


def _with_siblings(finding: Finding, siblings: list[SiblingShown], limit: float) -> Finding:
    """A finding against the rated table, with what its siblings say of the table."""
    if finding.code != FindingCode.BELOW_RATED:
        return finding
    others = [
        (
            s.name,
            Estimate(
                s.ratio,
                "",
                (UncertaintyComponent(Source(SourceCode.METHOD, detail="its own"), s.U / 2),),
            ),
        )
        for s in siblings
    ]
    cause = table_or_house(finding.evidence[0].measured, others, limit)
    first = (cause, *finding.causes) if cause.speaks_for else (*finding.causes, cause)
    return replace(finding, causes=first)


def _siblings(system: System, type_: str) -> list[SiblingShown]:
    if not type_:
        return []
    rows = (
        CachedResults.objects.filter(type=type_)
        .exclude(system=system)
        .values_list("system_id", "system__name", "row")
    )
    found = []
    for pk, name, row in rows:
        value = orjson.loads(row)
        actions = [FindingCode(one["code"]) for one in value["foremost"]["actions"]]
        ill = any(code.of_metering for code in actions)
        if value["ratio"] is not None and not ill:
            found.append(SiblingShown(pk, name, value["ratio"]["value"], value["ratio"]["U"]))
    return found


def _statuses(system: System) -> list[FindingStatusShown]:
    return [
        FindingStatusShown(
            code=status.code,
            name=finding_name(FindingCode(status.code)),
            state=status.state,
            sentence=status.sentence,
            reason=status.reason,
            fixed_on=status.fixed_on.isoformat() if status.fixed_on else None,
            changed=status.changed.timestamp(),
            came_back=status.state == FindingStatus.State.NEW
            and any("came back" in e.words for e in events[:1]),
            events=[_event(status.code, e) for e in events],
        )
        for status in system.statuses.prefetch_related("events__user").order_by("code")
        for events in [list(status.events.all())]
    ]


def _event(code: str, event: FindingEvent) -> FindingEventShown:
    by = event.user.get_username() if event.user else None
    return FindingEventShown(code, event.state, event.words, event.at.timestamp(), by)


@router.put("/systems/{pk}/findings/{code}", response=FindingsShown)
def put_status(
    request: HttpRequest, pk: int, code: str, asked: Body[FindingStatusAsked]
) -> FindingsShown:
    """Accepts, dismisses, marks as fixed, or opens a finding again."""
    system = get_system(pk)
    put(system, code, asked.state, asked.reason, asked.fixed_on, request.user)
    return shown(system)


@router.get("/systems/{pk}/thresholds", response=ThresholdsShown)
def limits(request: HttpRequest, pk: int) -> ThresholdsShown:
    """The thresholds of the rules, in force for a system."""
    return _limits(get_system(pk))


@router.patch("/systems/{pk}/thresholds", response=ThresholdsShown)
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
    assert {limit.name for limit in THRESHOLDS_LIMITS} == {f.name for f in fields(Thresholds)}
    return ThresholdsShown(
        [
            ThresholdShown(
                limit.name,
                limit.words,
                "%" if limit.unit == "fraction" else symbol(limit.unit),
                getattr(mine, limit.name),
                getattr(usual, limit.name),
                limit.source,
            )
            for limit in THRESHOLDS_LIMITS
        ]
    )


FINDINGS_HEAD = (
    "system", "finding", "weight", "stands", "sentence", "evidence", "measured", "U (k = 2)",
    "threshold", "lost in the period [kWh]", "money lost in the period", "kWh a year",
    "money a year", "currency", "next check", "who",
)  # fmt: skip


@router.get("/findings.csv")
def findings_csv(request: HttpRequest) -> HttpResponse:
    """Every finding of every system, one a row, as CSV."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(FINDINGS_HEAD)
    states = {(x.system_id, x.code): x.state for x in FindingStatus.objects.all()}
    for cached in CachedResults.objects.select_related("system").order_by("-lost", "system__name"):
        for f in from_json(cached.findings).findings if cached.findings else ():
            evidence = f.evidence[0]
            money = f.money_a_year or f.money_lost
            row = [
                harmless(cached.system.name),
                f.name,
                f.weight.value,
                states.get((cached.system_id, f.code), "new"),
                harmless(f.sentence),
                evidence.words,
                f"{evidence.measured.value:.6g}",
                f"{evidence.measured.U:.6g}",
                f"{evidence.threshold:g}",
                *(
                    f"{e.value:.2f}" if e else ""
                    for e in (f.lost, f.money_lost, f.kwh_a_year, f.money_a_year)
                ),
                money.unit if money else "",
                f.next_check,
                f.who,
            ]
            writer.writerow(row)
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment("findings", "csv")
    return response


@router.get("/news", response=News)
def news(request: HttpRequest) -> News:
    """Findings that are new or came back since this user last looked."""
    user: Any = request.user
    news_seen = NewsSeen.objects.filter(user=user).first()
    events = FindingEvent.objects.filter(state=FindingStatus.State.NEW, user=None)
    if news_seen is not None:
        events = events.filter(at__gt=news_seen.at)
    events = events.filter(status__state=FindingStatus.State.NEW).select_related("status__system")
    lines = [
        NewsLine(
            e.status.system_id,
            e.status.system.name,
            e.status.code,
            finding_name(FindingCode(e.status.code)),
            e.status.sentence,
            e.words,
            e.at.timestamp(),
        )
        for e in events[:NEWS]
    ]
    return News(news_seen.at.timestamp() if news_seen else None, lines)


@router.put("/news/seen", response=News)
def seen(request: HttpRequest) -> News:
    """Says that the news are seen."""
    user: Any = request.user
    NewsSeen.objects.update_or_create(user=user, defaults={"at": timezone.now()})
    return news(request)
