"""A reading that stands still while the unit goes on."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import Floats, Ints, Span, edges_of
from ember.description.installation import HEATERS
from ember.metering.resolution import step_of
from ember.trust.check import Check, Picture, Soundness, Touches, not_checkable, series, sound
from ember.trust.seen import Seen, filled

CODE = CheckCode.STUCK_READINGS
LEAST_HOURS = 3.0  # for which water, power and flow may not stand still, common practice
COARSE = 0.3  # step of a temperature from which it stands still more easily [K]
COARSE_HOURS = 12.0
POWER_HOURS = 8.0  # a unit at its least output draws the same for hours, common practice
OUTDOOR_HOURS = 24.0  # fog and a coarse sensor hold a reading for half a day, common practice
COARSE_OUTDOOR_HOURS = 36.0
SHORT_RECORD = 72.0  # hours of a record that may be one value throughout
LEAST_READINGS = 6  # alike, of a channel that is seldom read
COLD_DELTA = 0.2  # below which the water says that the unit rests [K]
RUNS = 0.2  # of the usual full power
LEAST_EDGES = 2  # starts or stops of the unit meanwhile
HEAT = 10 * 3.6e6  # that must have passed elsewhere for a register to be called stuck [J]


def stuck(seen: Seen) -> Check:
    """Stretches in which a channel repeats the same value although the unit starts and stops, or
    heat and electricity pass. Source: common practice."""
    trace, found = seen.trace, []
    edges = edges_of(seen.on)
    looked = 0
    for channel, touches in _channels(seen).items():
        looked += 1
        least = LEAST_HOURS
        if touches == Touches.CONDITIONS:
            least = COARSE_OUTDOOR_HOURS if step_of(trace[channel]) > COARSE else OUTDOOR_HOURS
        elif touches == Touches.ELECTRICITY:
            least = POWER_HOURS
        elif channel.endswith("temp") and step_of(trace[channel]) > COARSE:
            least = COARSE_HOURS
        least = max(least, LEAST_READINGS * trace.native_of(channel) / 3600)
        for span in constant(trace[channel], round(least * seen.hour)):
            if seen.left_out[span.start : span.stop].all():
                continue
            if len(span) == len(trace) and len(span) < SHORT_RECORD * seen.hour:
                continue
            if touches != Touches.CONDITIONS and not _goes_on(seen, channel, span, edges):
                continue
            found.append((channel, touches, span))
    for channel, span in _registers(seen):
        looked += 1
        if not seen.left_out[span.start : span.stop].all():
            found.append((channel, Touches.HEAT, span))
    if not looked:
        return not_checkable(CODE, "Nothing is logged that could stand still.")
    if not found:
        return sound(CODE, "No reading stands still while the unit starts and stops.")
    spans = tuple(seen.period(f"{channel} stuck", span) for channel, _, span in found)
    hours = sum(p.stop - p.start for p in spans) / 3600
    which = ", ".join(dict.fromkeys(channel for channel, _, _ in found))
    return Check(
        CODE,
        Soundness.DOUBTFUL,
        f"The same value for {hours:,.0f} h in all while the unit goes on ({which}): "
        f"{seen.said(spans)}.",
        spans,
        "Exclude these stretches; look at the sensor, its cable and the logger.",
        tuple(seen.exclusion(s, s.name) for s in spans),
        tuple(dict.fromkeys(touches for _, touches, _ in found)),
        _picture(seen, found[0][0], spans[0]),
    )


def constant(values: Floats, least: int) -> list[Span]:
    """Stretches of at least so many cells, two or more, with one and the same known value."""
    bounds = np.concatenate([[0], np.flatnonzero(values[1:] != values[:-1]) + 1, [len(values)]])
    length = np.diff(bounds)
    return [
        Span(int(bounds[k]), int(bounds[k + 1])) for k in np.flatnonzero(length >= max(least, 2))
    ]


def _channels(seen: Seen) -> dict[str, Touches]:
    named: dict[str, Touches] = {}
    if seen.circuit is not None:
        circuit = seen.circuit
        named |= dict.fromkeys((circuit.flow_temp, circuit.return_temp), Touches.HEAT)
        named[circuit.flow_rate] = Touches.HEAT
    for meter in seen.installation.electricity:
        if meter.channel.startswith("power") and "compressor" in meter.includes:
            named[meter.channel] = Touches.ELECTRICITY
    named[seen.installation.outdoor.channel] = Touches.CONDITIONS
    return {channel: touches for channel, touches in named.items() if channel in seen.trace}


def _goes_on(seen: Seen, channel: str, span: Span, edges: Ints) -> bool:
    """Whether the unit does something during a span that the channel should show."""
    inside = slice(span.start, span.stop)
    value = float(seen.trace[channel][span.start])
    first, last = np.searchsorted(edges, [span.start, span.stop])
    circuit = seen.circuit
    if channel.startswith("power"):
        if circuit is None:
            return False
        heat = seen.streams.heat[circuit.name].energy[inside] * seen.surely_heating[inside]
        cold = np.count_nonzero(seen.delta[inside] < COLD_DELTA)
        warmed = float(np.nansum(np.maximum(heat, 0.0))) - _by_heaters(seen, inside)
        limit = 0.5e3 * len(span) * seen.trace.step  # 500 W all the time
        return bool(cold > seen.hour / 2 if value > seen.at_rest else warmed > limit)
    if last - first < LEAST_EDGES or seen.runs_by_water or not _rests_and_runs(seen, inside):
        return False
    if circuit is not None and channel == circuit.flow_rate:
        if value == 0:
            return bool(np.count_nonzero(seen.on[inside]) > seen.hour)
        rest = ~seen.on
        rest[inside] = False
        usual = seen.trace[channel][rest][:: max(1, int(rest.sum()) // 20_000)]
        return bool(len(usual)) and float(np.nanmedian(usual)) < 0.1 * value
    return True


def _by_heaters(seen: Seen, inside: slice) -> float:
    """Electricity of heaters with a meter of their own: heat that the unit did not make [J]."""
    return sum(
        float(np.nansum(seen.streams.electricity[meter.name].energy[inside]))
        for meter in seen.installation.electricity
        if HEATERS.issuperset(meter.includes) and meter.name in seen.streams.electricity
    )


def _rests_and_runs(seen: Seen, inside: slice) -> bool:
    """Whether the unit clearly rests and clearly runs in some cells: at its least output it may
    seem to start and stop without doing so."""
    if seen.unit is None or not seen.unit.sampled:
        return True
    power = seen.unit.energy[inside] / seen.trace.step
    sample = seen.unit.energy[seen.on][:: max(1, int(seen.on.sum()) // 20_000)] / seen.trace.step
    full = float(np.nanpercentile(sample, 95)) if len(sample) else np.inf
    return bool(np.nanmin(power) < seen.at_rest and np.nanmax(power) > RUNS * full)


def _registers(seen: Seen) -> list[tuple[str, Span]]:
    """Heat registers that stand still while flow × ΔT gives heat."""
    if seen.circuit is None:
        return []
    other = np.maximum(filled(seen.streams.heat[seen.circuit.name].energy), 0.0)
    passed = np.concatenate([[0.0], np.cumsum(other)])
    found = []
    for register in seen.installation.registers:
        if register.name not in seen.streams.heat:
            continue
        values = seen.trace[register.channel]
        known = np.flatnonzero(np.isfinite(values))
        bounds = known[np.flatnonzero(np.diff(values[known], prepend=np.nan) != 0)]
        ends = np.append(bounds[1:], len(values))
        need = max(HEAT, 5 * register.resolution_kwh * 3.6e6)
        native = seen.trace.native_of(register.channel)
        least = max(LEAST_HOURS, LEAST_READINGS * native / 3600) * seen.hour
        still = (passed[ends] - passed[bounds] > need) & (ends - bounds > least)
        found += [
            (register.channel, Span(int(a), int(b)))
            for a, b in zip(bounds[still], ends[still], strict=True)
        ]
    return found


def _picture(seen: Seen, channel: str, period: Period) -> Picture:
    """The first stretch with a day on either side."""
    part = seen.trace.between(period.start - 86_400, period.stop + 86_400)
    at = part.start + part.step * np.arange(len(part))
    return Picture("time", channel, True, (series(channel, at, part[channel], "line"),))
