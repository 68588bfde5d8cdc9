"""How often healthy systems are accused: every check and rule with its rate and the bound of it."""

from collections.abc import Iterable, Sequence

from scipy.stats import binomtest

from ember.diagnosis import RULES
from ember.messages import check_name, finding_name
from ember.trust import CODES

CONFIDENCE = 0.95


def bound(count: int, of: int) -> float:
    """The rate above which it does not lie, one-sided at 95 % (Clopper and Pearson 1934)."""
    found = binomtest(count, of, alternative="less").proportion_ci(CONFIDENCE, method="exact")
    return float(found.high)


def rates(unsound: Sequence[Iterable[str]], actions: Sequence[Iterable[str]]) -> list[str]:
    """Lines of a document.

    unsound : of each healthy system, the checks that doubt it. actions : the findings that ask it
    to act.
    """
    n = len(unsound)
    lines = ["| check or rule | accused | of | rate | at most (95 %) |", "|---|---|---|---|---|"]
    quiet = []
    for kind, names, seen in (
        ("check", [check_name(code) for code in CODES], unsound),
        ("rule", [finding_name(rule.code) for rule in RULES], actions),
    ):
        for name in names:
            count = sum(name in set(one) for one in seen)
            if count:
                lines.append(
                    f"| {kind}: {name} | {count} | {n} | {count / n:.1%} | {bound(count, n):.1%} |"
                )
            else:
                quiet.append(name)
    lines += [
        "",
        f"Never, of {n} (at most {bound(0, n):.1%} each): {', '.join(quiet)}.",
    ]
    return lines
