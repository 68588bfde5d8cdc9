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
    swapped : flow and return sensor connected crosswise, the whole time or on days (from, to).
    gaps : (from, to) seconds without any reading.
    heat_factor, unit_factor : by which the heat register and the unit's meter count wrongly.
    stuck : (column, from, to) days on which a column stands still. spikes : (column, how many,
    how far). sun : by which sunshine warms the outdoor sensor [K]. resets : (column, day) on which
    a register begins anew. late : by which electricity is logged late [s]. base_load : of others
    on the unit's circuit [W]. doubled : the unit's meter holds the backup too. silent : hours of
    the day (from, to) that the unit's register does not count. yield_logged : the heat register
    holds the source's yield. reported : how much of the heat the controller reports, and how far
    it errs by day; reported_frost : what it adds for defrosts it does not see. weather : another
    series of the outdoor temperature is logged. without : columns that are not
    logged; only : (column, from, to) days on which one is. air_m3h : the true airflow of an indoor
    unit whose air is logged; heads : (label, share of the heat, true airflow) of several of them.
    brine : the source's temperature is logged. secondary : the flow temperature behind a buffer is.
    gauges : refrigerant pressures and temperatures are. undercharged : superheat that a lack of
    refrigerant adds [K]. whole : the unit's meter holds pump and backup too. net : the
    heat register falls by what defrosts take back. volume : the water's volume register is logged,
    in steps of it [m3].
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
    swapped_days: tuple[float, float] | None = None
    heat_factor: float = 1.0
    unit_factor: float = 1.0
    stuck: tuple[tuple[str, float, float], ...] = ()
    spikes: tuple[tuple[str, int, float], ...] = ()
    sun: float = 0.0
    resets: tuple[tuple[str, float], ...] = ()
    late: float = 0.0
    base_load: float = 0.0
    doubled: bool = False
    silent: tuple[float, float] | None = None
    yield_logged: bool = False
    reported: float | None = None
    weather: bool = False
    without: tuple[str, ...] = ()
    only: tuple[tuple[str, float, float], ...] = ()
    air_m3h: float | None = None
    heads: tuple[tuple[str, float, float], ...] = ()
    brine: bool = False
    secondary: bool = False
    gauges: bool = False
    undercharged: float = 0.0
    whole: bool = False
    net: bool = False
    volume: float = 0.0
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
    crossed = np.full(n, errors.swapped)
    if errors.swapped_days is not None:
        crossed[_days(run, *errors.swapped_days)] = True
    flow_temp, return_temp = (
        np.where(crossed, return_temp, flow_temp),
        np.where(crossed, flow_temp, return_temp),
    )
    pair = errors.flow_offset - errors.return_offset
    # The register integrates what the meter's own sensors say, air in the water included.
    seen = np.divide(flow, spot["flow"], out=np.full(n, 1 + errors.flow_gain), where=flow > 0)
    heat = seen * (sums["counted"] + pair * sums["carried"])
    unit = sums["compressor"] + sums["source"] + sums["controls"]
    unit_power = spot["unit_power"]
    if errors.yield_logged:
        heat = np.maximum(heat - unit, 0.0)
    if errors.net:
        taken = np.minimum(sums["heating"] + sums["start_up"] + sums["defrost"], 0.0)
        heat = heat + seen * taken
    if errors.doubled or errors.whole:
        unit, unit_power = unit + sums["backup_heater"], unit_power + spot["backup_power"]
    if errors.whole:
        unit, unit_power = unit + sums["pump"], unit_power + spot["pump_power"]
    gain = (1 + errors.unit_gain) * errors.unit_factor
    unit = unit * gain + errors.base_load * run.step
    unit_power = unit_power * gain + errors.base_load
    if errors.silent is not None:
        hour = np.arange(n) * run.step / 3600 % 24
        since, until = errors.silent
        asleep = (
            (hour >= since) & (hour < until) if since < until else (hour >= since) | (hour < until)
        )
        unit = np.where(asleep, 0.0, unit)
    columns = {
        "flow_temp": flow_temp,
        "return_temp": return_temp,
        "flow_rate": _stepped(flow, errors.flow_step),
        "outdoor_temp": temp("outdoor", errors.outdoor_offset),
        "outdoor_humidity": np.round(spot["humidity"] * 100),
        "room_temp": temp("room", 0.0),
        "tank_temp": temp("tank", 0.0),
        "power_unit": np.round(unit_power),
        "power_pump": np.round(spot["pump_power"] * (1 + errors.pump_gain), 1),
        "power_backup": np.round(spot["backup_power"] * (1 + errors.backup_gain)),
        "energy_unit": _register(unit, 1240.0, errors.energy_step),
        "heat_energy": _register(heat * errors.heat_factor, 3310.0, errors.heat_step),
        "hot_water_on": spot["hot_water"],
    }
    if errors.volume:
        passed = np.cumsum(flow * run.step / 60e3)
        total = 812.4 + np.concatenate([[0.0], passed[:-1]])
        columns["water_volume"] = np.round(np.floor(total / errors.volume) * errors.volume, 6)
    _add(columns, run, errors, rng)
    _spoil(columns, run, errors, rng)
    for name, since, until in errors.only:
        kept = np.full(len(columns[name]), np.nan)
        kept[_days(run, since, until)] = columns[name][_days(run, since, until)]
        columns[name] = kept
    for name in errors.without:
        del columns[name]
    for start, stop in errors.gaps:
        inside = slice(int(start // run.step), int(stop // run.step))
        for values in columns.values():
            values[inside] = np.nan
    return columns


def _days(run: Run, since: float, until: float) -> slice:
    return slice(int(since * 86400 // run.step), int(until * 86400 // run.step))


def _add(
    columns: dict[str, Floats], run: Run, errors: MeterErrors, rng: np.random.Generator
) -> None:
    """Further columns: what the controller reports, and the weather from elsewhere."""
    sums, n = run.sums, len(columns["flow_temp"])
    if errors.reported is not None:
        # An estimate from a map: no defrosts, no start-up losses, an error that drifts by day.
        made = np.maximum(sums["heating"] + sums["hot_water"] + sums["start_up"], 0.0)
        days = n * run.step // 86400 + 1
        drift = np.repeat(rng.normal(0, 0.015, days), 86400 // run.step)[:n]
        columns["heat_power"] = np.round(made / run.step * errors.reported * (1 + drift), -1)
    if errors.air_m3h is not None:
        given = sum(sums[k] for k in ("heating", "start_up", "hot_water", "defrost", "other"))
        room = run.spot["room"]
        density = 1.293 * 273.15 / (273.15 + room)
        rise = given / run.step / (errors.air_m3h / 3600 * density * 1018.0)
        columns["return_air_temp"] = _stepped(room + rng.normal(0, 0.05, n), 0.1)
        columns["supply_air_temp"] = _stepped(room + rise + rng.normal(0, 0.1, n), 0.1)
    for label, share, airflow in errors.heads:
        given = share * np.sum([sums[k] for k in GIVEN], axis=0)
        room = run.spot["room"] + (0.4 if share > 0.5 else -0.3)
        density = 1.293 * 273.15 / (273.15 + room)
        rise = given / run.step / (airflow / 3600 * density * 1018.0)
        columns[f"return_air_{label}"] = _stepped(room + rng.normal(0, 0.05, n), 0.1)
        columns[f"supply_air_{label}"] = _stepped(room + rise + rng.normal(0, 0.1, n), 0.1)
    if errors.brine:
        columns["source_temp"] = _stepped(run.spot["source"] + rng.normal(0, 0.05, n), 0.1)
    if errors.secondary:
        columns["flow_secondary"] = _stepped(
            run.spot["secondary"] + errors.flow_offset + rng.normal(0, errors.temp_noise, n),
            errors.temp_step,
        )
    if errors.gauges:
        columns |= _gauges(run, errors, rng)
    if errors.weather:
        columns["outdoor_weather"] = np.round(run.spot["outdoor"] + rng.normal(0, 0.2, n), 1)


GIVEN = ("heating", "start_up", "hot_water", "defrost", "other")


def _gauges(run: Run, errors: MeterErrors, rng: np.random.Generator) -> dict[str, Floats]:
    """Gauges of a propane circuit: saturation by Antoine's equation (NIST constants, from memory),
    compression with exponent 1.13 and an efficiency of 0.68; equalised at rest."""
    spot, n = run.spot, len(run.spot["flow"])
    modulation, since = spot["modulation"], spot["since_start"]
    on = spot["unit_power"] > 90.0
    defrosting = (run.state == 6) & on
    air = spot["outdoor"] - (5.0 + 6.5 * modulation) - 0.25 * errors.undercharged
    evaporating = np.where(defrosting, -14.0, air)
    condensing = np.where(defrosting, 12.0, spot["flow_temp"] + 1.0 + 2.5 * modulation)
    superheat = 6.0 + errors.undercharged + 14.0 * np.exp(-since / 150.0) + rng.normal(0, 0.3, n)
    superheat = np.where(defrosting, 3.0, superheat)
    rest = spot["outdoor"] + 3.0
    evaporating = np.where(on, evaporating, rest)
    condensing = np.where(on, condensing, rest)
    low, high = _propane(evaporating), _propane(condensing)
    suction = evaporating + np.where(on, superheat, 0.0)
    hot = (suction + 273.15) * (high / low) ** (0.13 / 1.13 / 0.68) - 273.15
    atmosphere = 1.01325

    def bar(pressure: Floats) -> Floats:
        return np.round(pressure - atmosphere + rng.normal(0, 0.01, n), 2)

    return {
        "evaporating_pressure": bar(low),
        "condensing_pressure": bar(high),
        "suction_temp": _stepped(suction, 0.1),
        "discharge_temp": _stepped(hot, 0.1),
    }


def _propane(temp: Floats) -> Floats:
    """Saturation pressure [bar]."""
    found: Floats = 10 ** (3.98292 - 819.296 / (temp + 273.15 - 24.417))
    return found


def _spoil(
    columns: dict[str, Floats], run: Run, errors: MeterErrors, rng: np.random.Generator
) -> None:
    """What goes wrong on the way from the sensor to the log."""
    n = len(columns["flow_temp"])
    if errors.sun:
        hour = np.arange(n) * run.step / 3600 % 24
        shines = np.repeat(rng.random(n * run.step // 86400 + 1) < 0.5, 86400 // run.step)[:n]
        lit = np.clip(np.minimum(hour - 9.5, 12.5 - hour) / 0.35, 0.0, 1.0) * shines
        columns["outdoor_temp"] = _stepped(
            columns["outdoor_temp"] + errors.sun * lit, errors.temp_step
        )
    for name, since, until in errors.stuck:
        inside = _days(run, since, until)
        if inside.start < n:
            columns[name][inside] = columns[name][inside.start]
    for name, count, size in errors.spikes:
        at = rng.choice(n, count, replace=False)
        columns[name][at] += rng.choice([-1.0, 1.0], count) * size * rng.uniform(0.8, 1.4, count)
        if name.startswith(("power", "flow_rate")):
            columns[name][at] = np.abs(columns[name][at])
    for name, day in errors.resets:
        inside = slice(int(day * 86400 // run.step), None)
        if inside.start < n:
            columns[name][inside] -= columns[name][inside.start]
    if errors.late:
        by = round(errors.late / run.step)
        for name in ("power_unit", "power_pump", "power_backup", "energy_unit"):
            columns[name] = np.concatenate([np.full(by, columns[name][0]), columns[name][:-by]])


def _stepped(values: Floats, step: float) -> Floats:
    return np.round(np.round(values / step) * step, 6)


def _register(energy: Floats, first: float, step: float) -> Floats:
    """Reading at the beginning of each interval [kWh], from energy in each [J]."""
    total = first + np.concatenate([[0.0], np.cumsum(energy)[:-1]]) / 3.6e6
    return np.round(np.floor(total / step + 1e-9) * step, 6)
