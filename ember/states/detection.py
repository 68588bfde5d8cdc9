"""States of a unit: from logged flags where there are any, inferred otherwise."""

from collections.abc import Sequence
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import zone_named
from ember.basis.codes import KnownBy
from ember.basis.practice import HEATING_BASE
from ember.basis.series import (
    FAR_APART,
    MIXING,
    Bools,
    Floats,
    Ints,
    Span,
    Trace,
    edges_of,
    mask_of,
    spans_of,
)
from ember.corrections.applied import span_of
from ember.description.installation import (
    HEATERS,
    AirCircuit,
    Installation,
    StateIs,
    UnitKind,
    WaterCircuit,
)
from ember.messages import words_of
from ember.metering import MeterEnergies, unit_energy
from ember.metering.on import ON_LEAST, on_limit
from ember.metering.register import spread
from ember.states.defrost_detection import DEFROST_DETECTION_COARSEST, defrosts, little_flow
from ember.states.hot_water_detection import by_water, pair_of
from ember.states.state import Basis, Known, Running, State, is_on

say = words_of(__name__)

# Common practice, all of them; docs/methods.md says what each is for.
DETECTION_START_UP = 600.0  # from the start of a run until it has settled [s]
RECOVERY = 360.0  # after a defrost [s]
OFF_BELOW = 2.0  # [W]
HEATER_ON = 200.0  # [W]
COOLED_ABOVE = 24.0  # outdoors, where that of an air-to-air unit is taken for cooling [degC]
LONGEST_STEP = 3600.0  # that one step of a register may take at full power [s]
WATER_DELTA = 1.0  # by which the water is warmed or cooled while the unit runs [K]
WATER_SHARE = 0.2  # of a large ΔT, where that is smaller: a unit at its least output
WATER_TURN = 240.0  # for which ΔT may be smaller while it turns round [s]
WATER_LEAD = 300.0  # for which the water may flow before it is warmed [s]
LEAST_CHARGES = 3  # by which hot water is believed where no tank is described
COOLING_DELTA = -1.0  # supply minus return [K]
COOLING_SHORTEST = 1200.0  # so long is no defrost [s]
COOLING_WARMEST = 22.0  # of water or air that cools a house [degC]
COOLING_COLDEST = 12.0  # outdoor temperature above which cooling is believed [degC]


def running(installation: Installation, trace: Trace, meter_energies: MeterEnergies) -> Running:
    """States, runs and defrosts of a trace.

    Parameters
    ----------
    installation, trace : Installation
        what is installed, and its readings.
    meter_energies : MeterEnergies
        its meters, from `ember.metering.meter`.

    Source: common practice; each limit is a named constant of this module.
    """
    n, step = len(trace), trace.step
    basis: dict[str, Known] = {}
    notes: list[str] = []
    circuit = next((c for c in installation.circuits if c.name in meter_energies.heat), None)
    air = next((a for a in installation.air if a.name in meter_energies.heat), None)
    power = _unit_power(installation, meter_energies, step)
    by_steps = _by_steps(installation, meter_energies, step) if power is None else None
    on, known, basis["runs"] = _compressor(trace, power, circuit, by_steps)
    edges = edges_of(on)
    # What follows a gap of the readings is no start.
    begun = edges[::2]
    begun = begun[(begun == 0) | known[np.maximum(begun - 1, 0)]]
    young = after(begun, max(1, round(DETECTION_START_UP / step)), n)

    state = _at_rest(installation, trace, meter_energies, power, circuit, on)
    state[on] = State.HEATING
    state[young & on] = State.START_UP
    hot_water, basis["hot water"] = _hot_water(installation, trace, circuit, on)
    if hot_water is None:
        notes.append(basis["hot water"].words)
    else:
        state[hot_water & on] = State.HOT_WATER
    cooling, basis["cooling"] = _cooling(installation, trace, circuit, air, on, hot_water)
    state[cooling & on] = State.COOLING

    alone = _by_power_alone(installation, trace, circuit, air, on, hot_water)
    if alone is not None:
        state[on & ~cooling], basis["mode"] = alone[0][on & ~cooling], alone[1]

    switches = np.empty(0, np.int64)
    if hot_water is not None:
        switches = np.flatnonzero(hot_water[1:] != hot_water[:-1]) + 1
    found, defrosts_by, basis["defrost"] = defrosts(
        installation, trace, circuit, air, on & ~cooling, young | cooling, switches, power
    )
    notes += _too_coarse(step, defrosts_by)
    for span in found:
        state[span.start : span.stop] = State.DEFROST
    state[~known] = State.UNKNOWN
    said = _said(installation, trace, state, basis)
    if said:
        found = spans_of(state == State.DEFROST)
    return _running(state, step, found, defrosts_by, basis, notes)


def _by_power_alone(
    installation: Installation,
    trace: Trace,
    water: WaterCircuit | None,
    air: AirCircuit | None,
    on: Bools,
    hot_water: Bools | None,
) -> tuple[np.ndarray, Known] | None:
    """The mode of running where neither water nor air tells it, (n,): from the weather alone, else
    not known. None where something else tells. Source: common practice."""
    told = water is not None or air is not None or pair_of(trace, None) is not None
    told |= any(c in trace for c in ("cooling_on", "hot_water_on", "mode"))
    if told or (hot_water is not None and hot_water.any()):
        return None
    mode = np.full(len(on), State.RUNNING, np.int8)
    channel = installation.outdoor.channel
    if channel not in trace:
        return mode, Known(KnownBy.NOTHING, say("not_known_outdoor"))
    with np.errstate(invalid="ignore"):
        mode[trace[channel] < HEATING_BASE] = State.HEATING
        by_air = installation.unit.kind not in (UnitKind.AIR_TO_WATER, UnitKind.GROUND_SOURCE)
        if by_air:
            mode[trace[channel] > COOLED_ABOVE] = State.COOLING
    cools = say("cooling_above", cooled_above=COOLED_ABOVE) if by_air else ""
    return mode, Known(
        KnownBy.WEATHER,
        say("weather_alone_heating", heating_base=HEATING_BASE, cools=cools),
    )


def _running(
    state: np.ndarray,
    step: int,
    found: Sequence[Span],
    defrosts_by: Basis,
    basis: dict[str, Known],
    notes: Sequence[str],
) -> Running:
    ends = np.array([span.stop for span in found], np.int64)
    recovery = after(ends, max(1, round(RECOVERY / step)), len(state)) & (state == State.HEATING)
    runs = spans_of(is_on(state))
    return Running(state, recovery, tuple(runs), tuple(found), defrosts_by, basis, tuple(notes))


def _said(
    installation: Installation, trace: Trace, state: np.ndarray, basis: dict[str, Known]
) -> bool:
    """Writes the states that the analyst has set by hand; whether there are any."""
    said = [c for c in installation.corrections if isinstance(c, StateIs)]
    zone: ZoneInfo = zone_named(installation.zone)
    for correction in said:
        span = span_of(correction, trace, zone)
        state[span.start : span.stop] = State[correction.state.upper()]
    if said:
        stretches = say("stretch") if len(said) == 1 else say("stretches")
        basis["by hand"] = Known(KnownBy.HAND, say("set_hand", said=len(said), stretches=stretches))
    return bool(said)


def _too_coarse(step: int, defrosts_by: Basis) -> list[str]:
    """What readings so far apart cannot show."""
    notes = []
    if step > DEFROST_DETECTION_COARSEST and defrosts_by != Basis.NOT_KNOWN:
        notes.append(say("readings_every_too", step=step))
    if step > MIXING:
        notes.append(say("readings_every_do", step=step, minutes=2 * step // 60))
    return notes


def _unit_power(
    installation: Installation, meter_energies: MeterEnergies, step: int
) -> Floats | None:
    """Power of the meter that holds the compressor and least besides, (n,) [W]."""
    meter_energy = unit_energy(installation, meter_energies)
    if meter_energy is None:
        return None
    if meter_energy.native > FAR_APART:  # a mean of hours tells nothing of running
        return None
    if meter_energy.step_energy / step > ON_LEAST:  # a register too coarse to see a cell
        return None
    power: Floats = meter_energy.energy / step
    return power


def _by_steps(
    installation: Installation, meter_energies: MeterEnergies, step: int
) -> Floats | None:
    """Power of that meter where its register is too coarse to see a cell: each of its steps spread
    over the time since the one before, (n,) [W]; None where even at full power that takes too
    long. A run is then seen from its first step to its last."""
    meter_energy = unit_energy(installation, meter_energies)
    if meter_energy is None or not meter_energy.step_energy:
        return None
    power = spread(meter_energy.energy) / step
    known = power[np.isfinite(power)]
    full = float(np.percentile(known, 95)) if len(known) else 0.0
    if meter_energy.native > FAR_APART:
        return None
    return power if meter_energy.step_energy <= LONGEST_STEP * full else None


def _heater_power(
    installation: Installation, meter_energies: MeterEnergies, step: int
) -> Floats | None:
    for m in installation.electricity:
        if HEATERS.issuperset(m.includes) and m.name in meter_energies.electricity:
            power: Floats = meter_energies.electricity[m.name].energy / step
            return power
    return None


def _compressor(
    trace: Trace, power: Floats | None, circuit: WaterCircuit | None, by_steps: Floats | None
) -> tuple[Bools, Bools, Known]:
    """Where the compressor runs, where that is known, and from what."""
    if "compressor_on" in trace:
        flag = trace["compressor_on"]
        return flag > 0.5, np.isfinite(flag), Known(KnownBy.FLAG, say("flag_compressor"))
    if "compressor_speed" in trace:
        speed = trace["compressor_speed"]
        return speed > 1.0, np.isfinite(speed), Known(KnownBy.SPEED, say("logged_compressor_speed"))
    if power is not None:
        limit = on_limit(power)
        words = say("inferred_power_above", limit=limit)
        return power > limit, np.isfinite(power), Known(KnownBy.POWER, words)
    # Where readings mix running and rest the water tells less than a register's steps.
    if circuit is not None and (by_steps is None or trace.step <= MIXING):
        on = _by_water(trace, circuit)
        known = np.isfinite(trace[circuit.flow_rate])
        return on, known, Known(KnownBy.WATER, say("inferred_water_flows"))
    if by_steps is not None:
        limit = on_limit(by_steps)
        words = say("inferred_steps_electricity", limit=limit)
        return by_steps > limit, np.isfinite(by_steps), Known(KnownBy.REGISTER_STEPS, words)
    nothing = np.zeros(len(trace), np.bool_)
    words = say("not_known_neither")
    return nothing, nothing, Known(KnownBy.NOTHING, words)


def _by_water(trace: Trace, circuit: WaterCircuit) -> Bools:
    """Where heat comes or goes with the water. A turn of ΔT through zero, as at a defrost, does
    not end a run; a run begins where its water begins to flow."""
    flow = trace[circuit.flow_rate]
    pumping = flow > little_flow(flow)
    delta = np.abs(trace[circuit.flow_temp] - trace[circuit.return_temp])
    sample = delta[:: max(1, len(delta) // 20_000)]
    sample = sample[np.isfinite(sample)]
    usual = float(np.percentile(sample, 90)) if len(sample) else np.inf
    least = min(WATER_DELTA, max(0.5 * WATER_DELTA, WATER_SHARE * usual))
    on = pumping & (delta > least)
    longest = max(1, round(WATER_TURN / trace.step))
    edges = edges_of(on)
    gaps = edges[1:-1].reshape(-1, 2)
    short = gaps[gaps[:, 1] - gaps[:, 0] <= longest]
    on |= mask_of([Span(a, b) for a, b in short.tolist()], len(on)) & pumping
    lead = round(WATER_LEAD / trace.step)
    begins = edges_of(pumping)[::2]
    starts = edges_of(on)[::2]
    if len(begins) and len(starts):
        k = np.searchsorted(begins, starts, side="right") - 1
        since = begins[np.maximum(k, 0)]
        near = (k >= 0) & (starts - since <= lead)
        on |= mask_of([Span(a, b) for a, b in zip(since[near], starts[near], strict=True)], len(on))
    return on


def _at_rest(
    installation: Installation,
    trace: Trace,
    meter_energies: MeterEnergies,
    power: Floats | None,
    circuit: WaterCircuit | None,
    on: Bools,
) -> np.ndarray:
    """States as if the compressor never ran: off, standby, pump overrun, backup only."""
    state = np.full(len(trace), State.STANDBY, np.int8)
    if power is not None:
        state[power < OFF_BELOW] = State.OFF
    if circuit is not None:
        pumping = trace[circuit.flow_rate] > little_flow(trace[circuit.flow_rate])
        state[pumping & ~on] = State.PUMP_OVERRUN
    heaters = _heater_power(installation, meter_energies, trace.step)
    if heaters is not None:
        state[(heaters > HEATER_ON) & ~on] = State.BACKUP_ONLY
    return state


def after(edges: Ints, length: int, n: int) -> Bools:
    """A mask that is true for `length` cells from each edge."""
    count = np.bincount(edges, minlength=n + 1) - np.bincount(
        np.minimum(edges + length, n), minlength=n + 1
    )
    mask: Bools = np.cumsum(count[:n]) > 0
    return mask


def _hot_water(
    installation: Installation, trace: Trace, circuit: WaterCircuit | None, on: Bools
) -> tuple[Bools | None, Known]:
    if "hot_water_on" in trace:
        return trace["hot_water_on"] > 0.5, Known(KnownBy.FLAG, say("flag_hot_water"))
    ground = installation.tank is None and "tank_temp" not in trace
    if ground and pair_of(trace, circuit) is None:
        return np.zeros(len(on), np.bool_), Known(KnownBy.NONE_THERE, say("none_no_tank"))
    found = by_water(installation, trace, circuit, on)
    if found is None:
        return None, Known(
            KnownBy.NOTHING,
            say("hot_water_not"),
        )
    if ground and len(spans_of(found[0])) < LEAST_CHARGES:
        return np.zeros(len(on), np.bool_), Known(KnownBy.NONE_THERE, say("none_no_tank"))
    return found


def _cooling(
    installation: Installation,
    trace: Trace,
    water: WaterCircuit | None,
    air: AirCircuit | None,
    on: Bools,
    hot_water: Bools | None,
) -> tuple[Bools, Known]:
    """Where heat is taken from the house on purpose, and from what that is known."""
    if "cooling_on" in trace:
        return trace["cooling_on"] > 0.5, Known(KnownBy.FLAG, say("flag_cooling"))
    nothing = np.zeros(len(on), np.bool_)
    outdoor = installation.outdoor.channel
    pair = None
    if water is not None:
        pair = water.flow_temp, water.return_temp
    elif air is not None:
        pair = air.supply_temp, air.return_temp
    if pair is None or outdoor not in trace:
        words = say("not_told_apart")
        return nothing, Known(KnownBy.NOTHING, words)
    warm = trace[outdoor] > COOLING_COLDEST
    if hot_water is not None:
        warm &= ~hot_water
    cold = on & warm & (trace[pair[0]] - trace[pair[1]] < COOLING_DELTA)
    cold &= trace[pair[0]] < COOLING_WARMEST  # swapped sensors show the same, but warm
    least = COOLING_SHORTEST / trace.step
    # Through a run that cools once, its first minutes too: none both heats and cools. A part of a
    # run must do so for long, since a defrost does it for minutes.
    edges = edges_of(on & warm)
    counts = np.add.reduceat(cold, edges[::2]) if len(edges) else np.empty(0)
    spans = []
    for a, b, count in zip(edges[::2].tolist(), edges[1::2].tolist(), counts.tolist(), strict=True):
        whole = not (a > 0 and on[a - 1]) and not (b < len(on) and on[b])
        if count > 0.5 * (b - a) and (whole or count >= least):
            spans.append(Span(a, b))
    words = say("inferred_heat_taken")
    return mask_of(spans, len(on)), Known(KnownBy.HEAT_TAKEN, words)
