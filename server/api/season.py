"""Season: months measured and filled, the energy signature, degree-days."""

from dataclasses import dataclass

from django.http import HttpRequest
from ninja import Router

from ember.basis.calendar import is_year
from ember.basis.quantity import exact
from ember.messages import NotAvailable, Reason
from ember.operation.within import Within
from ember.season import DegreeDays, MonthSeen, SeasonSeen, Signature, season_seen
from ember.season.season import Filled
from server.api.figures import cut_to
from server.api.fleet import get_system
from server.assessments.shown import FigureShown, ReckoningShown, figure, known, widest

router = Router(tags=["rooms"])


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
class SeasonShown:
    """A period by months. loss : the house's, by the slope of its heat [W/K]; described_loss : by
    its survey [W/K]; heat_per_area : of a year by the heated floor [kWh/m²]."""

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
    degree_days: DegreeDaysShown | None


@router.get("/systems/{pk}/season", response=SeasonShown)
def season(request: HttpRequest, pk: int, start: str, stop: str) -> SeasonShown:
    """Months of a period with what lacks filled, and its energy signature."""
    cut = cut_to(get_system(pk), start, stop, events=True)
    hourly = None
    if cut.ran is not None:
        within = Within(cut.analysis, cut.ran, cut.period)
        hourly = within.found.hours.of["outdoor"][within.hours()]
    seen = season_seen(cut.analysis, cut.period, hourly)
    return SeasonShown(
        local=cut.period.name,
        stale=cut.stale,
        level=seen.level.value if seen.level else None,
        months=[_month(one) for one in seen.months],
        whole=_month(seen.whole),
        heat=signature_shown(seen, seen.heat, "heat"),
        heat_reason=_reason(seen.heat),
        electricity=signature_shown(seen, seen.electricity, "electricity"),
        electricity_reason=_reason(seen.electricity),
        loss=figure(seen.loss),
        described_loss=None
        if seen.described_loss is None
        else known(exact(seen.described_loss, "W/K")),
        heat_per_area=figure(seen.heat_per_area),
        degree_days=_degree_days(seen.degree_days),
    )


def _month(one: MonthSeen) -> SeasonMonth:
    period = one.figures.period
    return SeasonMonth(
        name=period.name,
        start=period.start,
        stop=period.stop,
        quotient="SPF" if is_year(period) else "COP",
        reckoning=widest(one.figures),
        filled=_filled(one.filled) if isinstance(one.filled, Filled) else None,
        filled_reason=_reason(one.filled),
        outdoor=one.outdoor,
        degree_days=_degree_days(one.degree_days),
    )


def _filled(found: Filled) -> FilledShown:
    return FilledShown(known(found.heat), known(found.electricity), known(found.cop), found.share)


def _degree_days(found: DegreeDays | None) -> DegreeDaysShown | None:
    if found is None:
        return None
    return DegreeDaysShown(found.heating, found.base, found.method, found.days)


def _reason(found: object) -> Reason | None:
    return found.reason if isinstance(found, NotAvailable) else None


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
