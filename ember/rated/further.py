"""What a meter holds beyond the boundary of the rated table, while it runs: circulation pumps.

The table stands near H2. Where the level nearest to the table that can be computed holds more, the
expectation
is carried there: rated electricity + power of each further consumer. A pump without a meter is read
from the log itself, else taken from a stated range.
"""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Bools, Floats, Trace
from ember.boundary import Level, MeterCombination
from ember.boundary.combinations import consumers_of, summed
from ember.description.installation import HEATERS, Consumer, Installation, working
from ember.messages import words_of
from ember.metering import MeterEnergies
from ember.states import Running, State
from ember.states.defrost_detection import little_flow

say = words_of(__name__)

CONTROLS = (5.0, 20.0)  # that run where the water is never still [W], common practice
FURTHER_PUMP = (15.0, 75.0)  # of a circulation pump while the water flows [W], common practice
FURTHER_LEAST = 3600.0  # of rest in which a pump is read [s]
SETTLED = 300.0  # after a run, in which it is not [s]
ROUGH = 0.1  # of a pump's power read so, that it may differ while the unit runs
IN_THE_RATING = 0.3  # of a pump's power that EN 14511 counts in the rating already, at most
FURTHER_COARSE = 0.05  # of a register's step over the rest in which a pump is read
FURTHER_EQUAL = 0.1  # by which the flow may differ between rest and running


@dataclass(frozen=True)
class Further:
    """A consumer that the meter holds and the table does not. watts ± limit : its power while it
    runs, rectangular.

    Attributes
    ----------
    words : str
        how it is known.
    narrower : str | None
        what would narrow it, None where it is read.
    """

    consumer: str
    watts: float
    limit: float
    words: str
    narrower: str | None


def beyond(installation: Installation, level: Level) -> frozenset[Consumer]:
    """The consumers of a level that the rated table does not hold."""
    return (consumers_of(level) - consumers_of(Level.H2)) & working(installation)


def further(
    installation: Installation,
    trace: Trace,
    states: Running,
    meter_energies: MeterEnergies,
    combination: MeterCombination,
) -> tuple[Further, ...]:
    """What the level of comparison holds besides.

    Source: common practice: power with the water flowing and the compressor at rest, less
    power with the water still.
    """
    extra = beyond(installation, combination.level) - HEATERS
    if not extra:
        return ()
    used = summed(combination.electricity, meter_energies.energy)
    assert used is not None
    total = used / trace.step
    steps = [meter_energies.electricity[name].step_energy for _, name in combination.electricity]
    flow = _flow(installation, trace)
    found = _read(total, max(steps), states, flow, trace.step) or Further(
        Consumer.DISTRIBUTION_PUMP.value,
        sum(FURTHER_PUMP) / 2,
        (FURTHER_PUMP[1] - FURTHER_PUMP[0]) / 2,
        say("circulation_pump_not", low=FURTHER_PUMP[0], high=FURTHER_PUMP[1]),
        say("pump_watts_display"),
    )
    return (found,)


def _flow(installation: Installation, trace: Trace) -> Floats | None:
    for circuit in installation.circuits:
        if circuit.flow_rate in trace:
            return trace[circuit.flow_rate]
    return trace.get("flow_rate")


def _read(
    power: Floats, step_energy: float, states: Running, flow: Floats | None, step: int
) -> Further | None:
    """The pump's power from rest with the water flowing and with it still; None where that cannot
    be seen."""
    if flow is None:
        return None
    rest = (states.state == State.OFF) | (states.state == State.STANDBY)
    rest |= states.state == State.PUMP_OVERRUN
    rest &= np.isfinite(power) & ~_after(states.on, round(SETTLED / step))
    little = little_flow(flow)
    moving, still = rest & (flow > little), rest & (flow <= little)
    with_flow = _mean(power, moving, step, step_energy)
    if with_flow is None:
        return None
    without = _mean(power, still, step, step_energy)
    running = float(np.nanmedian(flow[states.on])) if states.on.any() else 0.0
    resting = float(np.nanmedian(flow[moving]))
    unequal = abs(running / resting - 1) if resting > 0 else 1.0
    spread = max(0.0, unequal - FURTHER_EQUAL)
    if without is not None:
        watts = max(with_flow - without, 0.0)
        words = say("circulation_pump_read", with_flow=with_flow, without=without)
        limit = ROUGH * watts + 1.0
    else:
        controls = sum(CONTROLS) / 2
        watts = max(with_flow - controls, 0.0)
        words = say(
            "circulation_pump_read_log",
            with_flow=with_flow,
            low=CONTROLS[0],
            high=CONTROLS[1],
        )
        limit = ROUGH * watts + (CONTROLS[1] - CONTROLS[0]) / 2
    limit += min(spread, 1.0) * watts
    return Further(Consumer.DISTRIBUTION_PUMP.value, watts, limit, words, None)


def _after(on: Bools, cells: int) -> Bools:
    """Cells within so many after running, (n,)."""
    last = np.where(on, np.arange(len(on)), -cells - 1)
    last = np.maximum.accumulate(last)
    mask: Bools = np.arange(len(on)) - last <= cells
    return mask


def _mean(power: Floats, mask: Bools, step: int, step_energy: float) -> float | None:
    """Mean power over a rest, without the highest tenth of a sampled one [W]."""
    count = int(mask.sum())
    if count * step < FURTHER_LEAST:
        return None
    values = power[mask]
    mean = float(values.mean())
    if step_energy:  # a register's steps: only their sum says something
        return mean if step_energy < FURTHER_COARSE * max(values.sum() * step, 1.0) else None
    high = float(np.percentile(values, 90))
    return float(values[values <= high].mean())
