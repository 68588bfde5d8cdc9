"""Operation: runs, starts, defrosts, hot water and hours of a record, worked out once and kept."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis, Walked
from ember.basis.channels import quantity_of
from ember.basis.series import Floats, Ints, Trace
from ember.basis.side_by_side import two
from ember.boundary import Level
from ember.description.installation import HEATERS, Consumer, Installation
from ember.events.cells import CellArrays, windows
from ember.events.defrosts import Defrosts, defrosts
from ember.events.frost import Frost
from ember.events.hot_water_charges import HotWaterCharges, charges
from ember.events.hours import Hours, hours, with_frost
from ember.events.refrigerant_circuit import compressor_efficiency, inside
from ember.events.runs import Runs, runs
from ember.events.starts import Starts, starts
from ember.messages import words_of
from ember.metering import MeterEnergies
from ember.metering.tank import mean_of
from ember.states.state import State
from ember.views.curves import curve_combination, curves

say = words_of(__name__)

# a register whose step is more than this power in a cell shows no single start [W]
RECORD_COARSE = 60.0
RECORD_ROOMS_KNOWN = 0.9  # of the longest known of several rooms, common practice, chosen
AFTER_START = 1800.0  # of the refrigerant's profile [s]
AROUND_DEFROST = (-600.0, 1200.0)  # [s]


@dataclass(frozen=True)
class Operation:
    """How a unit ran over a whole record.

    Attributes
    ----------
    level : Level | None
        at which heat and electricity are counted.
    step : int
        of the record [s]
    first : int
        its first instant [s].
    frost : Frost | None
        what is known of the coil.
    profiles : Mapping[str, Floats]
        name → array, the refrigerant's mean over starts ("start …") and around defrosts ("defrost
        …").
    notes : tuple[str, ...]
        what could not be told.
    """

    level: Level | None
    first: int
    step: int
    runs: Runs
    starts: Starts | None
    defrosts: Defrosts
    frost: Frost | None
    charges: HotWaterCharges
    hours: Hours
    profiles: Mapping[str, Floats]
    notes: tuple[str, ...]


def operation(analysis: RecordAnalysis, trace: Trace, walked: Walked | None = None) -> Operation:
    """Works it out.

    Parameters
    ----------
    trace : Trace
        the readings as logged.
    walked : Walked | None
        the same with its meters, where that is at hand.
    """
    installation = analysis.installation
    if walked is None:
        walked = analysis.walked(analysis.like(trace), analysis.states())
    states = walked.states
    cells, notes = cells_of(analysis, walked)
    refrigerant: dict[str, Floats] = {}
    side = installation.refrigerant
    seen = inside(side, walked.trace) if side is not None else None
    if side is not None and seen is not None:
        settled = (states.state == State.HEATING) | (states.state == State.HOT_WATER)
        refrigerant = {
            "evaporating": seen.evaporating,
            "condensing": seen.condensing,
            "superheat": seen.superheat,
            "subcooling": seen.subcooling,
            "discharge": seen.discharge,
            "efficiency": compressor_efficiency(side, walked.trace, settled & ~states.recovery),
        }
    (frosts, learned, grows), (charged, each_hour) = two(
        lambda: defrosts(cells), lambda: (charges(cells), hours(cells, refrigerant))
    )
    table = runs(cells, grows)
    profiles = _profiles(refrigerant, table.start[table.begun > 0], frosts.start, trace.step)
    return Operation(
        level=combination.level if (combination := curve_combination(analysis)) else None,
        first=trace.start,
        step=trace.step,
        runs=table,
        starts=starts(cells, table),
        defrosts=frosts,
        frost=learned,
        charges=charged,
        hours=with_frost(each_hour, cells, grows),
        profiles=profiles,
        notes=(*analysis.facts.notes, *notes),
    )


def cells_of(analysis: RecordAnalysis, walked: Walked) -> tuple[CellArrays, list[str]]:
    """What the tables are made from, and what could not be told."""
    installation, trace, meter_energies = analysis.installation, walked.trace, walked.meter_energies
    drawn = curves(analysis, walked)
    notes = []
    electricity = drawn.cop_electricity
    if electricity is None and drawn.power is not None:
        electricity = drawn.power * trace.step
    coarse = [
        meter_energy.name
        for meter_energy in meter_energies.every.values()
        if meter_energy.step_energy / trace.step > RECORD_COARSE
        and _uses(analysis, meter_energy.name)
    ]
    heat = drawn.cop_heat
    if coarse:
        notes.append(say("register_steps_too", coarse=", ".join(coarse)))
        heat, electricity = None, None
    circuit = next((c for c in installation.circuits if c.name in meter_energies.heat), None)

    def channel(name: str | None) -> Floats | None:
        return trace[name] if name is not None and name in trace else None

    def first(quantity: str) -> Floats | None:
        named = (c for c in trace.channels if quantity_of(c).name == quantity)
        return channel(next(named, None))

    side = installation.refrigerant
    seen = inside(side, trace) if side is not None else None
    cells = CellArrays(
        trace.start,
        trace.step,
        walked.states,
        heat,
        electricity,
        heater=_heater(installation, walked),
        pump=_energy(installation, meter_energies, frozenset({Consumer.DISTRIBUTION_PUMP})),
        outdoor=channel(installation.outdoor.channel),
        humidity=first("outdoor_humidity"),
        flow=channel(circuit.flow_temp if circuit else None),
        back=channel(circuit.return_temp if circuit else None),
        water=channel(circuit.flow_rate if circuit else None),
        tank=first("tank_temp"),
        tank_mean=_tank_mean(installation, trace),
        room=rooms_of(trace),
        sun=first("solar_radiation"),
        secondary=channel(secondary(installation, tuple(trace.channels))),
        evaporating=None if seen is None else seen.evaporating,
        expected=_expected(walked),
    )
    return cells, notes


def rooms_of(trace: Trace) -> Floats | None:
    """Mean of the rooms that are logged, (n,) [degC], where each of them is known; None for none.

    Of several rooms those count that are known nearly as long as the one known longest: a room
    that comes or goes must not look like a house that warms or cools.
    """
    every = [trace[c] for c in trace.channels if quantity_of(c).name == "room_temp"]
    if len(every) < 2:
        return every[0] if every else None
    known = [np.count_nonzero(np.isfinite(one)) for one in every]
    least = RECORD_ROOMS_KNOWN * max(known)
    mean: Floats = np.mean(
        [one for one, count in zip(every, known, strict=True) if count >= least], axis=0
    )
    return mean


def _tank_mean(installation: Installation, trace: Trace) -> Floats | None:
    """The tank by all its probes, (n,) [degC]; None without a described tank."""
    tank = installation.tank
    if tank is None or not any(c in trace for c in (*tank.probes, "tank_temp")):
        return None
    return mean_of(tank, trace)[0]


def secondary(installation: Installation, channels: tuple[str, ...]) -> str | None:
    """The channel of the flow temperature behind a buffer: one that no circuit uses."""
    used = {c.flow_temp for c in installation.circuits}
    return next((c for c in channels if quantity_of(c).name == "flow_temp" and c not in used), None)


def _uses(analysis: RecordAnalysis, meter: str) -> bool:
    combination = curve_combination(analysis)
    return combination is not None and any(name == meter for _, name in combination.meters)


def _energy(
    installation: Installation, meter_energies: MeterEnergies, consumers: frozenset[Consumer]
) -> Floats | None:
    """Electricity of the meter that holds nothing but these consumers, (n,) [J]."""
    for meter in installation.electricity:
        if consumers.issuperset(meter.includes) and meter.name in meter_energies.electricity:
            return meter_energies.electricity[meter.name].energy
    fixed = (m for m in installation.fixed if consumers.issuperset(m.includes))
    found = next((m for m in fixed if m.name in meter_energies.electricity), None)
    return None if found is None else meter_energies.electricity[found.name].energy


def _expected(walked: Walked) -> Floats | None:
    """Electricity by the rated table in the cells that are compared, (n,) [J]."""
    found = walked.extra.get("expected")
    return None if found is None else found * walked.extra["compared"]


def _heater(installation: Installation, walked: Walked) -> Floats | None:
    """Electricity of resistance heaters, (n,) [J]: metered, else told by its steps."""
    metered = _energy(installation, walked.meter_energies, HEATERS)
    return walked.extra.get("heater") if metered is None else metered


def _profiles(
    refrigerant: Mapping[str, Floats], starts_at: Ints, defrosts_at: Ints, step: int
) -> dict[str, Floats]:
    """The refrigerant's mean over starts and around defrosts."""
    found: dict[str, Floats] = {}
    length = round(AFTER_START / step)
    before = round(-AROUND_DEFROST[0] / step)
    around = before + round(AROUND_DEFROST[1] / step)
    for name, values in refrigerant.items():
        if name == "efficiency":
            continue
        for what, at, count in (
            ("start", starts_at, length),
            ("defrost", defrosts_at - before, around),
        ):
            taken = windows(values, at, count)
            known = np.isfinite(taken).sum(axis=0)
            with np.errstate(invalid="ignore", divide="ignore"):
                mean = np.nansum(taken, axis=0) / known
            found[f"{what} {name}"] = np.where(known > 0, mean, np.nan)
    return found
