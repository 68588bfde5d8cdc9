"""Trust: whether the metering can be believed, what was corrected, and how heat was measured."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import orjson
from django.http import HttpRequest
from ninja import Body, Router

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import figures
from ember.basis.calendar import months
from ember.basis.channels import quantity_of
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
from ember.basis.quantity import conversion, symbol
from ember.basis.series import Floats
from ember.corrections.applied import words
from ember.description.as_json import (
    correction_from_json,
    correction_to_json,
    installation_from_json,
)
from ember.description.installation import Correction, Installation
from ember.messages import Reason
from ember.metering.tank import TANK_NAME
from ember.reckoning import heat_methods
from ember.trust.register_against_flow import counts_uncorrected
from ember.views.behind import behind, channels_behind
from ember.views.standing import trust_of
from server.api.figures import between, cut_to, span_of
from server.api.fleet import get_system
from server.assessments.cache import CACHE_AROUND, find, renew
from server.assessments.shown import (
    BetweenShown,
    CheckShown,
    FigureShown,
    check,
    figure,
    known,
)
from server.readings.record import has_record, part_of
from server.readings.store import NotThere
from server.systems.models import Description, System

router = Router(tags=["trust"])
PAGE = 240  # readings a page
READ_IN = {"joule": "kWh", "m3_per_s": "L_per_min"}  # as they stand on a display


@dataclass(frozen=True)
class ClaimShown:
    """One thing that may be claimed, or not."""

    what: str
    may: bool
    words: str


@dataclass(frozen=True)
class CorrectionShown:
    """A correction that was accepted: in words, as JSON, since when and by whom."""

    index: int
    words: str
    correction: dict[str, Any]
    since: float | None
    user: str | None


@dataclass(frozen=True)
class MethodShown:
    """One way of measuring heat against the one in use [kWh]."""

    name: str
    method: str
    loads: str
    heat: FigureShown
    other: FigureShown
    ratio: FigureShown | None
    agrees: bool | None
    used: bool
    hours: float
    one_sided: bool


@dataclass(frozen=True)
class ReportedMonth:
    """What the controller reports of a month against the heat meter over the same time [kWh]."""

    name: str
    month: str
    method: MethodShown


@dataclass(frozen=True)
class MissingShown:
    """A level that cannot be computed: why, and between what it may lie."""

    level: str
    reason: Reason
    between: BetweenShown | None


@dataclass(frozen=True)
class TrustShown:
    """The metering of a system over a period."""

    local: str
    stale: bool
    level: str | None
    cop: FigureShown | None
    coverage: float | None
    kind: str
    brief: str
    claims: list[ClaimShown]
    addition: str | None
    checks: list[CheckShown]
    corrections: list[CorrectionShown]
    methods: list[MethodShown]
    reported: list[ReportedMonth]
    missing: list[MissingShown]
    silent: dict[str, Reason]
    channels: list[str]


@dataclass(frozen=True)
class Accepted:
    """Corrections to accept, as JSON."""

    corrections: list[dict[str, Any]]


@dataclass(frozen=True)
class Withdrawn:
    """Corrections to take back, as JSON."""

    corrections: list[dict[str, Any]]


@dataclass(frozen=True)
class CorrectionsShown:
    """All corrections after a change."""

    corrections: list[CorrectionShown]


@dataclass(frozen=True)
class ReadChannel:
    """A channel's readings. corrected : null where they are as logged."""

    channel: str
    unit: str
    logged: list[float | None]
    corrected: list[float | None] | None


@dataclass(frozen=True)
class ReadingsShown:
    """The readings behind a meter's energy, a page of them. time : instants [s]; energy [kWh]."""

    name: str
    method: str
    formula: str
    page: int
    pages: int
    step: int
    time: list[float]
    channels: list[ReadChannel]
    energy: list[float | None]
    state: list[str]
    reason: list[str]


@router.get("/systems/{pk}/trust", response=TrustShown)
def trust(request: HttpRequest, pk: int, start: str, stop: str) -> TrustShown:
    """What can be claimed from the metering of a period, every check, and what was corrected."""
    system = get_system(pk)
    cut = cut_to(system, start, stop)
    analysis, period = cut.analysis, cut.period
    total = figures(analysis, [period])[0]
    state = trust_of(analysis, total)
    facts = analysis.facts
    main = total.reckonings[-1] if total.reckonings else None
    return TrustShown(
        local=period.name,
        stale=cut.stale,
        level=main.level.value if main else None,
        cop=figure(main.cop) if main else None,
        coverage=main.coverage if main else None,
        kind=state.kind.value,
        brief=state.brief,
        claims=[ClaimShown(c.what, c.may, c.words) for c in state.claims],
        addition=state.addition,
        checks=[check(c, picture=True) for c in facts.checks],
        corrections=corrections_of(system),
        methods=_methods(analysis, period),
        reported=_reported(analysis, period),
        missing=[
            MissingShown(
                combination.level.value, combination.reason, between(analysis, combination, period)
            )
            for combination in facts.combinations.values()
            if combination.reason is not None
        ],
        silent=facts.missing,
        channels=list(facts.channels),
    )


def _reported(analysis: RecordAnalysis, period: Period) -> list[ReportedMonth]:
    """Month by month what a controller reports beside what a meter measures."""
    names = [r.name for r in analysis.installation.reported if r.name in analysis.segments.meters]
    if not names:
        return []
    return [
        ReportedMonth(method.name, month.name, method)
        for month in months(period.start, period.stop, analysis.zone)
        for method in _methods(analysis, month)
        if method.name in names and method.ratio is not None
    ]


def _methods(analysis: RecordAnalysis, period: Period) -> list[MethodShown]:
    combinations = analysis.facts.combinations.values()
    combination = next((p for p in reversed(combinations) if p.heat), None)
    if combination is None or analysis.cop_reason:
        return []
    segments = analysis.segments
    electric = {m.name for m in analysis.installation.electricity}
    electric |= {f.name for f in analysis.installation.fixed}
    names = [name for name in segments.meters if name not in electric]
    groups = np.where(segments.within(period.start, period.stop), 0, -1)
    return [
        MethodShown(
            name=w.name,
            method=w.method,
            loads=w.loads,
            heat=known(w.heat),
            other=known(w.other),
            ratio=figure(w.ratio),
            agrees=w.agrees,
            used=w.used,
            hours=w.hours,
            one_sided=w.one_sided,
        )
        for w in heat_methods(
            segments,
            combination,
            names,
            groups,
            (TANK_NAME,),
            counts_uncorrected(analysis.installation),
        )
    ]


def corrections_of(system: System) -> list[CorrectionShown]:
    """The corrections of a system with when and by whom each was accepted."""
    since: dict[str, Description] = {}
    going_on = {_key(correction_to_json(c)) for c in system.installation.corrections}
    for edition in system.history.select_related("user"):  # the latest first
        going_on &= {_key(c) for c in orjson.loads(edition.text).get("corrections", [])}
        since |= dict.fromkeys(going_on, edition)
        if not going_on:
            break
    shown = []
    for k, correction in enumerate(system.installation.corrections):
        value = correction_to_json(correction)
        first = since.get(_key(value))
        user = first.user.get_username() if first and first.user else None
        shown.append(
            CorrectionShown(
                k, words(correction), value, first.created.timestamp() if first else None, user
            )
        )
    return shown


def _key(value: dict[str, Any]) -> str:
    return orjson.dumps(value, option=orjson.OPT_SORT_KEYS).decode()


@router.post("/systems/{pk}/corrections", response=CorrectionsShown)
def accept(request: HttpRequest, pk: int, asked: Body[Accepted]) -> CorrectionsShown:
    """Accepts corrections; the figures are worked out anew. Nothing is stored if one is wrong."""
    system = get_system(pk)
    installation = system.installation
    new = [correction_from_json(value) for value in asked.corrections]
    for one in new:
        if one in installation.corrections:
            raise DescriptionError(f"It is accepted already: {words(one)}.")
        _fits(system, one)
    return _put(system, installation, (*installation.corrections, *new), request)


@router.post("/systems/{pk}/corrections/withdraw", response=CorrectionsShown)
def withdraw(request: HttpRequest, pk: int, asked: Body[Withdrawn]) -> CorrectionsShown:
    """Takes corrections back; the figures are worked out anew."""
    system = get_system(pk)
    installation = system.installation
    gone = [correction_from_json(value) for value in asked.corrections]
    for one in gone:
        if one not in installation.corrections:
            raise DescriptionError(f"It is not among the corrections any more: {words(one)}.")
    left = tuple(c for c in installation.corrections if c not in gone)
    return _put(system, installation, left, request)


def _put(
    system: System,
    installation: Installation,
    corrections: tuple[Correction, ...],
    request: HttpRequest,
) -> CorrectionsShown:
    value = orjson.loads(system.description)
    value["corrections"] = [correction_to_json(c) for c in corrections]
    described = installation_from_json(orjson.dumps(value), system.name)
    system.put(described, request.user)
    renew(system, request.user)
    return CorrectionsShown(corrections_of(system))


def _fits(system: System, correction: Correction) -> None:
    """Raises DescriptionError for a correction of a channel that is not logged."""
    named = [getattr(correction, "channel", None), *getattr(correction, "channels", ())]
    channels = [name for name in named if name is not None]
    if not channels or not has_record(system):
        return
    logged = find(system).analysis.facts.channels
    for channel in channels:
        if channel not in logged:
            raise DescriptionError(
                f"channel: '{channel}' is not logged; there are {', '.join(logged)}."
            )


@router.get("/systems/{pk}/behind", response=ReadingsShown)
def readings(
    request: HttpRequest, pk: int, start: str, stop: str, meter: str, page: int = 0
) -> ReadingsShown:
    """The readings behind a meter's energy, a page at a time."""
    system = get_system(pk)
    found = find(system)
    analysis = found.analysis
    period = span_of(analysis, start, stop)
    step = analysis.segments.step
    pages = max(1, -(-round((period.stop - period.start) / step) // PAGE))
    page = min(max(page, 0), pages - 1)
    since = period.start + page * PAGE * step
    until = min(period.stop, since + PAGE * step)
    try:
        channels_behind(analysis.installation, meter)
        raw = part_of(system, analysis, since - CACHE_AROUND, until + CACHE_AROUND)
        shown = behind(analysis, raw, meter, since, until)
    except LookupError as error:
        raise NotThere(f"{system.name}: {error.args[0]}") from error
    channels = []
    for channel, logged in shown.logged.items():
        corrected = shown.corrected[channel]
        same = np.array_equal(logged, corrected, equal_nan=True)
        unit = READ_IN.get(quantity_of(channel).unit, quantity_of(channel).unit)
        factor = (conversion(quantity_of(channel).unit, unit) or (1.0, 0.0))[0]
        channels.append(
            ReadChannel(
                channel,
                symbol(unit),
                _list(logged * factor),
                None if same else _list(corrected * factor),
            )
        )
    time = (shown.start + shown.step * np.arange(len(shown.energy))).tolist()
    return ReadingsShown(
        name=shown.name,
        method=shown.method,
        formula=shown.formula,
        page=page,
        pages=pages,
        step=shown.step,
        time=time,
        channels=channels,
        energy=_list(shown.energy),
        state=shown.state,
        reason=shown.reason,
    )


def _list(values: Floats) -> list[float | None]:
    return [float(v) if np.isfinite(v) else None for v in values]
