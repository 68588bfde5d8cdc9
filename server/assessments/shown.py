"""The types that travel: results of the core, flat enough for a screen.

Instants are seconds since 1970, UTC; units are those of the core. No field has a default, so
that none is optional on the other side.
"""

from dataclasses import dataclass, fields
from typing import Any

from ember.balance.sums import PeriodFigures, ServiceSum
from ember.basis.codes import CheckCode, SourceCode
from ember.basis.periods import WHOLE_RECORD
from ember.basis.quantity import Estimate
from ember.comparison.performance_ratio import Comparison, Verdict, stands_at
from ember.corrections.applied import words
from ember.cost import Cost
from ember.description.as_json import correction_to_json
from ember.description.installation import Service
from ember.messages import Reason
from ember.reckoning import Reckoning
from ember.trust import Check, Effect


@dataclass(frozen=True)
class PartShown:
    """One source's share of an uncertainty; u is k = 1, with its sign. random : it errs anew each
    time, as opposed to systematic."""

    code: SourceCode
    of: str
    detail: str
    source: str
    u: float
    random: bool


@dataclass(frozen=True)
class FigureShown:
    """A figure with its U (k = 2). decimals : that U allows; null where no U is known."""

    value: float
    unit: str
    U: float
    decimals: int | None
    budget: list[PartShown]


@dataclass(frozen=True)
class LineShown:
    """One line of a sum."""

    name: str
    loads: str
    energy: FigureShown


@dataclass(frozen=True)
class LeftShown:
    """Time that is not in a sum, and why."""

    reason: Reason
    seconds: float


@dataclass(frozen=True)
class ReckoningShown:
    """The sum a person could do by hand."""

    level: str
    start: float
    stop: float
    seconds: float
    covered: float
    coverage: float
    method: str
    heat_meters: list[str]
    heat_lines: list[LineShown]
    heat: FigureShown | None
    electricity_lines: list[LineShown]
    electricity: FigureShown
    cop: FigureShown | None
    gross_cop: FigureShown | None
    standby: FigureShown
    left_out: list[LeftShown]
    reason: Reason | None


@dataclass(frozen=True)
class ServiceShown:
    """One service by its own meters. what : its figure in words; null reckoning with the reason."""

    service: str
    what: str
    reckoning: ReckoningShown | None
    reason: Reason | None


@dataclass(frozen=True)
class BetweenShown:
    """The range of a COP that lacks a meter: if what is missing takes a usual power."""

    low: FigureShown
    high: FigureShown
    words: str


@dataclass(frozen=True)
class LevelShown:
    """A boundary level with its Reckoning, or why there is none and between what it may lie.
    whole : the COP taken for the whole period, gaps included; null where nothing is missing."""

    level: str
    words: str
    reason: Reason | None
    reckoning: ReckoningShown | None
    between: BetweenShown | None
    whole: FigureShown | None


@dataclass(frozen=True)
class ComparisonShown:
    """Measured against rated over the running that fits the table. stands_at : at which level, what
    was assumed and left out, in words."""

    measured: ReckoningShown
    rated_cop: FigureShown
    ratio: FigureShown
    hours: float
    outside_table: float
    span: str
    stands_at: list[str]
    with_heater: FigureShown | None
    heater_hours: float


@dataclass(frozen=True)
class VerdictShown:
    """A verdict with its sentence. doubted : there is a ratio, but Trust doubts it."""

    kind: str
    sentence: str
    doubted: bool


@dataclass(frozen=True)
class BandCostShown:
    """What was paid at one price, with VAT. since : from which local date that holds; on_top : of a
    tier, whose electricity stands in the other rows already."""

    band: str
    electricity: FigureShown
    price: float
    money: FigureShown
    since: str | None
    on_top: bool


@dataclass(frozen=True)
class CostShown:
    """Running cost."""

    currency: str
    bands: list[BandCostShown]
    standing: float
    total: FigureShown
    average_price: float | None
    covered: float


@dataclass(frozen=True)
class SpanShown:
    """A stretch of time in local words."""

    name: str
    start: float
    stop: float


@dataclass(frozen=True)
class PointsShown:
    """Points of a picture."""

    name: str
    x: list[float]
    y: list[float | None]
    style: str


@dataclass(frozen=True)
class LimitShown:
    """A horizontal line of a picture."""

    name: str
    value: float


@dataclass(frozen=True)
class PictureShown:
    """What shows a check. time : x is instants [s]."""

    x_label: str
    y_label: str
    time: bool
    series: list[PointsShown]
    limits: list[LimitShown]


@dataclass(frozen=True)
class ProposalShown:
    """A correction that may be accepted: in words, and as it goes into the description."""

    words: str
    correction: dict[str, Any]


@dataclass(frozen=True)
class EffectShown:
    """Figures of the record at the widest level before and after what is proposed."""

    heat_now: FigureShown | None
    heat_then: FigureShown | None
    electricity_now: FigureShown | None
    electricity_then: FigureShown | None
    cop_now: FigureShown | None
    cop_then: FigureShown | None
    ratio_now: FigureShown | None
    ratio_then: FigureShown | None


@dataclass(frozen=True)
class CheckShown:
    """One check of the metering. affects : what is in doubt if it is not sound; whole : it is of
    the whole record, and not of single spans."""

    code: CheckCode
    name: str
    soundness: str
    sentence: str
    whole: bool
    spans: list[SpanShown]
    remedy: str
    affects: list[str]
    proposals: list[ProposalShown]
    effect: EffectShown | None
    picture: PictureShown | None


def figure(estimate: Estimate | None) -> FigureShown | None:
    """An Estimate, or nothing."""
    return None if estimate is None else known(estimate)


def known(estimate: Estimate) -> FigureShown:
    """An Estimate."""
    parts = [PartShown(*part.cause, part.source, part.u, part.random) for part in estimate.budget]
    return FigureShown(estimate.value, estimate.unit, estimate.U, estimate.decimals, parts)


def service(found: ServiceSum) -> ServiceShown:
    """A service's sums."""
    name = "EER" if found.service == Service.COOLING else "COP"
    shown = reckoning(found.reckoning) if found.reckoning else None
    at = f", {name} at {shown.level}" if shown else ""
    return ServiceShown(
        found.service.value, found.service.words.capitalize() + at, shown, found.reason
    )


def reckoning(found: Reckoning) -> ReckoningShown:
    """A Reckoning."""
    return ReckoningShown(
        level=found.level.value,
        start=found.start,
        stop=found.stop,
        seconds=found.seconds,
        covered=found.covered,
        coverage=found.coverage,
        method=found.method,
        heat_meters=list(found.heat_meters),
        heat_lines=[
            LineShown(line.name, line.loads, known(line.energy)) for line in found.heat_lines
        ],
        heat=figure(found.heat),
        electricity_lines=[
            LineShown(line.name, line.loads, known(line.energy)) for line in found.electricity_lines
        ],
        electricity=known(found.electricity),
        cop=figure(found.cop),
        gross_cop=figure(found.gross_cop),
        standby=known(found.standby),
        left_out=[LeftShown(left.reason, left.seconds) for left in found.left_out],
        reason=found.reason,
    )


def comparison(found: Comparison | None) -> ComparisonShown | None:
    """A Comparison, or nothing."""
    if found is None:
        return None
    return ComparisonShown(
        measured=reckoning(found.measured),
        rated_cop=known(found.rated_cop),
        ratio=known(found.ratio),
        hours=found.hours,
        outside_table=found.outside_table,
        span=found.span,
        stands_at=list(stands_at(found)),
        with_heater=figure(found.with_heater),
        heater_hours=found.heater_hours,
    )


def verdict(found: Verdict) -> VerdictShown:
    """A Verdict."""
    return VerdictShown(found.kind.value, found.sentence, found.doubted)


def cost(found: Cost | None) -> CostShown | None:
    """A Cost, or nothing."""
    if found is None:
        return None
    bands = [
        BandCostShown(b.band, known(b.electricity), b.price, known(b.money), b.since, b.on_top)
        for b in found.bands
    ]
    return CostShown(
        found.currency,
        bands,
        found.standing,
        known(found.total),
        found.average_price,
        found.covered,
    )


def check(found: Check, picture: bool = False) -> CheckShown:
    """A Check; picture : with what shows it."""
    spans = [SpanShown(span.name, span.start, span.stop) for span in found.spans]
    proposals = [ProposalShown(words(p), correction_to_json(p)) for p in found.proposals]
    effect = None
    if found.effect is not None:
        effect = EffectShown(*(figure(getattr(found.effect, f.name)) for f in fields(Effect)))
    shown = None
    if picture and found.picture is not None:
        drawn = found.picture
        shown = PictureShown(
            drawn.x_label,
            drawn.y_label,
            drawn.time,
            [PointsShown(s.name, list(s.x), list(s.y), s.style) for s in drawn.series],
            [LimitShown(name, value) for name, value in drawn.limits],
        )
    return CheckShown(
        code=found.code,
        name=found.name,
        soundness=found.soundness.value,
        sentence=found.sentence,
        whole=any(span.name == WHOLE_RECORD for span in found.spans),
        spans=spans,
        remedy=found.remedy,
        affects=[t.value for t in found.affects],
        proposals=proposals,
        effect=effect,
        picture=shown,
    )


def widest(figures: PeriodFigures) -> ReckoningShown | None:
    """The Reckoning of a period at the widest level there is."""
    return reckoning(figures.reckonings[-1]) if figures.reckonings else None
