"""A season as it goes out: its sums, its weather, what it was used for and what was lost."""

from dataclasses import dataclass

from ember.basis.calendar import is_year
from ember.basis.quantity import Estimate
from ember.boundary import Level
from ember.cost import Cost
from ember.messages import NotAvailable, Reason, reason_of
from ember.operation.within import Within
from ember.season import DegreeDays, MonthSeen, SeasonSeen, Signature, season_seen
from ember.season.season import Filled
from ember.views.losses import Loss, losses
from ember.views.modes import ModeSum, modes
from ember.views.peers import Peer, peers
from ember.views.uses import Use, uses


@dataclass(frozen=True)
class MonthSummary:
    """A month, or the whole, at the widest level.

    Attributes
    ----------
    start, stop : float
        [s]
    quotient : str
        what `cop` is called: SPF of a year, else COP.
    heat, electricity, cop : Estimate | None
        as measured [kWh].
    coverage : float | None
        share of the time that they hold.
    filled : Filled | None
        the same with what lacks, an estimate; `filled_reason` where it cannot be told.
    outdoor : float | None
        mean [degC]
    """

    name: str
    start: float
    stop: float
    quotient: str
    heat: Estimate | None
    electricity: Estimate | None
    cop: Estimate | None
    coverage: float | None
    filled: Filled | None
    filled_reason: Reason | None
    outdoor: float | None
    degree_days: DegreeDays | None
    cost: Cost | None


@dataclass(frozen=True)
class SignatureSummary:
    """Energy a day over the outdoor temperature: base [kWh/d], slope [kWh/(K·d)], knee [degC], None
    where none is seen; of so many days."""

    base: Estimate
    slope: Estimate
    knee: Estimate | None
    days: int
    cv: float
    r2: float


@dataclass(frozen=True)
class SeasonSummary:
    """A season.

    Attributes
    ----------
    level : Level | None
        of the sums
    heat, electricity : SignatureSummary | None
        their signatures; `heat_reason`, `electricity_reason` where there is none.
    loss : Estimate | None
        the house's heat loss by the slope of its heat [W/K]; described_loss : by its survey.
    heat_per_area, electricity_per_area : Estimate | None
        of a year by the heated floor [kWh/m²].
    modes : tuple[ModeSum, ...]
        heating, hot water and cooling apart.
    peers : tuple[Peer, ...]
        what stands beside heating alone.
    losses : tuple[Loss, ...]
        not to be added.
    uses : tuple[Use, ...]
        what all metered electricity went to, and cost.
    """

    level: Level | None
    months: tuple[MonthSummary, ...]
    whole: MonthSummary
    heat: SignatureSummary | None
    heat_reason: Reason | None
    electricity: SignatureSummary | None
    electricity_reason: Reason | None
    loss: Estimate | None
    described_loss: float | None
    heat_per_area: Estimate | None
    electricity_per_area: Estimate | None
    modes: tuple[ModeSum, ...]
    peers: tuple[Peer, ...]
    losses: tuple[Loss, ...]
    uses: tuple[Use, ...]


def season_summary(within: Within) -> SeasonSummary:
    """A period of an operation as a season, at whose ends the record analysis is cut."""
    hourly = within.found.hours.of["outdoor"][within.hours()]
    seen = season_seen(within.analysis, within.period, hourly)
    return SeasonSummary(
        level=seen.level,
        months=tuple(_month(one) for one in seen.months),
        whole=_month(seen.whole),
        heat=_signature(seen.heat),
        heat_reason=reason_of(seen.heat),
        electricity=_signature(seen.electricity),
        electricity_reason=reason_of(seen.electricity),
        loss=seen.loss,
        described_loss=seen.described_loss,
        heat_per_area=seen.heat_per_area,
        electricity_per_area=seen.electricity_per_area,
        modes=tuple(modes(within)),
        peers=tuple(peers(within)),
        losses=tuple(losses(within, seen.whole.figures.electricity)),
        uses=tuple(uses(within.analysis, within.period)),
    )


def season_of_months(seen: SeasonSeen) -> list[MonthSummary]:
    """The months of a season, and the whole as the last."""
    return [_month(one) for one in (*seen.months, seen.whole)]


def _month(one: MonthSeen) -> MonthSummary:
    figures = one.figures
    period = figures.period
    sums = figures.reckonings[-1] if figures.reckonings else None
    return MonthSummary(
        name=period.name,
        start=period.start,
        stop=period.stop,
        quotient="SPF" if is_year(period) else "COP",
        heat=sums.heat if sums else None,
        electricity=sums.electricity if sums else figures.electricity,
        cop=sums.cop if sums else None,
        coverage=sums.coverage if sums else None,
        filled=one.filled if isinstance(one.filled, Filled) else None,
        filled_reason=reason_of(one.filled),
        outdoor=one.outdoor,
        degree_days=one.degree_days,
        cost=figures.cost,
    )


def _signature(found: Signature | NotAvailable) -> SignatureSummary | None:
    if isinstance(found, NotAvailable):
        return None
    base, slope, knee = found.estimates
    return SignatureSummary(
        base, slope, knee if found.bends else None, found.days, found.cv, found.r2
    )
