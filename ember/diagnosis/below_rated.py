"""The unit does worse than its rated table at the same conditions, everywhere."""

import numpy as np

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.quantity import exact
from ember.comparison.performance_ratio import VerdictKind, electricity_lost
from ember.diagnosis.care import CARE_REFRIGERANT
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Finding, Weight
from ember.diagnosis.refrigerant import weak_unit


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
    words = "the rated table at the same conditions"
    sentence = f"{shortfall:.0f} % below {words}."
    if not sure:
        sentence = f"{shortfall:.0f} % below {words}, but within U it may be as rated."
    limit = context.limits.below_rated
    return context.finding(
        FindingCode.BELOW_RATED,
        sentence,
        Weight.ACTION if sure else Weight.ADVISORY,
        [
            context.evidence(
                f"performance ratio at {measured.level}", ratio, limit, ViewCode.RATING, above=False
            )
        ],
        weak_unit(context),
        "Look at the outdoor coil and its clearances first; then compare capacity at full load, "
        "and have superheat and subcooling read.",
        "The coil: anyone, with the unit switched off. The refrigerant circuit: a certified "
        "technician only.",
        context.costed(
            context.lacking(
                measured.electricity.value,
                np.ones(len(context.analysis.segments.state), np.bool_),
                exact(1.0, "") - ratio,
            ),
            f"{electricity_lost(measured, ratio).value:,.0f} of it of the compared running, the "
            "rest of hot water and starts if they lack the same",
        ),
        CARE_REFRIGERANT,
        f"Performance ratio + U at or above {limit:g} over 24 h or more.",
    )
