"""Below rated since a date: something broke, or was changed then."""

import numpy as np

from ember.basis.clock import wall_clock
from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause, Finding
from ember.diagnosis.refrigerant import weak_unit
from ember.messages import Source, words_of

say = words_of(__name__)

LEAST_LEFT = 10.0  # days since the change, for it to be spoken of


def below_since(context: FindingContext) -> Finding | None:
    """A fall of the performance ratio at one date, with the weather taken into account."""
    change = context.drift.change
    if change is None or not change.sure or change.step > -context.limits.change:
        return None
    if (context.period.stop - change.at) / 86_400 < LEAST_LEFT:
        return None
    zone = context.analysis.zone
    at, first, last = (
        wall_clock(t, zone).strftime("%Y-%m-%d") for t in (change.at, change.first, change.last)
    )
    step = Estimate(
        -change.step, "", (UncertaintyComponent(Source(SourceCode.DATE_CHANGE), change.se),)
    )
    measured = Estimate(
        1 + change.step, "", (UncertaintyComponent(Source(SourceCode.DATE_CHANGE), change.se),)
    )
    used = _compared_since(context, change.at)
    lost = None
    if used is not None:
        lost = context.lacking(used, context.analysis.segments.begins >= change.at, step)
    before = change.before
    sentence = say("worse_since_same", worse=step.value, at=at)
    if before >= context.limits.below_rated:
        sentence += say("rated_before")
    return context.finding(
        FindingCode.BELOW_RATED_SINCE,
        sentence,
        context.weight(step.value - step.U > 0, lost),
        [
            context.evidence(
                say("performance_ratio_since"),
                measured,
                1 - context.limits.change,
                ViewCode.RATING,
                above=False,
                span=(change.at - 7 * 86_400, change.at + 7 * 86_400),
            )
        ],
        [
            Cause(
                say("cause_something_changed"),
                (say("date_lies_between", first=first, last=last),),
            ),
            *weak_unit(context),
        ],
        say("next_check", at=at),
        say("who"),
        context.costed(lost, say("basis_running_since", at=at)),
        care("mains", "refrigerant"),
        say("clears"),
    )


def _compared_since(context: FindingContext, at: float) -> float | None:
    """Electricity of the compared running since an instant [kWh]."""
    measured = context.compared.measured
    same = context.same
    if measured is None or same is None or not same.expected.sum():
        return None
    after = float(same.expected[same.start >= at].sum()) / float(same.expected.sum())
    share = np.clip(after, 0.0, 1.0)
    return float(measured.electricity.value * share)
