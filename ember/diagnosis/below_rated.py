"""The unit does worse than its rated table at the same conditions, everywhere."""

import numpy as np

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.quantity import exact
from ember.comparison.performance_ratio import VerdictKind, electricity_lost
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Finding, Weight
from ember.diagnosis.refrigerant import weak_unit
from ember.messages import words_of

say = words_of(__name__)


def below_rated(context: FindingContext) -> Finding | None:
    """The finding where the verdict is *below rated*, or *watch*; None otherwise.

    The electricity lost is that of all running times (1 − PR): what the same heat would not have
    needed at the rated COP. What is not compared is taken to lack the same, with a wide U.
    """
    comparison, verdict = context.compared.comparison, context.verdict
    measured = context.compared.measured
    if comparison is None or measured is None:
        return None
    if verdict.kind not in (VerdictKind.BELOW_RATED, VerdictKind.WATCH):
        return None
    ratio, sure = comparison.ratio, verdict.kind == VerdictKind.BELOW_RATED
    shortfall = (1 - ratio.value) * 100
    words = say("rated_table_same")
    sentence = say("below", shortfall=shortfall, words=words)
    if not sure:
        sentence = say("below_but_within", shortfall=shortfall, words=words)
    limit = context.limits.below_rated
    return context.finding(
        FindingCode.BELOW_RATED,
        sentence,
        Weight.ACTION if sure else Weight.ADVISORY,
        [
            context.evidence(
                say("performance_ratio", level=measured.level),
                ratio,
                limit,
                ViewCode.RATING,
                above=False,
            )
        ],
        weak_unit(context),
        say("next_check"),
        say("who"),
        context.costed(
            context.lacking(
                measured.electricity.value,
                np.ones(len(context.analysis.segments.state), np.bool_),
                exact(1.0, "") - ratio,
            ),
            say("basis_compared_running", kwh=electricity_lost(measured, ratio).value),
        ),
        care("mains", "refrigerant"),
        say("clears", limit=limit),
    )
