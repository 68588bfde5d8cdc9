"""What is kept of a system as the API gives it: its row in the fleet, and its days."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from ember.balance.days import DayFigures, DayKind
from ember.basis.codes import FindingCode, ReasonCode
from ember.description.installation import Installation, UnitKind
from ember.diagnosis import Foremost, foremost
from ember.messages import Reason, because, finding_name
from ember.rated import by_table_alone
from ember.rated.scop import least_share
from ember.views.standing import Standing
from server.assessments.shown import FigureShown, figure

LETTER = {
    DayKind.BELOW_RATED: "b",
    DayKind.WATCH: "w",
    DayKind.AS_RATED: "r",
    DayKind.BETTER: "t",
    DayKind.NOT_COMPARED: "n",
    DayKind.DOUBTFUL: "d",
    DayKind.LEFT_OUT: "x",
    DayKind.NO_DATA: "o",
}
KIND_WORDS = {
    UnitKind.AIR_TO_WATER: "air-to-water",
    UnitKind.GROUND_SOURCE: "ground-source",
    UnitKind.AIR_TO_AIR_SINGLE: "air-to-air",
    UnitKind.AIR_TO_AIR_MULTI_HEAD: "air-to-air, several heads",
    UnitKind.AIR_TO_AIR_DUCTED: "air-to-air, ducted",
}
STRIP = 366  # days of a fleet's strip


@dataclass(frozen=True)
class Strip:
    """The latest year day by day. kinds : one letter a day (b below rated, w watch, r as rated,
    t better, n not compared, d doubtful, x left out, o no data); kwh : all metered electricity."""

    first: str
    kinds: str
    kwh: list[float | None]


@dataclass(frozen=True)
class FindingNamed:
    """A finding by its code, and in words."""

    code: FindingCode
    name: str


@dataclass(frozen=True)
class ForemostShown:
    """What of the open findings goes into the row. sentence : of the first. actions, advisories :
    in order.
    money, kwh : what the dearest costs, a_year or in the period. sort : by which the fleet is
    sorted, in kWh, since currencies may differ."""

    sentence: str | None
    actions: list[FindingNamed]
    advisories: list[FindingNamed]
    dearest: FindingNamed | None
    money: FigureShown | None
    kwh: FigureShown | None
    a_year: bool
    sort: float


def _named(codes: Sequence[FindingCode]) -> list[FindingNamed]:
    return [FindingNamed(code, finding_name(code)) for code in codes]


def foremost_shown(found: Foremost) -> ForemostShown:
    """What of the findings goes into a row."""
    a_year = found.kwh_a_year is not None
    money = found.money_a_year if a_year else found.money_lost
    kwh = found.kwh_a_year if a_year else found.lost
    return ForemostShown(
        sentence=found.sentence,
        actions=_named(found.actions),
        advisories=_named(found.advisories),
        dearest=_named([found.dearest])[0] if found.dearest else None,
        money=figure(money),
        kwh=figure(kwh),
        a_year=a_year,
        sort=kwh.value if kwh else 0.0,
    )


@dataclass(frozen=True)
class FleetSystem:
    """A system on the fleet's common axes, as it was when its figures were made.

    of : the period of the SPF, in words. expected : the SPF if the compared running met the table;
    ratio : the performance ratio; compared_at : at which level, and what was assumed.
    """

    name: str
    unit: str
    zone: str
    level: str | None
    of: str | None
    of_start: float | None
    of_stop: float | None
    spf: FigureShown | None
    reason: Reason | None
    coverage: float | None
    expected: FigureShown | None
    ratio: FigureShown | None
    compared_at: list[str]
    verdict: str
    sentence: str
    metering: str
    metering_words: str
    metering_line: str
    foremost: ForemostShown
    first: float | None
    last: float | None
    strip: Strip | None


@dataclass(frozen=True)
class DaysShown:
    """Every local day of a record, as lists. start : instants, one more than days. kinds : as in
    Strip. U and cop_U : k = 2."""

    day: list[str]
    start: list[float]
    kinds: str
    kwh: list[float | None]
    kwh_U: list[float | None]
    cop: list[float | None]
    cop_U: list[float | None]
    ratio: list[float | None]
    ratio_U: list[float | None]
    coverage: list[float]


def unit_words(installation: Installation) -> str:
    """The unit by its type and size."""
    kind = KIND_WORDS[installation.unit.kind]
    size = installation.unit.capacity_kw
    return f"{kind} {size:g} kW" if size else kind


def before_any(installation: Installation) -> str | None:
    """What the rated table says of a system of which nothing is logged; None where it says
    nothing."""
    if installation.rated is None:
        return None
    unit = installation.unit
    return by_table_alone(
        installation.rated, installation.house, unit.low_outdoor_limit, least_share(installation)
    )


def fleet_system(
    installation: Installation, stand: Standing | None, days: list[DayFigures]
) -> FleetSystem:
    """A row from what was worked out; without it, one that says what to do."""
    known = before_any(installation) if stand is None else None
    empty = FleetSystem(
        name=installation.name,
        unit=unit_words(installation),
        zone=installation.zone,
        level=None,
        of=None,
        of_start=None,
        of_stop=None,
        spf=None,
        reason=None,
        coverage=None,
        expected=None,
        ratio=None,
        compared_at=[],
        verdict="no verdict",
        sentence=f"No readings yet. {known}" if known else "No readings yet: import a log.",
        metering="not checkable",
        metering_words="no data",
        metering_line="nothing is logged yet",
        foremost=foremost_shown(foremost(())),
        first=None,
        last=None,
        strip=None,
    )
    if stand is None:
        return empty
    spf, latest = stand.spf, days[-STRIP:]
    kwh = [round(e.value, 2) if (e := day.electricity) else None for day in latest]
    return replace(
        empty,
        level=spf.level.value if spf else None,
        of=stand.of,
        of_start=stand.start,
        of_stop=stand.stop,
        spf=figure(spf.cop) if spf else None,
        reason=spf.reason if spf else because(ReasonCode.NO_LEVEL),
        coverage=spf.coverage if spf else None,
        expected=figure(stand.expected),
        ratio=figure(stand.ratio),
        compared_at=list(stand.compared_at),
        verdict=stand.verdict.value,
        sentence=stand.sentence,
        metering=stand.metering.value,
        metering_words=stand.metering_words,
        metering_line=stand.metering_line,
        foremost=foremost_shown(stand.foremost),
        first=days[0].start,
        last=days[-1].stop,
        strip=Strip(latest[0].day, "".join(LETTER[day.kind] for day in latest), kwh),
    )


def days_shown(days: list[DayFigures]) -> DaysShown:
    """The days as lists."""

    def column(name: str, what: str) -> list[float | None]:
        found = (getattr(day, name) for day in days)
        return [estimate and getattr(estimate, what) for estimate in found]

    assert all(one.stop == other.start for one, other in pairwise(days))
    return DaysShown(
        day=[day.day for day in days],
        start=[*(day.start for day in days), days[-1].stop],
        kinds="".join(LETTER[day.kind] for day in days),
        kwh=column("electricity", "value"),
        kwh_U=column("electricity", "U"),
        cop=column("cop", "value"),
        cop_U=column("cop", "U"),
        ratio=column("ratio", "value"),
        ratio_U=column("ratio", "U"),
        coverage=[day.coverage for day in days],
    )
