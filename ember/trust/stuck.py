"""A reading that stands still while the unit goes on."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import Floats, Ints, Span, edges_of, filled
from ember.description.installation import HEATERS
from ember.messages import words_of
from ember.metering.resolution import step_of
from ember.trust.check import Affects, Check, Picture, Soundness, not_checkable, series, sound
from ember.trust.context import CheckContext

say = words_of(__name__)

# for which water, power and flow may not stand still, common practice, chosen
STUCK_LEAST_HOURS = 3.0
STUCK_COARSE = 0.3  # step of a temperature from which it stands still more easily [K]
COARSE_HOURS = 12.0
POWER_HOURS = 8.0  # a unit at its least output draws the same for hours, common practice, chosen
# fog and a coarse sensor hold a reading for half a day, common practice, chosen
OUTDOOR_HOURS = 24.0
COARSE_OUTDOOR_HOURS = 36.0
SHORT_RECORD = 72.0  # hours of a record that may be one value throughout
LEAST_READINGS = 6  # alike, of a channel that is seldom read
COLD_DELTA = 0.2  # below which the water says that the unit rests [K]
RUNS = 0.2  # of the usual full power
LEAST_EDGES = 2  # starts or stops of the unit meanwhile
STUCK_HEAT = 10 * 3.6e6  # that must have passed elsewhere for a register to be called stuck [J]


def stuck(context: CheckContext) -> Check:
    """Stretches in which a channel repeats the same value although the unit starts and stops, or
    heat and electricity pass. Source: common practice."""
    trace, found = context.trace, []
    edges = edges_of(context.on)
    looked = 0
    for channel, affects in _channels(context).items():
        looked += 1
        least = STUCK_LEAST_HOURS
        if affects == Affects.CONDITIONS:
            least = (
                COARSE_OUTDOOR_HOURS if step_of(trace[channel]) > STUCK_COARSE else OUTDOOR_HOURS
            )
        elif affects == Affects.ELECTRICITY:
            least = POWER_HOURS
        elif channel.endswith("temp") and step_of(trace[channel]) > STUCK_COARSE:
            least = COARSE_HOURS
        least = max(least, LEAST_READINGS * trace.native_of(channel) / 3600)
        for span in constant(trace[channel], round(least * context.hour)):
            if context.left_out[span.start : span.stop].all():
                continue
            if len(span) == len(trace) and len(span) < SHORT_RECORD * context.hour:
                continue
            if affects != Affects.CONDITIONS and not _goes_on(context, channel, span, edges):
                continue
            found.append((channel, affects, span))
    for channel, span in _registers(context):
        looked += 1
        if not context.left_out[span.start : span.stop].all():
            found.append((channel, Affects.HEAT, span))
    if not looked:
        return not_checkable(CheckCode.STUCK_READINGS, say("nothing_logged_could"))
    if not found:
        return sound(CheckCode.STUCK_READINGS, say("no_reading_stands"))
    spans = tuple(context.period(say("stuck", channel=channel), span) for channel, _, span in found)
    hours = sum(p.stop - p.start for p in spans) / 3600
    which = ", ".join(dict.fromkeys(channel for channel, _, _ in found))
    return Check(
        code=CheckCode.STUCK_READINGS,
        soundness=Soundness.DOUBTFUL,
        sentence=say("sentence", hours=hours, which=which, said=context.said(spans)),
        spans=spans,
        remedy=say("remedy"),
        proposals=tuple(context.exclusion(s, s.name) for s in spans),
        affects=tuple(dict.fromkeys(affects for _, affects, _ in found)),
        picture=_picture(context, found[0][0], spans[0]),
    )


def constant(values: Floats, least: int) -> list[Span]:
    """Stretches of at least so many cells, two or more, with one and the same known value."""
    bounds = np.concatenate([[0], np.flatnonzero(values[1:] != values[:-1]) + 1, [len(values)]])
    length = np.diff(bounds)
    return [
        Span(int(bounds[k]), int(bounds[k + 1])) for k in np.flatnonzero(length >= max(least, 2))
    ]


def _channels(context: CheckContext) -> dict[str, Affects]:
    named: dict[str, Affects] = {}
    if context.circuit is not None:
        circuit = context.circuit
        named |= dict.fromkeys((circuit.flow_temp, circuit.return_temp), Affects.HEAT)
        named[circuit.flow_rate] = Affects.HEAT
    for meter in context.installation.electricity:
        if meter.channel.startswith("power") and "compressor" in meter.includes:
            named[meter.channel] = Affects.ELECTRICITY
    named[context.installation.outdoor.channel] = Affects.CONDITIONS
    return {channel: affects for channel, affects in named.items() if channel in context.trace}


def _goes_on(context: CheckContext, channel: str, span: Span, edges: Ints) -> bool:
    """Whether the unit does something during a span that the channel should show."""
    inside = slice(span.start, span.stop)
    value = float(context.trace[channel][span.start])
    first, last = np.searchsorted(edges, [span.start, span.stop])
    circuit = context.circuit
    if channel.startswith("power"):
        if circuit is None:
            return False
        heat = (
            context.meter_energies.heat[circuit.name].energy[inside]
            * context.surely_heating[inside]
        )
        cold = np.count_nonzero(context.delta[inside] < COLD_DELTA)
        warmed = float(np.nansum(np.maximum(heat, 0.0))) - _by_heaters(context, inside)
        limit = 0.5e3 * len(span) * context.trace.step  # 500 W all the time
        return bool(cold > context.hour / 2 if value > context.at_rest else warmed > limit)
    if last - first < LEAST_EDGES or context.runs_by_water or not _rests_and_runs(context, inside):
        return False
    if circuit is not None and channel == circuit.flow_rate:
        if value == 0:
            return bool(np.count_nonzero(context.on[inside]) > context.hour)
        rest = ~context.on
        rest[inside] = False
        usual = context.trace[channel][rest][:: max(1, int(rest.sum()) // 20_000)]
        return bool(len(usual)) and float(np.nanmedian(usual)) < 0.1 * value
    return True


def _by_heaters(context: CheckContext, inside: slice) -> float:
    """Electricity of heaters with a meter of their own: heat that the unit did not make [J]."""
    return sum(
        float(np.nansum(context.meter_energies.electricity[meter.name].energy[inside]))
        for meter in context.installation.electricity
        if HEATERS.issuperset(meter.includes) and meter.name in context.meter_energies.electricity
    )


def _rests_and_runs(context: CheckContext, inside: slice) -> bool:
    """Whether the unit clearly rests and clearly runs in some cells: at its least output it may
    seem to start and stop without doing so."""
    if context.unit is None or not context.unit.sampled:
        return True
    power = context.unit.energy[inside] / context.trace.step
    sample = (
        context.unit.energy[context.on][:: max(1, int(context.on.sum()) // 20_000)]
        / context.trace.step
    )
    full = float(np.nanpercentile(sample, 95)) if len(sample) else np.inf
    return bool(np.nanmin(power) < context.at_rest and np.nanmax(power) > RUNS * full)


def _registers(context: CheckContext) -> list[tuple[str, Span]]:
    """Heat registers that stand still while flow × ΔT gives heat."""
    if context.circuit is None:
        return []
    other = np.maximum(filled(context.meter_energies.heat[context.circuit.name].energy), 0.0)
    passed = np.concatenate([[0.0], np.cumsum(other)])
    found = []
    for register in context.installation.registers:
        if register.name not in context.meter_energies.heat:
            continue
        values = context.trace[register.channel]
        known = np.flatnonzero(np.isfinite(values))
        bounds = known[np.flatnonzero(np.diff(values[known], prepend=np.nan) != 0)]
        ends = np.append(bounds[1:], len(values))
        need = max(STUCK_HEAT, 5 * register.resolution_kwh * 3.6e6)
        native = context.trace.native_of(register.channel)
        least = max(STUCK_LEAST_HOURS, LEAST_READINGS * native / 3600) * context.hour
        still = (passed[ends] - passed[bounds] > need) & (ends - bounds > least)
        found += [
            (register.channel, Span(int(a), int(b)))
            for a, b in zip(bounds[still], ends[still], strict=True)
        ]
    return found


def _picture(context: CheckContext, channel: str, period: Period) -> Picture:
    """The first stretch with a day on either side."""
    part = context.trace.between(period.start - 86_400, period.stop + 86_400)
    at = part.start + part.step * np.arange(len(part))
    return Picture("time", channel, True, (series(channel, at, part[channel], "line"),))
