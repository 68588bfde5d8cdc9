"""Is it the table or the house? Systems of the same type are each other's reference."""

from collections.abc import Sequence

from ember.basis.quantity import Estimate
from ember.diagnosis.finding import Cause
from ember.messages import words_of

say = words_of(__name__)

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
    name = say("rated_table_itself")
    if not siblings:
        return Cause(name, (), (say("no_other_system"),))
    said = ", ".join(f"{n} {r.value:.2f}" for n, r in siblings[:6])
    low = [r for _, r in siblings if r.value < limit]
    same = [r for _, r in siblings if abs(r.value - mine.value) <= max(r.U, mine.U) / 2]
    if len(low) == len(siblings) and len(siblings) >= SIBLINGS_LEAST:
        return Cause(name, (say("all_systems_same", siblings=len(siblings), said=said),))
    if not low:
        return Cause(name, (), (say("systems_same_table", said=said),))
    return Cause(
        name, (say("siblings_read_about", same=len(same), siblings=len(siblings), said=said),)
    )
