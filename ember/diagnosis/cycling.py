"""Short cycling: starts that never become runs."""

from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import words_of

say = words_of(__name__)

CYCLING_FEW = 30  # runs, from which shares of them say something
WORTH = 0.5  # starts of each running hour that are no fault, common practice
CLEAR = 2.0  # times the share of short runs, from which it is sure without its cost


def short_cycling(context: FindingContext) -> Finding | None:
    """Runs too short to be efficient, or starts too close together.

    Lost: the start losses of what is more than one start in an hour of running.
    """
    runs, limits = context.runs, context.limits
    if runs.count < CYCLING_FEW or runs.cycling is None:
        return None
    crowded = runs.most_an_hour >= limits.starts_an_hour
    short = runs.short_share > limits.short_runs
    if not crowded and not short:
        return None
    on = float(context.ran.hours.of["on"][context.within.hours()].sum()) / 3600
    lost = None
    starts = context.starts
    if starts.loss is not None and starts.known and runs.count:
        excess = max(runs.count - WORTH * on, 0.0) / runs.count
        lost = starts.loss.scaled(excess * runs.count / starts.known)
        lost = lost if lost.value > 0 else None
    sure = context.worth(lost) or (lost is None and runs.short_share > CLEAR * limits.short_runs)
    at = runs.most_at
    evidence = [
        context.evidence(
            say("share_runs_under"),
            counted(runs.short_share),
            limits.short_runs,
            ViewCode.RUNS,
        ),
        context.evidence(
            say("most_starts_within"),
            counted(float(runs.most_an_hour)),
            limits.starts_an_hour,
            ViewCode.RUNNING,
            span=(at, at + 7200.0) if at else None,
        ),
    ]
    size = context.capacity
    too_large: tuple[str, ...] = ()
    if size.at_design and size.rated_design and size.rated_design > 1.3 * size.at_design:
        too_large = (
            say("rated_kw_design", rated_design=size.rated_design, at_design=size.at_design),
        )
    return context.finding(
        FindingCode.SHORT_CYCLING,
        say("sentence", cycling=runs.cycling),
        Weight.ACTION if sure else Weight.ADVISORY,
        evidence if short else evidence[::-1],
        [
            Cause(say("cause_hysteresis_thermostat")),
            Cause(say("cause_unit_too"), too_large),
            Cause(say("cause_too_little")),
            Cause(say("cause_two_pumps")),
        ],
        say("next_check"),
        care("anybody"),
        context.costed(lost, say("basis_starts_beyond"))
        if lost
        else context.costed(None, say("basis_start_costs")),
        care("comfort"),
        say("clears", short_runs=limits.short_runs, starts_an_hour=limits.starts_an_hour),
    )
