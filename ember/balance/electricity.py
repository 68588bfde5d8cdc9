"""What a power alone can say: electricity a day, per degree-day, and while it runs. No COP."""

from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.clock import DAY
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.periods import Period
from ember.basis.practice import HEATING_BASE
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.basis.series import Bools
from ember.messages import Reason, Source, because
from ember.rated import binned_weather, for_house
from ember.rated.climates import NO_LOAD
from ember.rated.scop import least_share
from ember.reckoning.reckon import metered
from ember.states.state import is_on

LEAST_DEGREE_DAYS = 10.0


@dataclass(frozen=True)
class PowerSeen:
    """Of a period.

    Attributes
    ----------
    electricity : Estimate
        all metered [kWh].
    a_day : Estimate
        [kWh/d].
    per_degree_day : Estimate | None
        below 15 °C outdoors [kWh/(K·d)], None where the weather is not known or too warm.
    watts : Estimate | None
        mean while the compressor runs [W], None where that is not known
    hours : float | None
        of running.
    by_table : Estimate | None
        what the rated table would need to heat the house as described in this weather [kWh], hot
        water not in it; None with the reason
    taken : tuple[str, ...]
        what it rests on.
    """

    electricity: Estimate
    a_day: Estimate
    per_degree_day: Estimate | None
    watts: Estimate | None
    hours: float | None
    by_table: Estimate | None
    reason: Reason | None
    taken: tuple[str, ...]


def power_seen(analysis: RecordAnalysis, period: Period) -> PowerSeen | None:
    """What the electricity of a period says, at whose ends the record analysis is cut; None
    without any.

    Source: degree-days by the mean of each segment's outdoor temperature against 15 °C, common
    practice.
    """
    segments, facts = analysis.segments, analysis.facts
    if not facts.shares:
        return None
    inside = segments.within(period.start, period.stop)
    (total,), known = metered(segments, facts.shares, np.where(inside, 0, -1), 1)
    days = float(known[0]) * segments.step / DAY
    if days <= 0 or total.value <= 0:
        return None
    per = None
    if "outdoor" in segments.sums:
        cells = segments.sums["outdoor known"][inside]
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = segments.sums["outdoor"][inside] / cells
        below = np.where(cells > 0, np.maximum(HEATING_BASE - np.nan_to_num(mean), 0.0), 0.0)
        degree_days = float((below * cells).sum()) * segments.step / DAY
        heated = float(cells[below > 0].sum()) * segments.step / DAY
        if degree_days > LEAST_DEGREE_DAYS:
            u = rectangular(analysis.installation.outdoor.limit_k) * heated
            per = total.over(
                Estimate(
                    degree_days, "", (UncertaintyComponent(Source(SourceCode.OUTDOOR_SENSOR), u),)
                ),
                "kWh",
            )
    watts, hours = None, None
    if facts.runs_known:
        on = inside & is_on(segments.state)
        (used,), cells_on = metered(segments, facts.shares, np.where(on, 0, -1), 1)
        hours = float(cells_on[0]) * segments.step / 3600
        watts = used.scaled(1000 / hours, "W") if hours else None
    needed, why, taken = _by_table(analysis, inside)
    return PowerSeen(
        electricity=total,
        a_day=total.scaled(1 / days, "kWh"),
        per_degree_day=per,
        watts=watts,
        hours=hours,
        by_table=needed,
        reason=why,
        taken=taken,
    )


def _by_table(
    analysis: RecordAnalysis, inside: Bools
) -> tuple[Estimate | None, Reason | None, tuple[str, ...]]:
    """What the rated table would need to heat the house in the weather of some segments, (m,)."""
    installation, segments = analysis.installation, analysis.segments
    if installation.rated is None:
        return None, because(ReasonCode.NO_TABLE), ()
    if not installation.rated.gives_cop:
        return None, because(ReasonCode.TABLE_WITHOUT_COP), ()
    if "outdoor" not in segments.sums:
        return None, because(ReasonCode.OUTDOOR_NOT_KNOWN), ()
    # A house without a design temperature is not reckoned at the coldest of some days.
    if installation.house.design_outdoor is None:
        return None, because(ReasonCode.DESIGN_NOT_DESCRIBED), ()
    cells = segments.sums["outdoor known"][inside]
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = segments.sums["outdoor"][inside] / cells
    cold = (cells > 0) & (np.nan_to_num(mean, nan=NO_LOAD) < NO_LOAD)
    if not cold.any():
        return None, because(ReasonCode.NEVER_COLD), ()
    hours = cells[cold] * (segments.step / 3600)
    weather = binned_weather("this period", mean[cold], hours, float("nan"))
    found = for_house(
        installation.rated,
        installation.house,
        weather,
        installation.name,
        installation.unit.low_outdoor_limit,
        least_share(installation),
    )
    return found.electricity, found.reason, tuple(found.notes)
