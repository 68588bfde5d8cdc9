"""Is it the table or the house? Systems of the same type are each other's reference."""

from collections.abc import Sequence

from ember.basis.quantity import Estimate
from ember.diagnosis.finding import Cause

SIBLINGS_LEAST = 2  # siblings, from which they say something


def table_or_house(mine: Estimate, siblings: Sequence[tuple[str, Estimate]], limit: float) -> Cause:
    """Whether a low performance ratio may lie in the rated table.

    Parameters
    ----------
    mine : Estimate
        the ratio of this system.
    siblings : Sequence[tuple[str, Estimate]]
        name and ratio of those with the same table.
    limit : float
        below which a unit is below rated.

    Source: if all siblings read the same, doubt the table, common practice.
    """
    name = "the rated table itself: another pairing, or optimistic"
    if not siblings:
        return Cause(name, (), ("no other system has the same table: it cannot be told",))
    said = ", ".join(f"{n} {r.value:.2f}" for n, r in siblings[:6])
    low = [r for _, r in siblings if r.value < limit]
    same = [r for _, r in siblings if abs(r.value - mine.value) <= max(r.U, mine.U) / 2]
    if len(low) == len(siblings) and len(siblings) >= SIBLINGS_LEAST:
        return Cause(name, (f"all {len(siblings)} systems with the same table are below: {said}",))
    if not low:
        return Cause(name, (), (f"systems with the same table are as rated: {said}",))
    return Cause(name, (f"{len(same)} of {len(siblings)} siblings read about the same: {said}",))
