"""States of a unit: from logged flags where there are any, inferred otherwise."""

from dataclasses import dataclass
from enum import IntEnum, StrEnum

import numpy as np
from numpy.typing import NDArray

from ember.installation import HEATERS, Installation, WaterCircuit
from ember.metering import Streams, unit_stream
from ember.trace import Bools, Floats, Span, Trace, edges_of, spans_of

# Common practice, all of them; docs/methods.md says what each is for.
START_UP = 600.0  # from the start of a run until it has settled [s]
RECOVERY = 360.0  # after a defrost [s]
ON_SHARE = 0.10  # of the usual full power, above which the compressor runs
ON_LEAST = 60.0  # [W]
OFF_BELOW = 2.0  # [W]
DEFROST_DELTA = -0.5  # flow minus return [K]
DEFROST_LONGEST = 1200.0  # a longer negative ΔT is no defrost [s]
DEFROST_WARMEST = 12.0  # outdoor temperature above which no coil frosts [degC]
DEFROST_FALL = 1.5  # by which the flow temperature falls at least [K]
TANK_RISE = 2.5 / 3600  # of the tank while it is heated [K/s]
COARSEST_FOR_DEFROST = 180.0  # [s]


class State(IntEnum):
    """What the unit does. Codes are stable; `letter` and `words` are for people."""

    UNKNOWN = 0
    OFF = 1
    STANDBY = 2
    START_UP = 3
    HEATING = 4
    HOT_WATER = 5
    DEFROST = 6
    COOLING = 7
    BACKUP_ONLY = 8
    PUMP_OVERRUN = 9

    @property
    def words(self) -> str:
        """The state as the trade calls it."""
        return self.name.lower().replace("_", " ").replace("start up", "start-up")


class Basis(StrEnum):
    """How an event is known."""

    FLAG = "flag"
    INFERRED = "inferred"
    NOT_KNOWN = "not known"


@dataclass(frozen=True)
class Running:
    """The unit over a trace.

    state : array, (n,) of int8  Code of a State in each cell.
    recovery : array, (n,)  True shortly after a defrost, while the state is heating again.
    runs : compressor on → off. defrosts : each defrost. defrosts_by : how they are known.
    basis : state or event → how it is known ("flag defrost_on", "inferred from …").
    notes : what could not be told.
    """

    state: NDArray[np.int8]
    recovery: Bools
    runs: tuple[Span, ...]
    defrosts: tuple[Span, ...]
    defrosts_by: Basis
    basis: dict[str, str]
    notes: tuple[str, ...]


def running(installation: Installation, trace: Trace, streams: Streams) -> Running:
    """States, runs and defrosts of a trace.

    Parameters
    ----------
    installation, trace : what is installed, and its readings.
    streams : its meters, from `ember.metering.meter`.

    Source: common practice; each limit is a named constant of this module.
    """
    n, step = len(trace), trace.step
    basis: dict[str, str] = {}
    notes: list[str] = []
    circuit = next((c for c in installation.circuits if c.name in streams.heat), None)
    power = _unit_power(installation, streams, step)
    on, known, basis["runs"] = _compressor(trace, power, circuit)
    edges = edges_of(on)
    starts, stops = edges[::2], edges[1::2]
    runs = tuple(Span(int(a), int(b)) for a, b in zip(starts, stops, strict=True))

    state = np.full(n, State.STANDBY, np.int8)
    if power is not None:
        state[power < OFF_BELOW] = State.OFF
    if circuit is not None:
        pumping = trace[circuit.flow_rate] > _little_flow(trace[circuit.flow_rate])
        state[pumping & ~on] = State.PUMP_OVERRUN
    heaters = _heater_power(installation, streams, step)
    if heaters is not None:
        state[(heaters > 200.0) & ~on] = State.BACKUP_ONLY
    state[on] = State.HEATING
    length = max(1, round(START_UP / step))
    state[_after(starts, length, n) & on] = State.START_UP

    hot_water, basis["hot water"] = _hot_water(trace, on, runs)
    if hot_water is None:
        notes.append(basis["hot water"])
    else:
        state[hot_water & on] = State.HOT_WATER

    defrosts, defrosts_by, basis["defrost"] = _defrosts(
        installation, trace, circuit, on, starts, hot_water
    )
    if step > COARSEST_FOR_DEFROST:
        notes.append(
            f"readings every {step} s are too coarse to see every defrost; "
            "their heat is counted all the same"
        )
    for span in defrosts:
        state[span.start : span.stop] = State.DEFROST
    ends = np.array([span.stop for span in defrosts], np.int64)
    recovery = _after(ends, max(1, round(RECOVERY / step)), n) & (state == State.HEATING)
    state[~known] = State.UNKNOWN
    return Running(state, recovery, runs, tuple(defrosts), defrosts_by, basis, tuple(notes))


def _unit_power(installation: Installation, streams: Streams, step: int) -> Floats | None:
    """Power of the meter that holds the compressor and least besides, (n,) [W]."""
    stream = unit_stream(installation, streams)
    if stream is None:
        return None
    if stream.step_energy / step > ON_LEAST:  # a register too coarse to see a cell
        return None
    power: Floats = stream.energy / step
    return power


def _heater_power(installation: Installation, streams: Streams, step: int) -> Floats | None:
    for m in installation.electricity:
        if HEATERS.issuperset(m.includes) and m.name in streams.electricity:
            power: Floats = streams.electricity[m.name].energy / step
            return power
    return None


def _compressor(
    trace: Trace, power: Floats | None, circuit: WaterCircuit | None
) -> tuple[Bools, Bools, str]:
    """Where the compressor runs, where that is known, and from what."""
    if "compressor_on" in trace:
        flag = trace["compressor_on"]
        return flag > 0.5, np.isfinite(flag), "flag compressor_on"
    if power is not None:
        sample = power[:: max(1, len(power) // 50_000)]
        sample = sample[sample > ON_LEAST]
        full = float(np.percentile(sample, 95)) if len(sample) else 0.0
        limit = max(ON_LEAST, ON_SHARE * full)
        return power > limit, np.isfinite(power), f"inferred: power above {limit:.0f} W"
    if circuit is not None:
        flow = trace[circuit.flow_rate]
        warm = np.abs(trace[circuit.flow_temp] - trace[circuit.return_temp]) > 1.0
        on = (flow > _little_flow(flow)) & warm
        return on, np.isfinite(flow), "inferred: water flows with ΔT above 1 K"
    nothing = np.zeros(len(trace), np.bool_)
    return nothing, nothing, "not known: neither a flag, nor fine power, nor flow is logged"


def _little_flow(flow: Floats) -> float:
    """A flow below which the pump rests [m3/s]: a tenth of the usual, of a sample."""
    sample = flow[:: max(1, len(flow) // 20_000)]
    sample = sample[sample > 0]
    return 0.1 * float(np.median(sample)) if len(sample) else np.inf


def _after(edges: NDArray[np.int64], length: int, n: int) -> Bools:
    """A mask that is true for `length` cells from each edge."""
    mask = np.zeros(n, np.bool_)
    for edge in edges.tolist():
        mask[edge : edge + length] = True
    return mask


def _hot_water(trace: Trace, on: Bools, runs: tuple[Span, ...]) -> tuple[Bools | None, str]:
    if "hot_water_on" in trace:
        return trace["hot_water_on"] > 0.5, "flag hot_water_on"
    if "tank_temp" not in trace:
        return None, (
            "hot water is not told apart from heating: neither the valve nor the tank's "
            "temperature is logged"
        )
    tank = trace["tank_temp"]
    half = max(1, round(300 / trace.step))
    rising = np.zeros(len(tank), np.bool_)
    if len(tank) > 2 * half:
        slope = (tank[2 * half :] - tank[: -2 * half]) / (2 * half * trace.step)
        rising[half:-half] = slope > TANK_RISE
    return rising & on, "inferred: the tank grows warmer while the unit runs"


def _defrosts(
    installation: Installation,
    trace: Trace,
    circuit: WaterCircuit | None,
    on: Bools,
    starts: NDArray[np.int64],
    hot_water: Bools | None,
) -> tuple[list[Span], Basis, str]:
    if "defrost_on" in trace:
        return spans_of(trace["defrost_on"] > 0.5), Basis.FLAG, "flag defrost_on"
    if installation.unit.kind == "ground_source":
        return [], Basis.INFERRED, "none: a ground source does not frost"
    if circuit is None:
        why = "not known: neither a flag nor flow and return temperatures are logged"
        return [], Basis.NOT_KNOWN, why
    n, step = len(trace), trace.step
    flow_temp = trace[circuit.flow_temp]
    cold = flow_temp - trace[circuit.return_temp] < DEFROST_DELTA
    cold &= trace[circuit.flow_rate] > _little_flow(trace[circuit.flow_rate])
    if installation.outdoor.channel in trace:
        cold &= ~(trace[installation.outdoor.channel] > DEFROST_WARMEST)
    settling = max(1, round(START_UP / step))
    cold &= ~_after(starts, settling, n)
    if hot_water is not None:  # a change of the valve also turns ΔT round for a moment
        switches = np.flatnonzero(hot_water[1:] != hot_water[:-1]) + 1
        cold &= ~_after(np.maximum(switches - 1, 0), max(1, round(240 / step)), n)
    back = max(1, round(300 / step))
    found = []
    for span in spans_of(cold):
        if len(span) * step > DEFROST_LONGEST:
            continue
        before = flow_temp[max(0, span.start - back)]
        if before - flow_temp[span.start : span.stop].min() < DEFROST_FALL:
            continue
        if not on[max(0, span.start - back) : span.start + 1].any():
            continue
        found.append(span)
    return found, Basis.INFERRED, "inferred: ΔT negative while running, flow temperature falling"
