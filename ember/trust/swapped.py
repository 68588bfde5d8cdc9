"""Flow and return sensors, or their columns, swapped."""

import numpy as np

from ember.basis.clock import wall_clock
from ember.basis.codes import CheckCode
from ember.basis.series import Bools, Floats, Span, spans_of
from ember.description.installation import Swap
from ember.running import State
from ember.trust.check import (
    Check,
    Picture,
    Soundness,
    Touches,
    not_checkable,
    series,
    sound,
)
from ember.trust.seen import Seen, by_day

CODE = CheckCode.SWAPPED_SENSORS
MOST = 0.5  # share of settled running with ΔT below zero; defrosts reach a tenth, common practice
LEAST_DELTA = 0.3  # [K]
LEAST_HOURS = 3.0
LEAST_DAYS = 3  # in a row before a part of the record is called swapped
BETWEEN = 10  # days without running between two swapped ones that count with them


def swapped_sensors(seen: Seen) -> Check:
    """Whether ΔT is negative for most of the running, of the whole or of a part of the record.

    Source: common practice.
    """
    circuit = seen.circuit
    if circuit is None:
        return not_checkable(CODE, "Flow and return temperatures are not logged.")
    state = seen.states.state
    active = (state == State.HEATING) | (state == State.HOT_WATER) | (state == State.DEFROST)
    active &= np.isfinite(seen.delta) & ~seen.left_out
    hours = np.count_nonzero(active) / seen.hour
    if hours < LEAST_HOURS:
        return not_checkable(CODE, f"Only {hours:.1f} h of settled running in the log.")
    negative = active & (seen.delta < -LEAST_DELTA)
    share = np.count_nonzero(negative) / np.count_nonzero(active)
    median = float(np.median(seen.delta[active]))
    running = by_day(active.astype(float), seen.days)
    turned = by_day(negative.astype(float), seen.days)
    with np.errstate(invalid="ignore", divide="ignore"):
        daily = np.where(running > 0, turned / running, np.nan)
    at = seen.day_instants
    picture = Picture(
        "day", "running with ΔT below zero [%]", True, (series("day", at, daily * 100),),
        (("limit", MOST * 100),),
    )  # fmt: skip
    said = (
        f"While the unit runs, flow minus return is {median:+.1f} K in the median and negative "
        f"in {share:.0%} of {hours:,.0f} h."
    )
    turned_days = (daily > MOST).any()
    for channel in (circuit.flow_temp, circuit.return_temp) if turned_days else ():
        # One that stands still is stuck.
        moves = np.abs(np.diff(seen.trace[channel], append=np.nan))
        daily[by_day(moves, seen.days) == 0] = np.nan
    whole = share > MOST and not (daily[running >= seen.hour] < MOST).sum() >= LEAST_DAYS
    parts = [Span(0, len(daily))] if whole else _parts(daily > MOST, running, seen.hour)
    if not parts:
        return sound(CODE, said, picture)
    spans = tuple(
        seen.whole if whole else
        seen.period("sensors swapped", Span(int(seen.days[s.start]), int(seen.days[s.stop])))
        for s in parts
    )  # fmt: skip
    channels = (circuit.flow_temp, circuit.return_temp)
    reason = "sensors swapped, found by ΔT"
    swaps = tuple(
        Swap(channels=channels, reason=reason)
        if whole
        else Swap(
            channels=channels, reason=reason, start=wall_clock(span.start, seen.zone),
            end=wall_clock(span.stop, seen.zone),
        )
        for span in spans
    )  # fmt: skip
    where = "" if whole else f", {seen.said(spans)}"
    return Check(
        CODE,
        Soundness.BROKEN,
        f"{said} The two sensors, or their columns, are swapped{where}. No COP is stated.",
        spans,
        "Check on site which sensor sits in which pipe, then accept the swap.",
        swaps,
        (Touches.HEAT, Touches.COUNTS),
        picture,
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
    return [span for span in spans_of(turned) if len(span) >= LEAST_DAYS]
