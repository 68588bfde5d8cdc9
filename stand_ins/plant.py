"""House, heat pump, frost and tank, in steps of ten seconds.

Its own physics throughout: water properties, humidity and frost are written here anew, so that
the core is checked against something that shares none of its code.
"""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from stand_ins.weather import Weather

Floats = NDArray[np.float64]
DT = 10.0  # [s]

OFF, STANDBY, START_UP, HEATING, HOT_WATER = 1, 2, 3, 4, 5
DEFROST, COOLING, BACKUP, OVERRUN = 6, 7, 8, 9


class Plant(NamedTuple):
    """One house with its heat pump. W, K, J, kg unless said otherwise."""

    heat_loss: float = 160.0  # [W/K]
    house_capacity: float = 25e6  # [J/K]
    gains: float = 350.0
    room_set: float = 20.5  # [degC]
    emitter: float = 75.0  # output = emitter · (mean water − room)^exponent [W/K^n]
    exponent: float = 1.3
    loop_capacity: float = 450e3  # [J/K]
    flow: float = 20.0  # [L/min]
    capacity: float = 9000.0  # at A7/W35
    least: float = 0.28  # smallest modulation
    second_law: float = 0.42  # share of Carnot near a lift of 35 K
    part_load: float = 0.05  # better COP at no load
    cop_factor: float = 1.0  # a fault below 1
    fault_since: float = 0.0  # from which it acts [s from the start]
    frost_mass: float = 3.0  # [kg] at which a defrost begins
    tank: float = 200.0  # [L], 0 for none
    tank_set: float = 48.0  # [degC]
    coil: float = 900.0  # [W/K]
    backup: float = 3000.0  # 0 for none
    controls: float = 12.0
    pump: float = 45.0
    glycol: float = 1.0  # heat carried per litre relative to water
    pump_on: float = 0.0  # 1 for a pump that runs through the heating season
    pipe: float = 0.0  # lost by the pipes between the sensors [W/K over the room]
    ground: float = 0.0  # 1 for a ground source
    cooling: float = 0.0  # room temperature above which it cools, 0 for never [degC]
    fixed_flow: float = 0.0  # flow temperature of a thermostat control, 0 for a weather curve
    setback: float = 0.0  # by which the room may be colder from 23 to 5 o'clock [K]
    steep: float = 0.0  # by which the curve is too high at 0 degC outdoors [K], more when colder
    timed: float = 0.0  # between defrosts by the clock [s], 0 for defrosts on demand
    melts: float = 1.0  # share of the usual heat that reaches the ice in a defrost
    defrost_limit: float = 600.0  # [s]
    blend: float = 0.0  # share of ΔT lost by mixing in a buffer
    pasteurise: float = 0.0  # to which the tank is heated on the seventh night [degC]
    pause: float = 480.0  # shortest between two runs [s]
    tight: float = 3.5  # above the target at which a run ends [K]
    frost_cost: float = 0.06  # by which a coil full of frost lowers the COP
    hot_loss: float = 0.0  # by which the COP is lower at 15 K above a flow of 42 degC
    strength: float = 1.0  # capacity over the rated one
    idle: float = 0.0  # between defrosts made whatever the air, below 14 degC [s], 0 for none
    swing: float = 0.0  # of the flow over its mean, within ten minutes
    eager: float = -50.0  # outdoors, below which the backup helps without need [degC]
    band: float = 6.0  # below its set point at which the tank is reheated [K]
    low_limit: float = -50.0  # outdoors, below which the compressor stops [degC]
    sniff: float = 0.0  # for which the pump runs in each half hour of rest [s]
    notch: float = 0.0  # between the levels at which the inverter runs, 0 for any
    tank_clock: float = 0.0  # hour at which the tank is charged, 0 for whenever it is cold
    linger: float = 0.0  # for which the pump runs on after a run [s], 0 for the usual two minutes
    away_from: float = 0.0  # since the start [s], nobody is at home
    away_for: float = 0.0  # for so long [s]
    away_lower: float = 5.0  # by which the rooms may then be colder [K]
    windows: float = 0.0  # that let in what the sun gives on the level [m²]


def rated_cop(plant: Plant, outdoor: Floats, flow: Floats) -> Floats:
    """The maker's COP of the healthy unit at full speed, without defrosts."""
    return np.vectorize(lambda o, f: _cop(plant, o, f))(outdoor, flow)


def rated_capacity(plant: Plant, outdoor: Floats, flow: Floats) -> Floats:
    """The maker's heat output [W]."""
    return np.vectorize(lambda o, f: _capacity(plant, o, f))(outdoor, flow)


@njit(cache=True)
def _cop(plant, outdoor, flow):
    lift = max(flow - outdoor, 12.0)
    share = plant.second_law * (1.0 - ((lift - 38.0) / 95.0) ** 2)
    return share * (flow + 273.15) / lift


@njit(cache=True)
def _capacity(plant, outdoor, flow):
    value = plant.capacity * (1.0 + 0.021 * (outdoor - 7.0)) * (1.0 - 0.003 * (flow - 35.0))
    return max(value, 0.3 * plant.capacity)


@njit(cache=True)
def _water(temp):
    """Volumetric heat capacity of water [J/(L K)] (Kell 1975 for the density, c_p 4.18)."""
    rho = 999.85 + 0.0533 * temp - 0.00756 * temp**2 + 4.32e-5 * temp**3 - 1.35e-7 * temp**4
    cp = 4217.0 - 3.15 * temp + 0.0955 * temp**2 - 1.25e-3 * temp**3 + 6.5e-6 * temp**4
    return rho * cp / 1000.0


@njit(cache=True)
def _humidity_ratio(temp, humidity):
    """Magnus formula over water."""
    vapour = humidity * 611.2 * np.exp(17.62 * temp / (243.12 + temp))
    return 0.622 * vapour / (101325.0 - vapour)


@njit(cache=True)
def _frost_ratio(temp):
    """Magnus formula over ice."""
    vapour = 611.2 * np.exp(22.46 * temp / (272.62 + temp))
    return 0.622 * vapour / (101325.0 - vapour)


# Columns of what is written out for each interval.
SPOT = ("flow_temp", "return_temp", "flow", "outdoor", "humidity", "room", "tank", "hot_water",
        "unit_power", "pump_power", "backup_power", "modulation", "since_start", "secondary",
        "ice", "source")  # fmt: skip
SUMS = ("heating", "start_up", "hot_water", "defrost", "other", "backup_heat", "compressor",
        "source", "controls", "backup_heater", "pump", "carried", "counted")  # fmt: skip


@njit(cache=True)
def _run(plant, temp, humidity, draw, radiation, n, substeps):
    spot = np.empty((n, 16))
    sums = np.zeros((n, 13))
    states = np.zeros((n, 10), np.int64)
    defrosts = np.zeros((200_000, 2), np.int64)
    starts = np.zeros(400_000, np.int64)
    n_defrosts = 0
    n_starts = 0
    room = plant.room_set
    tank = plant.tank_set - 2.0
    loop = 28.0  # return temperature of the heating circuit
    coil_loop = 40.0  # return temperature of the tank's circuit
    running = False
    hot_water = False
    cooling = False
    defrosting = False
    backup_on = False
    frost = 0.0
    since_start = 0.0
    since_stop = 1e4
    since_defrost = 1e4
    defrost_time = 0.0
    cold_time = 0.0
    modulation = 0.5
    mean_out = temp[0]
    flow_temp = loop
    step = 0
    for i in range(n):
        for _ in range(substeps):
            seconds = step * 10.0
            hour = step // 360
            part = seconds / 3600 - hour
            outdoor = temp[hour] * (1 - part) + temp[hour + 1] * part
            damp = humidity[hour] * (1 - part) + humidity[hour + 1] * part
            mean_out += (outdoor - mean_out) * 10.0 / 86400.0

            source = outdoor
            if plant.ground > 0.0:  # brine, cooler the more of the winter is over
                source = 5.0 + 0.15 * (mean_out - 8.0)
            clock = step % 8640 * 10.0
            wanted = plant.room_set
            if plant.setback > 0.0 and (clock >= 82800.0 or clock < 18000.0):
                wanted -= plant.setback
            if plant.away_from <= seconds < plant.away_from + plant.away_for:
                wanted -= plant.away_lower

            # What is wanted.
            need = plant.heat_loss * (wanted - outdoor) - plant.gains
            want_heat = mean_out < 15.0 and room < wanted + 1.0 and need > 0
            if plant.fixed_flow > 0.0:
                want_heat = mean_out < 15.0 and (
                    room < wanted - 0.2 or (running and room < wanted + 0.3)
                )
            if plant.cooling > 0.0 and mean_out > 17.0:
                warm = room > plant.cooling or (cooling and room > plant.cooling - 0.8)
                if warm != cooling:
                    cooling = warm
                    if not warm:
                        running = running and hot_water
                        since_stop = 0.0
            else:
                cooling = False
            above = (max(need, 100.0) / plant.emitter) ** (1 / plant.exponent)
            target = wanted + above + 2.5 + 2.0 * (wanted - room)
            target += plant.steep * max(0.3, 1.0 - outdoor / 20.0)
            if plant.fixed_flow > 0.0:
                target = plant.fixed_flow
            target = min(max(target, 24.0), 56.0)
            tank_set = plant.tank_set
            if plant.pasteurise > 0.0 and int(seconds // 86400) % 7 == 6 and clock > 3600.0:
                tank_set = plant.pasteurise if clock < 4 * 3600.0 else tank_set
            if plant.tank > 0 and not defrosting:
                cold = tank < tank_set - plant.band
                if plant.tank_clock > 0.0:
                    late = clock - plant.tank_clock * 3600.0
                    cold = 0.0 <= late < 1800.0 and tank < tank_set - 2.0
                if not hot_water and cold and (not running or since_start > 600):
                    hot_water = True
                elif hot_water and tank >= tank_set:
                    hot_water = False
            back = coil_loop if hot_water else loop
            moved = plant.flow
            if plant.swing != 0.0:
                moved *= 1.0 + plant.swing * np.sin(seconds / 600.0 * 2.0 * np.pi)
            rate = moved / 60.0 * _water(back) * plant.glycol  # [W/K]
            too_cold = outdoor < plant.low_limit
            if running and too_cold:
                running = False
                defrosting = False
                since_stop = 0.0

            if not running:
                begin = hot_water or (want_heat and loop < target - 5.0)
                if (begin or cooling) and since_stop > plant.pause and not too_cold:
                    running = True
                    since_start = 0.0
                    modulation = 0.6
                    starts[n_starts] = step
                    n_starts += 1
            elif not defrosting and since_start > 180.0:
                too_warm = flow_temp > target + plant.tight if not hot_water else flow_temp > 66.0
                if cooling and not hot_water:
                    too_warm = flow_temp < 9.0
                if too_warm or (not hot_water and not want_heat and not cooling):
                    running = False
                    since_stop = 0.0

            heat = 0.0
            power = 0.0
            fan = 0.0
            on_after = plant.linger if plant.linger > 0.0 else 120.0
            pumping = running or since_stop < on_after
            pumping = pumping or (plant.pump_on > 0.0 and mean_out < 15.0)
            if plant.sniff > 0.0 and mean_out < 15.0 and seconds % 1800.0 < plant.sniff:
                pumping = True
            chills = cooling and running and not hot_water
            if chills:
                modulation += min(max(0.35 - modulation, -0.015), 0.015)
                useful = 1.0 - np.exp(-since_start / 110.0)
                heat = -modulation * 0.8 * plant.capacity * useful
                fan = 40.0 + 70.0 * modulation
                share = 0.3 * (flow_temp + 273.15) / max(outdoor + 8.0 - flow_temp, 12.0)
                power = max(-heat / share, 0.1 * plant.capacity) + fan + plant.controls
                since_start += 10.0
                since_defrost += 10.0
            elif running and not defrosting:
                full = _capacity(plant, source, flow_temp) * plant.strength
                wish = rate * (target - back) / full if not hot_water else 1.0
                wish = min(max(wish, plant.least), 1.0)
                if plant.notch > 0.0:  # it holds a level until it is a whole one off
                    held = np.round(modulation / plant.notch) * plant.notch
                    wish = held if abs(wish - held) < plant.notch else wish
                    wish = min(max(wish, plant.least), 1.0)
                modulation += min(max(wish - modulation, -0.015), 0.015)
                cover = min(frost / plant.frost_mass, 1.0)
                warm_up = min(since_start, since_defrost)
                useful = 1.0 - np.exp(-warm_up / 110.0)
                drawn = 0.55 + 0.45 * (1.0 - np.exp(-warm_up / 45.0))
                steady = modulation * full * (1.0 - 0.10 * cover**3)
                cop = _cop(plant, source, flow_temp) * (1 - plant.frost_cost * cover**3)
                cop *= 1.0 - plant.hot_loss * min(max(flow_temp - 42.0, 0.0) / 15.0, 1.0)
                cop *= 1.0 + plant.part_load * (1.0 - modulation)
                if seconds >= plant.fault_since:
                    cop *= plant.cop_factor
                heat = steady * useful
                fan = 40.0 + 70.0 * modulation
                power = max(steady / cop * drawn, fan + plant.controls + 50.0)
                surface = outdoor - (1.5 + 6.5 * modulation)
                if plant.ground > 0.0:
                    frost = 0.0
                elif surface < 0.0:
                    excess = _humidity_ratio(outdoor, damp) - _frost_ratio(surface)
                    if excess > 0.0:
                        frost += excess * 0.65 * (0.5 + 0.5 * modulation) * 10.0
                elif outdoor > 2.0 and frost > 0.0:
                    frost = max(0.0, frost - 0.0008 * (outdoor - 1.0) * 10.0)
                since_start += 10.0
                since_defrost += 10.0
                due = frost >= plant.frost_mass
                if plant.timed > 0.0:
                    due = outdoor < 6.0 and min(since_defrost, since_start) > plant.timed
                if plant.idle > 0.0:
                    due = due or (outdoor < 14.0 and min(since_defrost, since_start) > plant.idle)
                if due and since_start > 1200.0 and since_defrost > 1200.0:
                    defrosting = True
                    defrost_time = 0.0
                    defrosts[n_defrosts, 0] = step
            elif running:
                taken = 0.55 * plant.capacity * (1.0 - np.exp(-(defrost_time + 5.0) / 25.0))
                power = 0.16 * plant.capacity + plant.controls
                heat = -taken
                frost -= plant.melts * (taken + 0.8 * power) / 420e3 * 10.0
                defrost_time += 10.0
                since_start += 10.0
                if (frost <= 0.0 and defrost_time >= 120.0) or defrost_time >= plant.defrost_limit:
                    defrosting = False
                    frost = max(frost, 0.0)
                    since_defrost = 0.0
                    defrosts[n_defrosts, 1] = step + 1
                    n_defrosts += 1
            else:
                since_stop += 10.0
                since_defrost = 1e4
                if outdoor > 2.0:
                    frost = max(0.0, frost - 0.001 * outdoor * 10.0)

            # The backup heater.
            backup = 0.0
            if plant.backup > 0.0 and running and not hot_water and not defrosting:
                short = modulation > 0.99 and flow_temp < target - 2.5
                cold_time = cold_time + 10.0 if short else 0.0
                if cold_time > 1800.0:
                    backup_on = True
                if flow_temp > target - 0.3:
                    backup_on = False
                if outdoor < plant.eager and since_start > 600.0 and flow_temp < target + 2.0:
                    backup_on = True
            elif plant.backup > 0.0 and too_cold and want_heat:
                if flow_temp < target - 3.0:
                    backup_on = True
                if flow_temp > target:
                    backup_on = False
                pumping = True
            else:
                backup_on = False
            if backup_on:
                backup = plant.backup

            given = heat + backup
            if pumping:
                flow_temp = back + given / rate
                if not running:
                    flow_temp -= plant.pipe * (back - room) / rate
            else:
                flow_temp += (back - flow_temp) * 10.0 / 900.0

            # Circuits, house and tank.
            emitted = 0.0
            mean_water = 0.5 * (flow_temp + loop) if pumping and not hot_water else loop
            if plant.cooling > 0.0 and mean_water < room and pumping and not hot_water:
                emitted = -4.0 * plant.emitter * (room - mean_water)  # fan coils
            if mean_water > room:
                emitted = plant.emitter * (mean_water - room) ** plant.exponent
                if not pumping or hot_water:
                    emitted *= 0.5
            loop += (
                ((given if pumping and not hot_water else 0.0) - emitted)
                * 10.0
                / plant.loop_capacity
            )
            into_tank = 0.0
            if hot_water and pumping:
                into_tank = plant.coil * (0.5 * (flow_temp + coil_loop) - tank)
                coil_loop += (given - into_tank) * 10.0 / 60e3
            else:
                coil_loop += (room - coil_loop) * 10.0 / 3600.0
            if plant.tank > 0:
                warm_enough = min(max((tank - 10.0) / 30.0, 0.0), 1.0)  # less comes of a cool tank
                lost = 1.8 * (tank - room) + draw[hour] * warm_enough
                tank += (into_tank - lost) * 10.0 / (plant.tank * 4180.0)
            room += (
                (
                    emitted
                    + plant.gains
                    + plant.windows * radiation[hour]
                    - plant.heat_loss * (room - outdoor)
                )
                * 10.0
                / plant.house_capacity
            )

            # Electricity.
            controls = plant.controls
            if not running and outdoor < 5.0:
                controls += 25.0
            compressor = 0.0
            if running:
                compressor = power - fan - plant.controls
            pump_power = plant.pump if pumping else 0.0

            if running:
                state = HEATING
                if chills:
                    state = COOLING
                elif defrosting or heat < 0.0:
                    state = DEFROST
                elif hot_water:
                    state = HOT_WATER
                elif since_start <= 600.0:
                    state = START_UP
            elif backup_on:
                state = BACKUP
            elif pumping:
                state = OVERRUN
            else:
                state = STANDBY
            states[i, state] += 1
            carried = moved / 60.0 * _water(0.5 * (back + flow_temp)) * 10.0 if pumping else 0.0
            row = sums[i]
            real = given * 10.0
            if state == HEATING:
                row[0] += real
            elif state == START_UP:
                row[1] += real
            elif state == HOT_WATER:
                row[2] += real
            elif state == DEFROST:
                row[3] += real
            else:
                row[4] += real
            row[5] += backup * 10.0
            row[6] += compressor * 10.0
            row[7] += fan * 10.0
            row[8] += controls * 10.0
            row[9] += backup * 10.0
            row[10] += pump_power * 10.0
            row[11] += carried if given > 0.0 else 0.0
            row[12] += max(real, 0.0)
            if _ == 0:
                out = spot[i]
                out[0] = flow_temp
                out[1] = back
                out[2] = moved if pumping else 0.0
                out[3] = outdoor
                out[4] = damp
                out[5] = room
                out[6] = tank
                out[7] = 1.0 if hot_water else 0.0
                out[8] = compressor + fan + controls
                out[9] = pump_power
                out[10] = backup
                out[11] = modulation if running else 0.0
                out[12] = since_start if running else 0.0
                out[13] = flow_temp - plant.blend * (flow_temp - back)
                out[14] = frost
                out[15] = source
            step += 1
    return spot, sums, states, defrosts[:n_defrosts], starts[:n_starts]


class Run(NamedTuple):
    """What the plant did. spot : column → (n,); sums : column → (n,) [J] per interval."""

    step: int
    spot: dict[str, Floats]
    sums: dict[str, Floats]
    state: NDArray[np.int8]
    defrosts: NDArray[np.int64]  # (d, 2) seconds from the start
    starts: NDArray[np.int64]  # (s,) seconds from the start


def run(plant: Plant, air: Weather, days: int, step: int) -> Run:
    """Runs a plant through its weather; step : of the log [s], a multiple of ten."""
    substeps = round(step / DT)
    n = days * 86400 // step
    spot, sums, states, defrosts, starts = _run(
        plant, air.temp, air.humidity, air.draw, air.radiation, n, substeps
    )
    return Run(
        step,
        {name: np.ascontiguousarray(spot[:, k]) for k, name in enumerate(SPOT)},
        {name: np.ascontiguousarray(sums[:, k]) for k, name in enumerate(SUMS)},
        states.argmax(axis=1).astype(np.int8),
        defrosts * int(DT),
        starts * int(DT),
    )
