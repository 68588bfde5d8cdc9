"""The readings behind a figure: what a meter's channels said, cell by cell, and what came of it."""

from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.quantity import KWH
from ember.basis.series import Floats, Trace
from ember.description.installation import REFRIGERANT_FIELDS, Installation
from ember.metering.tank import TANK_NAME
from ember.states import State


@dataclass(frozen=True)
class Behind:
    """One meter over some cells.

    Attributes
    ----------
    formula : str
        how a cell's energy follows from its readings. channels : as logged and corrected. start,
        step [s].
    logged, corrected : dict[str, Floats]
        channel → array, (n,).
    energy : Floats
        array, (n,) [kWh].
    state : list[str]
        of each cell, in words.
    reason : list[str]
        why a cell is left out, empty where it is not.
    """

    name: str
    method: str
    formula: str
    start: float
    step: int
    logged: dict[str, Floats]
    corrected: dict[str, Floats]
    energy: Floats
    state: list[str]
    reason: list[str]


def channels_behind(installation: Installation, name: str) -> tuple[str, ...]:
    """The channels that a meter reads. Raises LookupError for a meter that is not described."""
    for meter in installation.electricity:
        if meter.name == name:
            return (meter.channel,)
    for circuit in installation.circuits:
        if circuit.name == name:
            return circuit.flow_rate, circuit.flow_temp, circuit.return_temp
    registers = {r.name: r.channel for r in installation.registers}
    registers |= {y.name: y.channel for y in installation.yields}
    registers |= {r.name: r.channel for r in installation.reported}
    if name in registers:
        return (registers[name],)
    for air in installation.air:
        if air.name == name:
            return air.channels
    side = installation.refrigerant
    if side is not None and side.name == name:
        fields = (getattr(side, field) for field in REFRIGERANT_FIELDS)
        return tuple(channel for channel in fields if channel is not None)
    if name == TANK_NAME:
        return ("tank_temp",)
    if any(fixed.name == name for fixed in installation.fixed):
        return ()
    raise LookupError(f"No meter is called '{name}'.")


def formula_of(installation: Installation, name: str) -> str:
    """How the energy of a cell follows from its readings, in words."""
    if any(circuit.name == name for circuit in installation.circuits):
        return "flow × ρ(T at the meter) × c_p(mean T) × (T flow − T return) × time"
    if any(air.name == name for air in installation.air):
        return "airflow × dry air density × (enthalpy supply − return) × time"
    if any(fixed.name == name for fixed in installation.fixed):
        return "fixed power × time in which it runs"
    if installation.refrigerant is not None and installation.refrigerant.name == name:
        return "electricity × share × (h discharge − h liquid) ÷ (h discharge − h suction)"
    if name == TANK_NAME:
        return "ρ × V × c_p × rise of the tank, spread over the charge, + standing loss"
    if any(y.name == name for y in installation.yields):
        return "increment of the yield + the unit's electricity that reaches the water"
    channels = channels_behind(installation, name)
    if channels and channels[0].startswith(("power", "heat_power")):
        return "power × time"
    return "increment of the register"


def behind(analysis: RecordAnalysis, raw: Trace, name: str, start: float, stop: float) -> Behind:
    """The readings behind a meter's energy between two instants.

    Parameters
    ----------
    raw : Trace
        readings as logged, with some days on either side, so that registers have increments.
    name : str
        of the meter. Raises LookupError for one that is not there.
    """
    channels = channels_behind(analysis.installation, name)
    part = analysis.like(raw)
    first = (part.start - analysis.start) // analysis.segments.step
    states = analysis.states(first, first + len(part))
    meter_energies = analysis.walked(part, states).meter_energies
    meter_energy = meter_energies.every.get(name)
    if meter_energy is None:
        raise LookupError(
            f"'{name}' has no readings: {meter_energies.missing.get(name, 'not logged')}."
        )
    a, b = part.cell(start), part.cell(stop)
    cut = slice(a, b)
    label = _excluded(analysis, first + a, first + b)
    return Behind(
        name=name,
        method=meter_energy.method,
        formula=formula_of(analysis.installation, name),
        start=float(part.instant(a)),
        step=part.step,
        logged={c: raw[c][cut] for c in channels if c in raw},
        corrected={c: part[c][cut] for c in channels if c in part},
        energy=meter_energy.energy[cut] / KWH,
        state=[State(int(code)).words for code in states.state[cut]],
        reason=label,
    )


def _excluded(analysis: RecordAnalysis, first: int, last: int) -> list[str]:
    """Why each cell is left out by the analyst, empty where it is not."""
    segments = analysis.segments
    at = np.searchsorted(segments.edges, np.arange(first, last), side="right") - 1
    at = np.clip(at, 0, len(segments.state) - 1)
    return [segments.reasons[k] if k >= 0 else "" for k in segments.excluded[at].tolist()]
