"""Single readings far from those before and after."""

import numpy as np

from ember.basis.channels import quantity_of
from ember.basis.codes import CheckCode
from ember.basis.quantity import symbol
from ember.basis.series import Bools, Floats, Span
from ember.corrections import stands_out
from ember.description.installation import HEATERS, Consumer, Rule
from ember.running import State
from ember.trust.check import Check, Picture, Soundness, Touches, not_checkable, series, sound
from ember.trust.seen import Seen

CODE = CheckCode.SPIKES
WATER_JUMP = 25.0  # [K] from one reading to the next and back, common practice
AROUND = 900.0  # of a change-over to hot water, when water really comes and goes [s]
OUTDOOR_JUMP = 8.0
SLOW = 240  # steps above which water may really come and go within one reading [s]
SLOW_FACTOR = 2.0
HEATER = 10_000.0  # that a heater within a meter may really jump by [W], common practice
TIMES_USUAL = 2.0  # of the 99th percentile, for flow and power
LEAST = 3  # spikes before anything is said


def spikes(seen: Seen) -> Check:
    """Readings of flow, temperatures and power that stand out alone. Source: common practice."""
    trace = seen.trace
    rules, spans, said, worst = [], [], [], None
    touched: list[Touches] = []
    limits = _limits(seen)
    turning = _turning(seen)
    if not limits:
        return not_checkable(CODE, "Nothing is logged that could jump.")
    for channel, (jump, touches) in limits.items():
        out = stands_out(trace[channel], jump) & ~seen.left_out
        if touches == Touches.HEAT:
            out &= ~turning
        count = int(np.count_nonzero(out))
        if count < LEAST:
            continue
        unit = symbol(quantity_of(channel).unit)
        at = np.flatnonzero(out)
        shown = f"{jump:.2g}" if jump < 10 else f"{jump:,.0f}"
        said.append(f"{channel} {count} times by more than {shown} {unit}")
        rules.append(
            Rule(channel=channel, jump=float(f"{jump:.4g}"), reason=f"spikes of {channel}")
        )
        spans += [seen.period(f"spike of {channel}", Span(int(k), int(k) + 1)) for k in at[:100]]
        touched.append(touches)
        worst = worst or (channel, int(at[0]))
    if worst is None:
        return sound(CODE, "No reading stands out alone from those before and after.")
    channel, first = worst
    around = trace.slice(Span(max(0, first - 120), min(len(trace), first + 120)))
    instants = around.start + around.step * np.arange(len(around))
    return Check(
        CODE,
        Soundness.DOUBTFUL,
        f"Single readings jump and come back: {'; '.join(said)}.",
        tuple(spans),
        "Leave these readings out by rule; look at loose contacts, long cables and the logger.",
        tuple(rules),
        tuple(dict.fromkeys(touched)),
        Picture("time", channel, True, (series(channel, instants, around[channel], "line"),)),
    )


def _turning(seen: Seen) -> Bools:
    """Where the valve has just turned, or is about to, (n,)."""
    hot = seen.states.state == State.HOT_WATER
    cells = max(1, round(AROUND / seen.trace.step))
    count = np.zeros(len(hot) + 1, np.int64)
    for edge in np.flatnonzero(hot[1:] != hot[:-1]).tolist():
        count[max(0, edge - cells)] += 1
        count[min(len(hot), edge + cells)] -= 1
    turning: Bools = np.cumsum(count[:-1]) > 0
    return turning


def _limits(seen: Seen) -> dict[str, tuple[float, Touches]]:
    slow = SLOW_FACTOR if seen.trace.step > SLOW else 1.0
    limits: dict[str, tuple[float, Touches]] = {}
    if seen.circuit is not None:
        water = (WATER_JUMP * slow, Touches.HEAT)
        limits |= dict.fromkeys((seen.circuit.flow_temp, seen.circuit.return_temp), water)
        limits[seen.circuit.flow_rate] = _usual(seen.trace[seen.circuit.flow_rate]), Touches.HEAT
    for meter in seen.installation.electricity:
        # A heater's meter really jumps for a reading or two.
        unit = meter.channel.startswith("power") and Consumer.COMPRESSOR in meter.includes
        if unit and meter.channel in seen.trace:
            least = HEATER if HEATERS & set(meter.includes) else 500.0
            jump = max(_usual(seen.trace[meter.channel]), least)
            limits[meter.channel] = jump, Touches.ELECTRICITY
    limits[seen.installation.outdoor.channel] = OUTDOOR_JUMP * slow, Touches.CONDITIONS
    return {channel: limit for channel, limit in limits.items() if channel in seen.trace}


def _usual(values: Floats) -> float:
    sample = values[:: max(1, len(values) // 20_000)]
    sample = sample[np.isfinite(sample)]
    return TIMES_USUAL * float(np.percentile(sample, 99)) if len(sample) else np.inf
