"""An uncertainty budget read: which part is which, and what would pay most."""

from dataclasses import dataclass
from math import sqrt

from ember.basis.quantity import K_FACTOR, Estimate

LITTLE = 0.02  # of the variance, below which a source is not worth an effort

# What makes a source smaller, by the word in its name; common practice.
ADVICE = (
    ("two probes", "a matched pair of probes, or the offset of these two corrected"),
    ("temperature pair", "the offset at rest found and corrected, or a higher ΔT"),
    ("offset correction", "more time at rest near room temperature"),
    ("calculator", "a heat meter of a newer calculator; it counts most at small ΔT"),
    ("flow sensor", "a flow sensor of a better class, fitting the usual flow"),
    ("airflow", "the airflow measured, by a hood or a traverse"),
    ("one probe for the mean", "a second probe higher in the tank"),
    ("assumed power", "a plug meter on it"),
    ("sampling", "readings more often, or a register"),
    ("register step", "a register with a digit more, or longer spans"),
    ("steps of the temperatures", "temperatures logged with a digit more"),
    ("class not known", "the class read off the meter"),
    ("MID class", "a meter of class C"),
    ("clamp", "a meter with voltage, at least class B"),
    ("plug meter", "a meter of class B"),
    ("transfer factor", "the reference meter borrowed for longer, in more weather"),
    ("rated table", "the maker's tolerance asked for"),
    ("outdoor sensor", "a better sensor in the shade"),
)


@dataclass(frozen=True)
class BudgetLine:
    """One source. U (k = 2) and share of the variance

    Attributes
    ----------
    random : bool
        errs anew each time.
    """

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
        BudgetLine(p.source, K_FACTOR * abs(p.u), p.u**2 / variance if variance else 0.0, p.random)
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
    advice = next((how for word, how in ADVICE if word in first.source), None)
    return Budget(lines, systematic, random, first.source, halved, advice)
