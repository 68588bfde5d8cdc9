"""A transfer factor from a reference meter that was borrowed for some days."""

from datetime import timedelta

import numpy as np

from ember.basis.clock import wall_clock
from ember.basis.series import Bools
from ember.description.installation import Prefer, Transfer
from ember.messages import words_of
from ember.metering import MeterEnergy
from ember.trust.context import CheckContext, by_day

say = words_of(__name__)

TRANSFER_LEAST_DAYS = 5
BORROWED = 0.5  # share of the record that a meter measures at most, to be called borrowed
TRANSFER_LEAST_HEAT = 3 * 3.6e6  # of a day that is compared [J]
HOLDS_DAYS = 366  # a factor is not believed for longer, common practice, chosen


def transfer(context: CheckContext, reported: str, measured: str) -> tuple[Transfer, Prefer] | None:
    """The factor that turns what the controller reports into what a reference meter measured.

    None where one is accepted already, the meter is no borrowed one, or fewer than five days can be
    compared. U (k = 2)
    holds the reference's own limits and the spread of the days: other weather is taken to differ
    from theirs as they do from each other.

    Source: ratio of sums; GUM 5.1; expiry common practice.
    """
    if any(isinstance(c, Transfer) for c in context.installation.corrections):
        return None
    mine, other = context.meter_energies.every[reported], context.meter_energies.heat[measured]
    known = np.isfinite(mine.energy) & np.isfinite(other.energy) & ~context.left_out
    if np.count_nonzero(known) > BORROWED * np.count_nonzero(np.isfinite(mine.energy)):
        return None
    one = by_day(np.where(known, mine.energy, 0.0), context.days)
    reference = by_day(np.where(known, other.energy, 0.0), context.days)
    days = np.flatnonzero((one > TRANSFER_LEAST_HEAT) & (reference > TRANSFER_LEAST_HEAT))
    if len(days) < TRANSFER_LEAST_DAYS:
        return None
    factor = float(reference[days].sum() / one[days].sum())
    spread = float(np.std(reference[days] / one[days], ddof=1)) / factor
    u = np.hypot(_relative_u(other, known), spread)
    outdoor = context.installation.outdoor.channel
    means = [np.nan]
    if outdoor in context.trace:
        counted = by_day(np.isfinite(context.trace[outdoor]).astype(float), context.days)
        means = (by_day(context.trace[outdoor], context.days) / np.maximum(counted, 1))[
            days
        ].tolist()
    if not np.isfinite(means).all():
        return None
    last = float(context.trace.instant(int(context.days[int(days[-1]) + 1])))
    reason = say("days_beside", days=len(days), measured=measured)
    return (
        Transfer(
            meter=reported,
            factor=round(factor, 4),
            U=round(float(2 * u), 4),
            low=round(min(means), 1),
            high=round(max(means) + 0.1, 1),
            until=wall_clock(last, context.zone) + timedelta(days=HOLDS_DAYS),
            reason=reason,
        ),
        Prefer(use=reported, instead_of=measured, reason=reason),
    )


def _relative_u(meter_energy: MeterEnergy, known: Bools) -> float:
    """Standard uncertainty of a meter's sum over some cells, as a share."""
    total = float(meter_energy.energy[known].sum())
    variance = sum(
        sum(factor * float(np.nansum(basis[known])) for factor, basis in component.pairs) ** 2
        for component in meter_energy.components
    )
    return float(np.sqrt(variance)) / total
