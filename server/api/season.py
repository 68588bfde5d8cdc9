"""Season: months measured and filled, the energy signature, degree-days."""

from dataclasses import dataclass
from typing import Annotated, Literal

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from ninja import File, Router, UploadedFile
from pydantic import Field

from ember.basis.calendar import is_year, year_earlier
from ember.basis.clock import iso_local
from ember.basis.periods import Period
from ember.basis.practice import HEATING_BASE
from ember.basis.quantity import Estimate, exact
from ember.messages import NotAvailable, Reason, reason_of
from ember.operation.within import Within
from ember.season import (
    Avoided,
    DegreeDays,
    MonthSeen,
    SeasonSeen,
    Signature,
    TemperatureBin,
    Worth,
    avoided,
    bins,
    normal_year,
    season_seen,
)
from ember.season.season import Filled
from ember.states.state import State
from ember.views.losses import Loss, losses
from ember.views.modes import modes
from ember.views.peers import peers
from server.api.figures import cut_to
from server.api.files import written_file
from server.api.fleet import get_system
from server.api.for_house import typical_hours
from server.assessments.cache import CachedAnalysis, cut_at, steady
from server.assessments.results import season_table, write_table
from server.assessments.shown import (
    FigureShown,
    ReckoningShown,
    figure,
    known,
    reckoning,
    widest,
)
from server.systems.models import System

router = Router(tags=["rooms"])

Base = Annotated[float, Field(ge=-20, le=40)]
MOSTLY_HELD = 0.95  # of the same days a year earlier, for a comparison, common practice, chosen


@dataclass(frozen=True)
class FilledShown:
    """An estimate of a whole stretch [kWh]; share : of its time that is filled."""

    heat: FigureShown
    electricity: FigureShown
    cop: FigureShown
    share: float


@dataclass(frozen=True)
class DegreeDaysShown:
    """Degree-days below a base [K·d], by the method named, of the days that are known."""

    heating: float
    base: float
    method: str
    days: float


@dataclass(frozen=True)
class SeasonMonth:
    """A month, or the whole, at the widest level. quotient : SPF of a year, else COP; filled : with
    what lacks; its reason where that cannot be told. outdoor : mean [degC]."""

    name: str
    start: float
    stop: float
    quotient: str
    reckoning: ReckoningShown | None
    filled: FilledShown | None
    filled_reason: Reason | None
    outdoor: float | None
    degree_days: DegreeDaysShown | None


@dataclass(frozen=True)
class SignatureShown:
    """Energy a day over the outdoor temperature: base [kWh/d], slope [kWh/(K·d)], knee [degC], null
    where none is seen. outdoor, energy : its days; line_outdoor, line_energy : corners of the line.
    """

    base: FigureShown
    slope: FigureShown
    knee: FigureShown | None
    days: int
    cv: float
    r2: float
    outdoor: list[float]
    energy: list[float]
    line_outdoor: list[float]
    line_energy: list[float]


@dataclass(frozen=True)
class AvoidedShown:
    """What the days before would have used in the weather of the days after, what was used, and the
    difference [kWh]. days : counted; outside : in weather that the days before did not see."""

    expected: FigureShown
    measured: FigureShown
    avoided: FigureShown
    days: int
    outside: int
    worth: Worth


@dataclass(frozen=True)
class SeasonMode:
    """Heating, hot water or cooling alone; quotient : SPF of a year, else COP; EER where it
    cools."""

    name: str
    quotient: str
    hours: float
    reckoning: ReckoningShown


@dataclass(frozen=True)
class LossShown:
    """Electricity that gave no heat, or more of it than is needed [kWh]. share : of all metered;
    paid : at the average price; view : where it is looked into."""

    code: str
    name: str
    formula: str
    electricity: FigureShown
    share: float | None
    paid: FigureShown | None
    view: str


@dataclass(frozen=True)
class PeerShown:
    """What is said beside heating alone. what : SCOP declared, SCOP estimate or expected."""

    what: str
    words: str
    value: float


@dataclass(frozen=True)
class YearBefore:
    """The same days a year earlier; electricity and heat of this period against what the earlier
    days would have used in its weather [kWh]."""

    local: str
    whole: SeasonMonth
    electricity: AvoidedShown | None
    electricity_reason: Reason | None
    heat: AvoidedShown | None
    heat_reason: Reason | None


@dataclass(frozen=True)
class SeasonShown:
    """A period by months. loss : the house's, by the slope of its heat [W/K]; described_loss : by
    its survey [W/K]; heat_per_area, electricity_per_area : of a year by the
    heated floor [kWh/m²]; modes : each alone;
    peers : what stands beside heating alone; losses : the largest first, not to be added.
    before : the same days a year earlier, where at hand."""

    local: str
    stale: bool
    level: str | None
    months: list[SeasonMonth]
    whole: SeasonMonth
    heat: SignatureShown | None
    heat_reason: Reason | None
    electricity: SignatureShown | None
    electricity_reason: Reason | None
    loss: FigureShown | None
    described_loss: FigureShown | None
    heat_per_area: FigureShown | None
    electricity_per_area: FigureShown | None
    degree_days: DegreeDaysShown | None
    modes: list[SeasonMode]
    modes_level: str | None
    peers: list[PeerShown]
    losses: list[LossShown]
    currency: str | None
    before: YearBefore | None


@dataclass(frozen=True)
class WeatherBin:
    """Hours from an outdoor temperature on, two kelvin wide [degC]."""

    low: float
    hours: int


@dataclass(frozen=True)
class NormalShown:
    """A season in the weather of a file: what a year of it would use [kWh] at the season's level.
    colder, warmer : days beyond nearly all that the season saw; bins : of the file; here : of the
    season's own hours."""

    name: str
    level: str | None
    heat: FigureShown | None
    electricity: FigureShown | None
    cop: FigureShown | None
    reason: Reason | None
    colder: int
    warmer: int
    outdoor: float
    degree_days: DegreeDaysShown
    bins: list[WeatherBin]
    here: list[WeatherBin]


@router.get("/systems/{pk}/season", response=SeasonShown)
def season(
    request: HttpRequest, pk: int, start: str, stop: str, base: Base = HEATING_BASE
) -> SeasonShown:
    """Months of a period with what lacks filled, and its energy signature. base : below which
    degree-days are counted [degC]."""
    return season_of(get_system(pk), start, stop, base)


@router.get("/systems/{pk}/season/file")
def season_file(
    request: HttpRequest, pk: int, start: str, stop: str, form: Literal["csv", "xlsx", "parquet"]
) -> HttpResponseBase:
    """The months of a season as a file, every figure with its U (k = 2)."""
    system = get_system(pk)
    cut = cut_to(system, start, stop)
    tariff = cut.analysis.installation.tariff
    made = season_table(season_seen(cut.analysis, cut.period), tariff.currency if tariff else None)
    return written_file(
        f"{system.name} season", form, lambda path: write_table(made, form, path, "Season")
    )


@router.post("/systems/{pk}/season/normal", response=NormalShown)
def normal(
    request: HttpRequest, pk: int, start: str, stop: str, file: File[UploadedFile]
) -> NormalShown:
    """A season in the weather of an EPW or TMY3 file. Nothing is stored."""
    hourly, name = typical_hours(file)
    cut = cut_to(get_system(pk), start, stop, events=True)
    seen = season_seen(cut.analysis, cut.period)
    found = normal_year(seen, hourly)
    here: list[TemperatureBin] = []
    if cut.ran is not None:
        within = Within(cut.analysis, cut.ran, cut.period)
        here = bins(within.found.hours.of["outdoor"][within.hours()])
    degree_days = degree_days_shown(found.degree_days)
    assert degree_days is not None
    return NormalShown(
        name=name,
        level=seen.level.value if seen.level else None,
        heat=figure(found.heat) if isinstance(found.heat, Estimate) else None,
        electricity=figure(found.electricity) if isinstance(found.electricity, Estimate) else None,
        cop=figure(found.cop),
        reason=reason_of(found.heat) or reason_of(found.electricity),
        colder=found.colder,
        warmer=found.warmer,
        outdoor=found.outdoor,
        degree_days=degree_days,
        bins=[WeatherBin(one.low, one.hours) for one in bins(hourly)],
        here=[WeatherBin(one.low, one.hours) for one in here],
    )


def season_of(system: System, start: str, stop: str, base: float = HEATING_BASE) -> SeasonShown:
    """The season of a system between two local times."""
    cut = cut_to(system, start, stop, events=True)
    hourly, within = None, None
    if cut.ran is not None:
        within = Within(cut.analysis, cut.ran, cut.period)
        hourly = within.found.hours.of["outdoor"][within.hours()]
    seen = season_seen(cut.analysis, cut.period, hourly, base)
    quotient = "SPF" if is_year(cut.period) else "COP"
    apart = modes(within) if within else []
    used = seen.whole.figures.electricity
    tariff = cut.analysis.installation.tariff
    return SeasonShown(
        local=cut.period.name,
        stale=cut.stale,
        level=seen.level.value if seen.level else None,
        months=[_month(one) for one in seen.months],
        whole=_month(seen.whole),
        heat=signature_shown(seen, seen.heat, "heat"),
        heat_reason=reason_of(seen.heat),
        electricity=signature_shown(seen, seen.electricity, "electricity"),
        electricity_reason=reason_of(seen.electricity),
        loss=figure(seen.loss),
        described_loss=None
        if seen.described_loss is None
        else known(exact(seen.described_loss, "W/K")),
        heat_per_area=figure(seen.heat_per_area),
        electricity_per_area=figure(seen.electricity_per_area),
        degree_days=degree_days_shown(seen.degree_days),
        modes=[
            SeasonMode(
                one.mode.words,
                "EER" if one.mode == State.COOLING else quotient,
                one.hours,
                reckoning(one.reckoning),
            )
            for one in apart
        ],
        modes_level=apart[0].reckoning.level.value if apart else None,
        peers=[
            PeerShown(p.what, p.words, p.value) for p in ([] if within is None else peers(within))
        ],
        losses=[] if within is None else [_loss(one) for one in losses(within, used)],
        currency=tariff.currency if tariff else None,
        before=_year_before(system, cut.period, seen, base),
    )


def _loss(one: Loss) -> LossShown:
    return LossShown(
        one.code.value,
        one.name,
        one.formula,
        known(one.electricity),
        one.share,
        figure(one.paid),
        one.view.value,
    )


def _year_before(
    system: System, period: Period, after: SeasonSeen, base: float
) -> YearBefore | None:
    """The same local days a year earlier; None where the record does not hold most of them."""

    def look(found: CachedAnalysis) -> YearBefore | None:
        zone = found.analysis.zone
        begin, end = (year_earlier(one, zone) for one in (period.start, period.stop))
        held = min(end, found.analysis.stop) - max(begin, found.analysis.start)
        if held < MOSTLY_HELD * (end - begin):
            return None
        earlier = Period("a year earlier", max(begin, found.analysis.start), end)
        cut = cut_at(system, found, (earlier.start, earlier.stop))
        before = season_seen(cut.analysis, earlier, base=base)
        electricity, heat = (avoided(before, after, what) for what in ("electricity", "heat"))
        words = " to ".join(iso_local(t, zone) for t in (earlier.start, earlier.stop))
        return YearBefore(
            words,
            _month(before.whole),
            avoided_shown(electricity),
            reason_of(electricity),
            avoided_shown(heat),
            reason_of(heat),
        )

    return steady(system, look)


def _month(one: MonthSeen) -> SeasonMonth:
    period = one.figures.period
    return SeasonMonth(
        name=period.name,
        start=period.start,
        stop=period.stop,
        quotient="SPF" if is_year(period) else "COP",
        reckoning=widest(one.figures),
        filled=_filled(one.filled) if isinstance(one.filled, Filled) else None,
        filled_reason=reason_of(one.filled),
        outdoor=one.outdoor,
        degree_days=degree_days_shown(one.degree_days),
    )


def _filled(found: Filled) -> FilledShown:
    return FilledShown(known(found.heat), known(found.electricity), known(found.cop), found.share)


def avoided_shown(found: Avoided | NotAvailable) -> AvoidedShown | None:
    """What was avoided; None where that cannot be told."""
    if isinstance(found, NotAvailable):
        return None
    return AvoidedShown(
        known(found.expected),
        known(found.measured),
        known(found.avoided),
        found.days,
        found.outside,
        found.worth,
    )


def degree_days_shown(found: DegreeDays | None) -> DegreeDaysShown | None:
    if found is None:
        return None
    return DegreeDaysShown(found.heating, found.base, found.method, found.days)


def signature_shown(
    seen: SeasonSeen, found: Signature | NotAvailable, what: str
) -> SignatureShown | None:
    """The signature of the heat or the electricity; None where there is none."""
    if isinstance(found, NotAvailable) or seen.daily is None:
        return None
    base, slope, knee = found.estimates
    outdoor = seen.daily.outdoor[seen.used]
    energy = (seen.daily.heat if what == "heat" else seen.daily.electricity)[seen.used]
    corners, line = found.line(outdoor)
    return SignatureShown(
        base=known(base),
        slope=known(slope),
        knee=known(knee) if found.bends else None,
        days=found.days,
        cv=found.cv,
        r2=found.r2,
        outdoor=outdoor.tolist(),
        energy=energy.tolist(),
        line_outdoor=corners.tolist(),
        line_energy=line.tolist(),
    )
