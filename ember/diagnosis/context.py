"""What findings rest on: one surveyed record, its events, and a period of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import Compared, PeriodFigures, compared_between, energy_of, judge
from ember.basis.calendar import SEASON_DAYS
from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.periods import Period
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent, rectangular
from ember.basis.series import Bools
from ember.basis.side_by_side import side_by_side
from ember.comparison.capacity import Capacity, capacity_seen
from ember.comparison.drift import Drift, day_ratios, drift
from ember.comparison.matched import MatchedHours, matched_hours
from ember.comparison.parts import Parts, parts
from ember.comparison.performance_ratio import Verdict
from ember.description.installation import Installation
from ember.description.thresholds import Thresholds
from ember.diagnosis.finding import Cause, Evidence, Finding, Weight
from ember.messages import Source, words_of
from ember.operation import Operation
from ember.operation.within import Within
from ember.states import State
from ember.trust import Check
from ember.views.control import ControlSeen, control_seen
from ember.views.defrosts import DefrostsSeen, defrosts_seen
from ember.views.hot_water import WaterSeen, water_seen
from ember.views.inside import InsideSeen, inside_seen
from ember.views.runs import RunsSeen, runs_seen
from ember.views.starts import StartsSeen, starts_seen

say = words_of(__name__)

CONTEXT_YEAR = 365.0  # [d]
LOOKED_AT = ("parts", "drift", "capacity", "runs", "starts", "defrosts", "water", "control")


@dataclass(frozen=True)
class Costed:
    """What something costs, in the period and in a year, and on what that rests."""

    lost: Estimate | None
    money_lost: Estimate | None
    kwh_a_year: Estimate | None
    money_a_year: Estimate | None
    basis: str


@dataclass(frozen=True)
class FindingContext:
    """A record and the period over which findings are stated.

    Attributes
    ----------
    figures : PeriodFigures
        of the period, at whose ends the record analysis is cut.
    ran : Operation
        its events.
    """

    analysis: RecordAnalysis
    ran: Operation
    figures: PeriodFigures

    def looked(self) -> "FindingContext":
        """The same, having looked at what most rules ask for."""
        side_by_side({name: partial(getattr, self, name) for name in LOOKED_AT})
        return self

    def with_checks(self, analysis: RecordAnalysis) -> "FindingContext":
        """The same of the analysis with all its checks. What has been looked at stays: it rests on
        nothing of them but whether a COP may be stated, which must be so in both."""
        told = FindingContext(analysis, self.ran, self.figures)
        seen = vars(self)
        vars(told).update({name: seen[name] for name in LOOKED_AT if name in seen})
        return told

    @property
    def period(self) -> Period:
        """Over which findings are stated."""
        return self.figures.period

    @property
    def limits(self) -> Thresholds:
        """The thresholds in force."""
        return self.analysis.installation.thresholds

    @property
    def installation(self) -> Installation:
        """As described, with what accepted corrections say."""
        return self.analysis.installation

    @cached_property
    def within(self) -> Within:
        """The period's events."""
        return Within(self.analysis, self.ran, self.period)

    @cached_property
    def compared(self) -> Compared:
        """The running that fits the table."""
        return compared_between(self.analysis, self.period)

    @cached_property
    def verdict(self) -> Verdict:
        """What may be said of the performance ratio."""
        return judge(self.analysis, self.compared, self.period)

    @cached_property
    def same(self) -> MatchedHours | None:
        """Hours of compared running."""
        return matched_hours(self.analysis, self.period)

    @cached_property
    def parts(self) -> Parts:
        """The shape of the performance ratio."""
        size = self.installation.unit.capacity_kw
        if self.same is None or not len(self.same):
            return Parts(None, None, None)
        return parts(self.analysis, self.period, self.same, size * 1000 if size else None)

    @cached_property
    def drift(self) -> Drift:
        """The ratio day by day."""
        return drift(day_ratios(self.within))

    @cached_property
    def capacity(self) -> Capacity:
        """Against rated and against need."""
        return capacity_seen(self.within)

    @cached_property
    def runs(self) -> RunsSeen:
        """Runs of the period."""
        return runs_seen(self.within, count=0)

    @cached_property
    def starts(self) -> StartsSeen:
        """Starts of the period."""
        return starts_seen(self.within, drawn=False)

    @cached_property
    def defrosts(self) -> DefrostsSeen:
        """Defrosts of the period."""
        return defrosts_seen(self.within, drawn=False)

    @cached_property
    def water(self) -> WaterSeen:
        """Hot water of the period."""
        return water_seen(self.within, drawn=False)

    @cached_property
    def control(self) -> ControlSeen:
        """Control of the period."""
        return control_seen(self.within)

    @cached_property
    def inside(self) -> InsideSeen:
        """The refrigerant."""
        return inside_seen(self.within)

    def running(self, mask: Bools | None = None) -> float:
        """Electricity of all running at the level of the table [kWh].

        Parameters
        ----------
        mask : Bools | None
            of segments.
        """
        analysis, combination = self.analysis, self.within.combination
        if combination is None:
            return 0.0
        segments = analysis.segments
        use = segments.within(self.period.start, self.period.stop) & (segments.excluded < 0)
        use &= (segments.state >= State.START_UP) & (segments.state <= State.DEFROST)
        if mask is not None:
            use &= mask
        return float(np.nansum(energy_of(analysis, combination.electricity)[use])) / KWH

    def lacking(self, compared: float, mask: Bools, shortfall: Estimate) -> Estimate:
        """Electricity that running would not have needed without a shortfall [kWh].

        Parameters
        ----------
        compared : float
            electricity of what is compared with the table [kWh].
        mask : Bools
            segments of which all running is taken to lack the same, hot water and starts too.
            What is not compared is known less well: its shortfall may lie anywhere between none
            and twice as much.
        """
        every = max(self.running(mask), compared)
        lost = shortfall.scaled(every, "kWh")
        further = (every - compared) * abs(shortfall.value) * rectangular(1.0)
        return Estimate(
            lost.value,
            "kWh",
            (*lost.budget, UncertaintyComponent(Source(SourceCode.NOT_COMPARED), further)),
        )

    @property
    def checks(self) -> tuple[Check, ...]:
        """Of the metering."""
        return self.analysis.facts.checks

    @cached_property
    def used(self) -> Estimate | None:
        """Electricity of the period at the widest level [kWh]."""
        return self.figures.reckonings[-1].electricity if self.figures.reckonings else None

    @cached_property
    def price(self) -> float | None:
        """The average price paid [per kWh]."""
        return self.figures.cost.average_price if self.figures.cost else None

    def loss(self, kwh: float, rough: float, source: str) -> Estimate:
        """An energy that is lost [kWh], with the meter's error and that of how it is worked out.

        Parameters
        ----------
        rough : float
            standard uncertainty of the method, as a share.
        source : str
            what it rests on.
        """
        meter = self.used.u / self.used.value if self.used and self.used.value else 0.02
        return Estimate(
            kwh,
            "kWh",
            (
                UncertaintyComponent(Source(SourceCode.ELECTRICITY_METER), kwh * meter),
                UncertaintyComponent(Source(SourceCode.METHOD, detail=source), kwh * rough),
            ),
        )

    def costed(self, lost: Estimate | None, what: str) -> Costed:
        """What an energy costs.

        Parameters
        ----------
        what : str
            that it is, in words, for the basis.
        """
        if lost is None:
            return Costed(None, None, None, None, what)
        days_seen, price = self.period.days, self.price
        currency = self.figures.cost.currency if self.figures.cost else ""
        money = lost.scaled(price, currency) if price is not None else None
        basis = say("lost", kwh=lost.value, length=self.period.length, what=what)
        if price is not None:
            basis += say("at_the_price", price=price, currency=currency)
        if days_seen < SEASON_DAYS:
            basis += say("year_not_claimed", season_days=SEASON_DAYS)
            return Costed(lost, money, None, None, basis)
        scale = CONTEXT_YEAR / days_seen
        return Costed(
            lost, money, lost.scaled(scale), money.scaled(scale) if money else None, basis
        )

    def worth(self, lost: Estimate | None) -> bool:
        """Whether an energy is enough of the period's electricity to ask for action."""
        if lost is None or self.used is None or not self.used.value:
            return False
        return lost.value - lost.U / 2 >= self.limits.action_share * self.used.value

    def weight(self, sure: bool, lost: Estimate | None) -> Weight:
        """Act where it is sure and worth it."""
        return Weight.ACTION if sure and self.worth(lost) else Weight.ADVISORY

    def evidence(
        self,
        words: str,
        measured: Estimate,
        threshold: float,
        view: ViewCode,
        above: bool = True,
        span: tuple[float, float] | None = None,
    ) -> Evidence:
        """A measured value against its threshold, shown over the period or a span of it."""
        start, stop = span or (self.period.start, self.period.stop)
        return Evidence(words, measured, threshold, above, start, stop, view)

    def finding(
        self,
        code: FindingCode,
        sentence: str,
        weight: Weight,
        evidence: Sequence[Evidence],
        causes: Sequence[Cause],
        next_check: str,
        who: str,
        costed: Costed,
        caution: str,
        clears: str,
        metering: bool = False,
    ) -> Finding:
        """A finding over the period."""
        return Finding(
            code=code,
            sentence=sentence,
            weight=weight,
            period=self.period,
            evidence=tuple(evidence),
            causes=tuple(causes),
            next_check=next_check,
            who=who,
            lost=costed.lost,
            money_lost=costed.money_lost,
            kwh_a_year=costed.kwh_a_year,
            money_a_year=costed.money_a_year,
            cost_basis=costed.basis,
            caution=caution,
            clears=clears,
            metering=metering,
        )

    def coldest_day(self) -> tuple[float, float]:
        """The day of the period with the lowest mean outdoor temperature, for a span to show."""
        of, inside = self.ran.hours.of["outdoor"], self.within.hours()
        cold = np.where(inside & np.isfinite(of), of, np.inf)
        n = len(cold) // 24 * 24
        if not n:
            return self.period.start, self.period.stop
        mean = cold[:n].reshape(-1, 24).mean(axis=1)
        start = self.ran.hours.start + 86_400 * int(mean.argmin())
        return float(start), float(start + 86_400)


def counted(value: float, unit: str = "") -> Estimate:
    """A count or a share of counts, without error of its own."""
    return Estimate(value, unit, ())
