"""An uncertainty budget read: which part is which, and what would pay most."""

from dataclasses import dataclass
from math import sqrt

from ember.basis.quantity import K_FACTOR, Estimate
from ember.messages import Source, words_of

say = words_of(__name__)  # what makes a source smaller, by its code; common practice


LITTLE = 0.02  # of the variance, below which a source is not worth an effort


@dataclass(frozen=True)
class BudgetLine:
    """One source. U (k = 2) and share of the variance

    Attributes
    ----------
    random : bool
        errs anew each time.
    """

    cause: Source
    source: str
    U: float
    share: float
    random: bool


@dataclass(frozen=True)
class Budget:
    """A budget in order of size.

    Attributes
    ----------
    systematic, random : float
        U of either kind (k = 2).
    pays : str | None
        the source whose halving helps most, with what U would then be and how to do it.
    """

    lines: tuple[BudgetLine, ...]
    systematic: float
    random: float
    pays: str | None
    pays_U: float | None
    advice: str | None


def budget_of(estimate: Estimate) -> Budget:
    """The budget of a figure. Source: GUM (JCGM 100:2008), 5.1 and 8."""
    variance = sum(p.u**2 for p in estimate.budget)
    lines = tuple(
        BudgetLine(
            p.cause, p.source, K_FACTOR * abs(p.u), p.u**2 / variance if variance else 0.0, p.random
        )
        for p in sorted(estimate.budget, key=lambda p: -abs(p.u))
    )
    kinds = (
        K_FACTOR * sqrt(sum(p.u**2 for p in estimate.budget if p.random == random))
        for random in (False, True)
    )
    systematic, random = kinds
    if not lines or lines[0].share < LITTLE:
        return Budget(lines, systematic, random, None, None, None)
    first = lines[0]
    halved = sqrt(max(0.0, (K_FACTOR**2) * variance - 0.75 * first.U**2))
    code = first.cause.code
    advice = say(code) if code in say else None
    return Budget(lines, systematic, random, first.source, halved, advice)
