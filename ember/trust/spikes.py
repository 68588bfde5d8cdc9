"""Single readings far from those before and after."""

import numpy as np

from ember.basis.channels import quantity_of
from ember.basis.codes import CheckCode
from ember.basis.quantity import symbol
from ember.basis.series import Bools, Floats, Span
from ember.corrections.applied import stands_out
from ember.description.installation import HEATERS, Consumer, Rule
from ember.messages import words_of
from ember.states import State
from ember.trust.check import Affects, Check, Picture, Soundness, not_checkable, series, sound
from ember.trust.context import CheckContext

say = words_of(__name__)

WATER_JUMP = 25.0  # [K] from one reading to the next and back, common practice, chosen
SPIKES_AROUND = 900.0  # of a change-over to hot water, when water really comes and goes [s]
OUTDOOR_JUMP = 8.0
SPIKES_SLOW = 240  # steps above which water may really come and go within one reading [s]
SLOW_FACTOR = 2.0
HEATER = 10_000.0  # that a heater within a meter may really jump by [W], common practice, chosen
TIMES_USUAL = 2.0  # of the 99th percentile, for flow and power
SPIKES_LEAST = 3  # spikes before anything is said


def spikes(context: CheckContext) -> Check:
    """Readings of flow, temperatures and power that stand out alone. Source: common practice."""
    trace = context.trace
    rules, spans, said, worst = [], [], [], None
    touched: list[Affects] = []
    limits = _limits(context)
    turning = _turning(context)
    if not limits:
        return not_checkable(CheckCode.SPIKES, say("nothing_logged_could"))
    for channel, (jump, affects) in limits.items():
        out = stands_out(trace[channel], jump) & ~context.left_out
        if affects == Affects.HEAT:
            out &= ~turning
        count = int(np.count_nonzero(out))
        if count < SPIKES_LEAST:
            continue
        unit = symbol(quantity_of(channel).unit)
        at = np.flatnonzero(out)
        shown = f"{jump:.2g}" if jump < 10 else f"{jump:,.0f}"
        said.append(say("times_more_than", channel=channel, count=count, shown=shown, unit=unit))
        rules.append(
            Rule(channel=channel, jump=float(f"{jump:.4g}"), reason=say("spikes", channel=channel))
        )
        spans += [
            context.period(say("spike", channel=channel), Span(int(k), int(k) + 1))
            for k in at[:100]
        ]
        touched.append(affects)
        worst = worst or (channel, int(at[0]))
    if worst is None:
        return sound(CheckCode.SPIKES, say("no_reading_stands"))
    channel, first = worst
    around = trace.slice(Span(max(0, first - 120), min(len(trace), first + 120)))
    instants = around.start + around.step * np.arange(len(around))
    return Check(
        code=CheckCode.SPIKES,
        soundness=Soundness.DOUBTFUL,
        sentence=say("sentence", said="; ".join(said)),
        spans=tuple(spans),
        remedy=say("remedy"),
        proposals=tuple(rules),
        affects=tuple(dict.fromkeys(touched)),
        picture=Picture(
            "time", channel, True, (series(channel, instants, around[channel], "line"),)
        ),
    )


def _turning(context: CheckContext) -> Bools:
    """Where the valve has just turned, or is about to, (n,)."""
    hot = context.states.state == State.HOT_WATER
    cells = max(1, round(SPIKES_AROUND / context.trace.step))
    count = np.zeros(len(hot) + 1, np.int64)
    for edge in np.flatnonzero(hot[1:] != hot[:-1]).tolist():
        count[max(0, edge - cells)] += 1
        count[min(len(hot), edge + cells)] -= 1
    turning: Bools = np.cumsum(count[:-1]) > 0
    return turning


def _limits(context: CheckContext) -> dict[str, tuple[float, Affects]]:
    slow = SLOW_FACTOR if context.trace.step > SPIKES_SLOW else 1.0
    limits: dict[str, tuple[float, Affects]] = {}
    if context.circuit is not None:
        water = (WATER_JUMP * slow, Affects.HEAT)
        limits |= dict.fromkeys((context.circuit.flow_temp, context.circuit.return_temp), water)
        limits[context.circuit.flow_rate] = (
            _usual(context.trace[context.circuit.flow_rate]),
            Affects.HEAT,
        )
    for meter in context.installation.electricity:
        # A heater's meter really jumps for a reading or two.
        unit = meter.channel.startswith("power") and Consumer.COMPRESSOR in meter.includes
        if unit and meter.channel in context.trace:
            least = HEATER if HEATERS & set(meter.includes) else 500.0
            jump = max(_usual(context.trace[meter.channel]), least)
            limits[meter.channel] = jump, Affects.ELECTRICITY
    limits[context.installation.outdoor.channel] = OUTDOOR_JUMP * slow, Affects.CONDITIONS
    return {channel: limit for channel, limit in limits.items() if channel in context.trace}


def _usual(values: Floats) -> float:
    sample = values[:: max(1, len(values) // 20_000)]
    sample = sample[np.isfinite(sample)]
    return TIMES_USUAL * float(np.percentile(sample, 99)) if len(sample) else np.inf
