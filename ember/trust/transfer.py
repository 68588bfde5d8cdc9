"""A transfer factor from a reference meter that was borrowed for some days."""

from datetime import timedelta

import numpy as np

from ember.basis.clock import wall_clock
from ember.basis.series import Bools
from ember.description.installation import Prefer, Transfer
from ember.metering import Stream
from ember.trust.seen import Seen, by_day

LEAST_DAYS = 5
BORROWED = 0.5  # share of the record that a meter measures at most, to be called borrowed
LEAST_HEAT = 3 * 3.6e6  # of a day that is compared [J]
HOLDS_DAYS = 366  # a factor is not believed for longer, common practice


def transfer(seen: Seen, reported: str, measured: str) -> tuple[Transfer, Prefer] | None:
    """The factor that turns what the controller reports into what a reference meter measured.

    None where one is accepted already, the meter is no borrowed one, or fewer than five days can be
    compared. U (k = 2)
    holds the reference's own limits and the spread of the days: other weather is taken to differ
    from theirs as they do from each other.

    Source: ratio of sums; GUM 5.1; expiry common practice.
    """
    if any(isinstance(c, Transfer) for c in seen.installation.corrections):
        return None
    mine, other = seen.streams.every[reported], seen.streams.heat[measured]
    known = np.isfinite(mine.energy) & np.isfinite(other.energy) & ~seen.left_out
    if np.count_nonzero(known) > BORROWED * np.count_nonzero(np.isfinite(mine.energy)):
        return None
    one = by_day(np.where(known, mine.energy, 0.0), seen.days)
    reference = by_day(np.where(known, other.energy, 0.0), seen.days)
    days = np.flatnonzero((one > LEAST_HEAT) & (reference > LEAST_HEAT))
    if len(days) < LEAST_DAYS:
        return None
    factor = float(reference[days].sum() / one[days].sum())
    spread = float(np.std(reference[days] / one[days], ddof=1)) / factor
    u = np.hypot(_relative_u(other, known), spread)
    outdoor = seen.installation.outdoor.channel
    means = [np.nan]
    if outdoor in seen.trace:
        counted = by_day(np.isfinite(seen.trace[outdoor]).astype(float), seen.days)
        means = (by_day(seen.trace[outdoor], seen.days) / np.maximum(counted, 1))[days].tolist()
    if not np.isfinite(means).all():
        return None
    last = float(seen.trace.instant(int(seen.days[int(days[-1]) + 1])))
    reason = f"{len(days)} days beside '{measured}'"
    return (
        Transfer(
            meter=reported, factor=round(factor, 4), U=round(float(2 * u), 4),
            low=round(min(means), 1), high=round(max(means) + 0.1, 1),
            until=wall_clock(last, seen.zone) + timedelta(days=HOLDS_DAYS), reason=reason,
        ),
        Prefer(use=reported, instead_of=measured, reason=reason),
    )  # fmt: skip


def _relative_u(stream: Stream, known: Bools) -> float:
    """Standard uncertainty of a stream's sum over some cells, as a share."""
    total = float(stream.energy[known].sum())
    variance = sum(
        sum(factor * float(np.nansum(basis[known])) for factor, basis in term.pairs) ** 2
        for term in stream.terms
    )
    return float(np.sqrt(variance)) / total
