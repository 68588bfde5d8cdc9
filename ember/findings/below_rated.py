"""The unit does worse than its rated table at the same conditions."""

from ember.findings.finding import Finding
from ember.installation import Thresholds
from ember.money import Cost
from ember.period import Period
from ember.rating import Comparison, Verdict, VerdictKind, electricity_lost
from ember.reckoning import Reckoning
from ember.season.periods import SEASON_DAYS

YEAR = 365.0  # [d]


def below_rated(
    comparison: Comparison | None,
    verdict: Verdict,
    thresholds: Thresholds,
    period: Period,
    measured: Reckoning | None,
    cost: Cost | None,
) -> Finding | None:
    """The finding where the verdict is *below rated*, None otherwise.

    Parameters
    ----------
    comparison, verdict : over all that was assessed.
    period, measured, cost : the period whose loss is stated, its compared running, its cost.

    The electricity lost is that of the compared running times (1 − PR): what the same heat
    would not have needed at the rated COP. It is scaled to a year only from a record of most of
    one, in proportion to the days; running that is not compared is not counted.
    """
    if comparison is None or measured is None or verdict.kind != VerdictKind.BELOW_RATED:
        return None
    ratio = comparison.ratio
    lost = electricity_lost(measured, ratio)
    kwh = money = None
    if period.days >= SEASON_DAYS:
        kwh = lost.scaled(YEAR / period.days)
        basis = (
            f"{lost.value:,.0f} kWh in {period.days:.0f} days of the compared running alone, "
            "starts and hot water apart"
        )
        if cost is not None and cost.average_price is not None:
            money = kwh.scaled(cost.average_price, cost.currency)
            basis += f", at the {cost.average_price:.3f} {cost.currency}/kWh paid on average"
    else:
        basis = (
            f"{lost.value:,.0f} kWh in the {period.days:.0f} days seen; a year is not claimed "
            f"from less than {SEASON_DAYS} days"
        )
    shortfall = (1 - ratio.value) * 100
    return Finding(
        kind="below rated",
        sentence=f"{shortfall:.0f} % below the rated table at the same conditions.",
        period=period,
        measured=ratio,
        threshold=thresholds.below_rated,
        causes=(
            "air side: fouled or recirculating outdoor coil",
            "refrigerant charge (a suspicion until pressures are read)",
            "expansion valve or compressor",
            "a meter factor set wrongly; the checks above do not exclude a constant one",
        ),
        next_check=(
            "Look at the outdoor coil and its clearances first; then compare capacity at full "
            "load, and have superheat and subcooling read."
        ),
        who=(
            "The coil: anyone, with the unit switched off. The refrigerant circuit: a certified "
            "technician only."
        ),
        kwh_a_year=kwh,
        money_a_year=money,
        cost_basis=basis,
        caution=(
            "Isolate the mains before opening the unit; fans start without warning. Work on the "
            "refrigerant circuit and on mains is for licensed people; local codes decide."
        ),
        clears=f"Performance ratio + U at or above {thresholds.below_rated:g} over 24 h or more.",
    )
