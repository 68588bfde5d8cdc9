"""Air in the water: the flow reading jumps while the pump runs steadily."""

import numpy as np

from ember.basis.clock import DAY, iso_local
from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import Bools, Floats, Ints, spans_of
from ember.messages import words_of
from ember.states import State
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext, by_day

say = words_of(__name__)

# mean jump from reading to reading as a share of the flow; healthy: 0.01–0.03 (cp)
FLOW_SCATTER_MOST = 0.08
FLOW_SCATTER_LEAST_HOURS = 1.0  # of running, for a day to be judged
# distance from the neighbours' mean over the jump; noise: 1.0 to 1.3 (cp)
FLOW_SCATTER_SMOOTH = 0.5
BRIDGE = 3  # days between two bad ones that are not believed either (selection, handbook §6)
HEALTHY_RUNS = 12  # of each mode before an ill meter is sound again (handbook §6)


def flow_scatter(context: CheckContext) -> Check:
    """Days on which the flow reading is erratic. What is excluded already is not looked at.

    Source: common practice.
    """
    circuit, trace = context.circuit, context.trace
    if circuit is None:
        return not_checkable(CheckCode.FLOW_READING, say("flow_not_logged"))
    if context.mixing:
        return not_checkable(CheckCode.FLOW_READING, context.mixing, say("log_every_minute"))
    flow, state = trace[circuit.flow_rate], context.states.state
    # Settled, in the same state, so that valve changes and starts do not count.
    settled = (state == State.HEATING) | (state == State.HOT_WATER)
    settled &= ~context.left_out
    both = settled[1:] & settled[:-1] & (state[1:] == state[:-1])
    jump = np.abs(np.diff(flow))
    both &= np.isfinite(jump)
    jump[~both] = 0.0
    level = np.where(both, flow[1:], 0.0)
    edges = context.days
    total, base = by_day(jump, edges), by_day(level, edges)
    hours = by_day(both.astype(float), edges) / context.hour
    judged = hours >= FLOW_SCATTER_LEAST_HOURS
    if not judged.any():  # short runs of hot water alone: all of them together
        return _altogether(context, float(total.sum()), float(base.sum()), float(hours.sum()))
    with np.errstate(invalid="ignore", divide="ignore"):
        scatter = np.where(judged, total / base, 0.0)
        scatter = np.where(judged & (base <= 0), np.inf, scatter)
    bad = scatter > FLOW_SCATTER_MOST
    smooth = bad & _smooth(flow, both, edges) if bad.any() else bad
    bad &= ~smooth
    at = context.day_instants
    shown = np.where(judged, np.minimum(scatter, 1.0) * 100, np.nan)
    picture = Picture(
        "day",
        say("mean_jump_flow"),
        True,
        (series("day", at, shown),),
        (("limit", FLOW_SCATTER_MOST * 100),),
    )
    typical = float(np.median(scatter[judged & ~bad])) if (judged & ~bad).any() else np.nan
    if not bad.any():
        return sound(
            CheckCode.FLOW_READING,
            say("one_reading_next", typical=typical, flow_scatter_most=FLOW_SCATTER_MOST)
            + _swings(smooth),
            picture,
        )
    for gap in spans_of(~bad):  # a good day between bad ones is not believed
        if gap.start > 0 and gap.stop < len(bad) and len(gap) <= BRIDGE:
            bad[gap.start : gap.stop] = True
    spans = tuple(
        Period(say("flow_erratic"), _at(context, s.start), _at(context, s.stop))
        for s in spans_of(bad)
    )
    waiting = tuple(
        Period(say("not_yet_sound"), _at(context, s.start), _at(context, s.stop))
        for s in spans_of(_not_yet(context, bad) & ~bad)
    )
    count = round(sum(span.stop - span.start for span in spans) / DAY)
    worst = float(np.max(scatter[np.isfinite(scatter)]))
    zone = context.zone
    said = (
        say(
            "days_flow_reading",
            count=count,
            judged=int(judged.sum()),
            worst=worst,
            flow_scatter_most=FLOW_SCATTER_MOST,
        )
        + ", ".join(
            say(
                "day_to_day",
                start=iso_local(s.start, zone)[:10],
                stop=iso_local(s.stop - 1, zone)[:10],
            )
            for s in spans[:3]
        )
        + (say("and_more", spans=len(spans) - 3) if len(spans) > 3 else ".")
    )
    if waiting:
        said += say(
            "sound_again_only",
            healthy_runs=HEALTHY_RUNS,
            stop=iso_local(waiting[-1].stop - 1, zone)[:10],
        )
    return Check(
        code=CheckCode.FLOW_READING,
        soundness=Soundness.DOUBTFUL,
        sentence=said,
        spans=(*spans, *waiting),
        remedy=say("remedy"),
        proposals=tuple(context.exclusion(s, say("air_flow_meter")) for s in spans),
        affects=(Affects.HEAT,),
        picture=picture,
    )


def _altogether(context: CheckContext, jumped: float, level: float, hours: float) -> Check:
    """A record whose days each run too short to be judged."""
    if hours < FLOW_SCATTER_LEAST_HOURS or level <= 0:
        return not_checkable(CheckCode.FLOW_READING, say("there_no_hour"))
    scatter = jumped / level
    said = say(
        "running_all_short", hours=hours, scatter=scatter, flow_scatter_most=FLOW_SCATTER_MOST
    )
    if scatter <= FLOW_SCATTER_MOST:
        return sound(CheckCode.FLOW_READING, said)
    return Check(
        CheckCode.FLOW_READING,
        Soundness.DOUBTFUL,
        said,
        (context.whole,),
        say("altogether_remedy"),
        (),
        (Affects.HEAT,),
    )


def _smooth(flow: Floats, both: Bools, edges: Ints) -> Bools:
    """Days on which the flow swings smoothly, (d,): each reading lies near the mean of those around
    it, as no reading of an erratic meter does. Pumps that fight do that, air in the water not."""
    triple = both[1:] & both[:-1]
    around = np.abs(flow[1:-1] - (flow[2:] + flow[:-2]) / 2)
    around[~triple] = 0.0
    jumps = (np.abs(np.diff(flow))[1:] + np.abs(np.diff(flow))[:-1]) / 2
    jumps[~triple] = 0.0
    pad = np.zeros(1)
    rough, moved = (
        by_day(np.concatenate([around, pad]), edges),
        by_day(np.concatenate([jumps, pad]), edges),
    )
    with np.errstate(invalid="ignore", divide="ignore"):
        found: Bools = rough < FLOW_SCATTER_SMOOTH * moved
    return found


def _swings(smooth: Bools) -> str:
    if not smooth.any():
        return ""
    return say("days_swings_smoothly", smooth=int(smooth.sum()))


def _at(context: CheckContext, day: int) -> float:
    return float(context.trace.instant(int(context.days[day])))


def _not_yet(context: CheckContext, bad: Bools) -> Bools:
    """Days after bad ones on which too few healthy runs of each mode have passed, (d,)."""
    state, edges = context.states.state, context.days
    counts = []
    for mode in (State.HEATING, State.HOT_WATER):
        begins = np.flatnonzero((state[1:] == mode) & (state[:-1] != mode)) + 1
        per_day = np.bincount(np.searchsorted(edges, begins, side="right") - 1, minlength=len(bad))[
            : len(bad)
        ]
        if per_day.sum() >= HEALTHY_RUNS:
            counts.append(per_day)
    waiting = np.zeros(len(bad), np.bool_)
    for span in spans_of(bad):
        stop = span.stop
        for per_day in counts:
            passed = np.cumsum(per_day[span.stop :])
            stop = max(stop, span.stop + int(np.searchsorted(passed, HEALTHY_RUNS)) + 1)
        waiting[span.stop : min(stop, len(bad))] = True
    return waiting
