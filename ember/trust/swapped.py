"""Flow and return sensors, or their columns, swapped."""

import numpy as np

from ember.basis.clock import wall_clock
from ember.basis.codes import CheckCode
from ember.basis.series import Bools, Floats, Span, spans_of
from ember.description.installation import Swap
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

# share of settled running with ΔT below zero; defrosts reach a tenth, common practice, chosen
SWAPPED_MOST = 0.5
SWAPPED_LEAST_DELTA = 0.3  # [K]
SWAPPED_LEAST_HOURS = 3.0
SWAPPED_LEAST_DAYS = 3  # in a row before a part of the record is called swapped
BETWEEN = 10  # days without running between two swapped ones that count with them


def swapped_sensors(context: CheckContext) -> Check:
    """Whether ΔT is negative for most of the running, of the whole or of a part of the record.

    Source: common practice.
    """
    circuit = context.circuit
    if circuit is None:
        return not_checkable(CheckCode.SWAPPED_SENSORS, say("flow_return_temperatures"))
    state = context.states.state
    active = (state == State.HEATING) | (state == State.HOT_WATER) | (state == State.DEFROST)
    active &= np.isfinite(context.delta) & ~context.left_out
    hours = np.count_nonzero(active) / context.hour
    if hours < SWAPPED_LEAST_HOURS:
        return not_checkable(CheckCode.SWAPPED_SENSORS, say("only_settled_running", hours=hours))
    negative = active & (context.delta < -SWAPPED_LEAST_DELTA)
    share = np.count_nonzero(negative) / np.count_nonzero(active)
    median = float(np.median(context.delta[active]))
    running = by_day(active.astype(float), context.days)
    turned = by_day(negative.astype(float), context.days)
    with np.errstate(invalid="ignore", divide="ignore"):
        daily = np.where(running > 0, turned / running, np.nan)
    at = context.day_instants
    picture = Picture(
        "day",
        say("running_delta_below"),
        True,
        (series("day", at, daily * 100),),
        (("limit", SWAPPED_MOST * 100),),
    )
    said = say("while_unit_runs", median=median, share=share, hours=hours)
    turned_days = (daily > SWAPPED_MOST).any()
    for channel in (circuit.flow_temp, circuit.return_temp) if turned_days else ():
        # One that stands still is stuck.
        moves = np.abs(np.diff(context.trace[channel], append=np.nan))
        daily[by_day(moves, context.days) == 0] = np.nan
    whole = (
        share > SWAPPED_MOST
        and not (daily[running >= context.hour] < SWAPPED_MOST).sum() >= SWAPPED_LEAST_DAYS
    )
    parts = [Span(0, len(daily))] if whole else _parts(daily > SWAPPED_MOST, running, context.hour)
    if not parts:
        return sound(CheckCode.SWAPPED_SENSORS, said, picture)
    spans = tuple(
        context.whole
        if whole
        else context.period(
            say("sensors_swapped"), Span(int(context.days[s.start]), int(context.days[s.stop]))
        )
        for s in parts
    )
    channels = (circuit.flow_temp, circuit.return_temp)
    reason = say("sensors_swapped_found")
    swaps = tuple(
        Swap(channels=channels, reason=reason)
        if whole
        else Swap(
            channels=channels,
            reason=reason,
            start=wall_clock(span.start, context.zone),
            end=wall_clock(span.stop, context.zone),
        )
        for span in spans
    )
    where = "" if whole else f", {context.said(spans)}"
    return Check(
        code=CheckCode.SWAPPED_SENSORS,
        soundness=Soundness.BROKEN,
        sentence=say("sentence", said=said, where=where),
        spans=spans,
        remedy=say("remedy"),
        proposals=swaps,
        affects=(Affects.HEAT, Affects.COUNTS),
        picture=picture,
    )


def _parts(bad: Bools, running: Floats, hour: float) -> list[Span]:
    """Stretches of days on which ΔT is turned round, days without running bridged."""
    judged = running >= hour
    turned = bad & judged
    for gap in spans_of(~turned):
        inside = slice(gap.start, gap.stop)
        if (
            gap.start > 0
            and gap.stop < len(bad)
            and not judged[inside].any()
            and len(gap) <= BETWEEN
        ):
            turned[inside] = True
    return [span for span in spans_of(turned) if len(span) >= SWAPPED_LEAST_DAYS]
