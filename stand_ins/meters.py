"""Simulated meters: errors within their class, resolution, and what may be wrong with them."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from stand_ins.plant import Run

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class MeterErrors:
    """What this house's meters do. Gains are relative, offsets in kelvin.

    air : days (from, to) in which air in the water makes the flow reading erratic.
    swapped : flow and return sensor connected crosswise.
    gaps : (from, to) seconds without any reading.
    """

    flow_gain: float = 0.0
    flow_offset: float = 0.0
    return_offset: float = 0.0
    outdoor_offset: float = 0.0
    unit_gain: float = 0.0
    pump_gain: float = 0.0
    backup_gain: float = 0.0
    flow_noise: float = 0.01
    temp_noise: float = 0.03
    flow_step: float = 0.1  # [L/min]
    temp_step: float = 0.1  # [K]
    energy_step: float = 0.01  # [kWh]
    heat_step: float = 1.0  # [kWh]
    air: tuple[tuple[float, float], ...] = ()
    swapped: bool = False
    gaps: tuple[tuple[float, float], ...] = field(default=())


def read(run: Run, errors: MeterErrors, rng: np.random.Generator) -> dict[str, Floats]:
    """What a logger would have written, in the units of a log (°C, L/min, W, kWh, %)."""
    spot, sums = run.spot, run.sums
    n = len(spot["flow"])
    flow = spot["flow"] * (1 + errors.flow_gain)
    flow = np.where(flow > 0, flow * (1 + rng.normal(0, errors.flow_noise, n)), 0.0)
    for start, stop in errors.air:
        inside = slice(int(start * 86400 // run.step), int(stop * 86400 // run.step))
        flow[inside] *= np.clip(rng.lognormal(-0.8, 0.7, n)[inside], 0.0, 1.3)

    def temp(name: str, offset: float) -> Floats:
        return _stepped(spot[name] + offset + rng.normal(0, errors.temp_noise, n), errors.temp_step)

    flow_temp, return_temp = (
        temp("flow_temp", errors.flow_offset),
        temp("return_temp", errors.return_offset),
    )
    if errors.swapped:
        flow_temp, return_temp = return_temp, flow_temp
    pair = errors.flow_offset - errors.return_offset
    # The register integrates what the meter's own sensors say, air in the water included.
    seen = np.divide(flow, spot["flow"], out=np.full(n, 1 + errors.flow_gain), where=flow > 0)
    heat = seen * (sums["counted"] + pair * sums["carried"])
    unit = (sums["compressor"] + sums["source"] + sums["controls"]) * (1 + errors.unit_gain)
    columns = {
        "flow_temp": flow_temp,
        "return_temp": return_temp,
        "flow_rate": _stepped(flow, errors.flow_step),
        "outdoor_temp": temp("outdoor", errors.outdoor_offset),
        "outdoor_humidity": np.round(spot["humidity"] * 100),
        "room_temp": temp("room", 0.0),
        "tank_temp": temp("tank", 0.0),
        "power_unit": np.round(spot["unit_power"] * (1 + errors.unit_gain)),
        "power_pump": np.round(spot["pump_power"] * (1 + errors.pump_gain), 1),
        "power_backup": np.round(spot["backup_power"] * (1 + errors.backup_gain)),
        "energy_unit": _register(unit, 1240.0, errors.energy_step),
        "heat_energy": _register(heat, 3310.0, errors.heat_step),
        "hot_water_on": spot["hot_water"],
    }
    for start, stop in errors.gaps:
        inside = slice(int(start // run.step), int(stop // run.step))
        for values in columns.values():
            values[inside] = np.nan
    return columns


def _stepped(values: Floats, step: float) -> Floats:
    return np.round(np.round(values / step) * step, 6)


def _register(energy: Floats, first: float, step: float) -> Floats:
    """Reading at the beginning of each interval [kWh], from energy in each [J]."""
    total = first + np.concatenate([[0.0], np.cumsum(energy)[:-1]]) / 3.6e6
    return np.round(np.floor(total / step + 1e-9) * step, 6)
