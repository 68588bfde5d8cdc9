"""Scenarios: a house, its weather, its meters, and the truth."""

from dataclasses import dataclass, field, replace
from datetime import date, time
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ember.basis.clock import instant_of, zone_named
from ember.basis.quantity import convert
from ember.basis.series import Trace
from ember.description.house import Built, Emitters, House, Tank
from ember.description.installation import (
    Band,
    Consumer,
    ElectricityAccuracy,
    ElectricityMeter,
    HeatPump,
    HeatRegister,
    HeatSource,
    Installation,
    Location,
    OutdoorSensor,
    Probes,
    RatedPoint,
    RatedTable,
    Tariff,
    WaterCircuit,
)
from ember.metering.electricity import ELECTRICITY_LIMITS
from ember.metering.heat import CALCULATOR, DELTA_MIN, FLOW_SENSOR, HEAT_PROBE, PAIR
from ember.states import State
from stand_ins.meters import MeterErrors, read
from stand_ins.plant import Plant, Run, rated_capacity, rated_cop, run
from stand_ins.supply import supplied
from stand_ins.weather import weather

Floats = NDArray[np.float64]
ZONE = "WET"  # the island keeps western European time; the zone's name is no place

OUTDOOR_POINTS = (-15.0, -7.0, 2.0, 7.0, 12.0, 20.0)
FLOW_POINTS = (25.0, 35.0, 45.0, 55.0, 65.0)

# Channels as a logger's columns: channel, unit.
CHANNELS = {
    "flow_temp": ("flow_temp", "degC"),
    "return_temp": ("return_temp", "degC"),
    "flow_rate": ("flow_rate", "L_per_min"),
    "outdoor_temp": ("outdoor_temp", "degC"),
    "source_temp": ("source_temp", "degC"),
    "outdoor_humidity": ("outdoor_humidity", "percent"),
    "room_temp": ("room_temp", "degC"),
    "tank_temp": ("tank_temp", "degC"),
    "power_unit": ("power:unit", "watt"),
    "power_pump": ("power:pump", "watt"),
    "power_backup": ("power:backup", "watt"),
    "energy_unit": ("energy:unit", "kWh"),
    "heat_energy": ("heat_energy", "kWh"),
    "water_volume": ("water_volume", "m3"),
    "hot_water_on": ("hot_water_on", "fraction"),
    "heat_power": ("heat_power", "watt"),
    "outdoor_weather": ("outdoor_temp:weather", "degC"),
    "supply_air_temp": ("supply_air_temp", "degC"),
    "return_air_temp": ("return_air_temp", "degC"),
    "supply_air_lounge": ("supply_air_temp:lounge", "degC"),
    "return_air_lounge": ("return_air_temp:lounge", "degC"),
    "supply_air_bedroom": ("supply_air_temp:bedroom", "degC"),
    "return_air_bedroom": ("return_air_temp:bedroom", "degC"),
    "flow_secondary": ("flow_temp:secondary", "degC"),
    "evaporating_pressure": ("evaporating_pressure", "bar"),
    "condensing_pressure": ("condensing_pressure", "bar"),
    "suction_temp": ("suction_temp", "degC"),
    "discharge_temp": ("discharge_temp", "degC"),
    "solar_radiation": ("solar_radiation", "watt_per_m2"),
    "room_bedroom": ("room_temp:bedroom", "degC"),
    "power_solar": ("power:solar", "watt"),
    "battery_power": ("battery_power", "watt"),
    "grid_power": ("grid_power", "watt"),
}

BEDROOM_COLDER = 1.4  # than the room that is regulated [K]
TARGETS = {"L_per_min": "m3_per_s", "kWh": "joule", "bar": "pascal"}


@dataclass(frozen=True)
class Scenario:
    """What is simulated. first_day : local date; step : of the log [s]; fault : in words; panels :
    of the house [kW], with its battery [kWh]."""

    name: str
    seed: int
    first_day: date = date(2025, 10, 1)
    days: int = 365
    step: int = 60
    plant: Plant = field(default_factory=Plant)
    errors: MeterErrors = field(default_factory=MeterErrors)
    installation: Installation | None = None
    fault: str = "none"
    mean_temp: float = 8.5
    swing: float = 6.5
    panels: float = 0.0
    battery: float = 0.0


@dataclass(frozen=True)
class Simulated:
    """A scenario that has run: the log's columns, the description, and the truth."""

    scenario: Scenario
    installation: Installation
    start: int
    columns: dict[str, Floats]
    run: Run

    @cached_property
    def stamps(self) -> NDArray[np.int64]:
        """Instants of the rows [s]."""
        n = len(self.columns["outdoor_temp"])
        return self.start + self.scenario.step * np.arange(n)

    def trace(self) -> Trace:
        """The log as the core would grid it."""
        channels = {}
        for name, values in self.columns.items():
            channel, unit = CHANNELS[name]
            target = TARGETS.get(unit, unit)
            channels[channel] = values * convert(1.0, unit, target) if target != unit else values
        return Trace(self.start, self.scenario.step, channels)

    def truth_heat(self, mask: NDArray[np.bool_] | None = None) -> float:
        """True heat [kWh] with backup, net of defrosts, over cells or over all."""
        names = ("heating", "start_up", "hot_water", "defrost", "other")
        return self._total(names, mask)

    def truth_electricity(self, level: str, mask: NDArray[np.bool_] | None = None) -> float:
        """True electricity at a level [kWh]."""
        names = ["compressor", "source", "controls"]
        if level in ("H3", "H4"):
            names.append("backup_heater")
        if level == "H4":
            names.append("pump")
        return self._total(tuple(names), mask)

    def truth_heat_pump(self, mask: NDArray[np.bool_] | None = None) -> float:
        """True heat of the heat pump alone [kWh]."""
        return self.truth_heat(mask) - self._total(("backup_heat",), mask)

    def _total(self, names: tuple[str, ...], mask: NDArray[np.bool_] | None) -> float:
        sums = (self.run.sums[name] for name in names)
        return float(sum(s.sum() if mask is None else s[mask].sum() for s in sums)) / 3.6e6

    def _states(self) -> list[tuple[int, str]]:
        """Each change of state: instant from which it holds, and its name."""
        changes = np.flatnonzero(np.diff(self.run.state, prepend=-1))
        states = self.run.state[changes]
        return [
            (int(self.stamps[at]), State(int(code)).words)
            for at, code in zip(changes, states, strict=True)
        ]

    def truth(self) -> dict[str, object]:
        """The truth as it is written beside a log."""
        sums = {f"{k}_kwh": round(float(v.sum()) / 3.6e6, 3) for k, v in self.run.sums.items()}
        for helper in ("carried_kwh", "counted_kwh"):
            del sums[helper]
        return {
            "fault": self.scenario.fault,
            "seed": self.scenario.seed,
            "heat_kwh": round(self.truth_heat(), 3),
            "electricity_kwh": {
                level: round(self.truth_electricity(level), 3) for level in ("H2", "H3", "H4")
            },
            "spf": {
                "H2": round(self.truth_heat_pump() / self.truth_electricity("H2"), 4),
                "H3": round(self.truth_heat() / self.truth_electricity("H3"), 4),
                "H4": round(self.truth_heat() / self.truth_electricity("H4"), 4),
            },
            "parts": sums,
            "states": self._states(),
            "starts": [int(self.start + s) for s in self.run.starts],
            "defrosts": [[int(self.start + a), int(self.start + b)] for a, b in self.run.defrosts],
            "meter_errors": {
                k: getattr(self.scenario.errors, k)
                for k in (
                    "flow_gain",
                    "flow_offset",
                    "return_offset",
                    "outdoor_offset",
                    "unit_gain",
                    "pump_gain",
                    "backup_gain",
                )
            },
        }


def rated_table(plant: Plant) -> RatedTable:
    """The maker's table of the healthy unit, without defrosts."""
    healthy = plant._replace(cop_factor=1.0)
    points = []
    for o in OUTDOOR_POINTS:
        for f in FLOW_POINTS:
            cop = float(rated_cop(healthy, np.array([o]), np.array([f]))[0])
            capacity = float(rated_capacity(healthy, np.array([o]), np.array([f]))[0]) / 1000
            points.append(RatedPoint(o, f, round(capacity, 2), round(cop, 2)))
    return RatedTable(points=tuple(points), includes_defrost=False)


def default_installation(name: str, plant: Plant) -> Installation:
    """A usual description: a heat meter's sensors logged, three electricity meters."""
    unit = (Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS)
    meters = [ElectricityMeter("unit meter", "power:unit", unit, ElectricityAccuracy.CLASS_B)]
    consumers = [*unit, Consumer.DISTRIBUTION_PUMP]
    pump = (Consumer.DISTRIBUTION_PUMP,)
    meters.append(ElectricityMeter("pump meter", "power:pump", pump, ElectricityAccuracy.CLASS_B))
    heat = [HeatSource.HEAT_PUMP]
    if plant.backup:
        consumers.append(Consumer.BACKUP_HEATER)
        heat.append(HeatSource.BACKUP_HEATER)
        meters.append(
            ElectricityMeter(
                "backup meter",
                "power:backup",
                (Consumer.BACKUP_HEATER,),
                ElectricityAccuracy.CLASS_B,
            )
        )
    circuit = WaterCircuit(
        "heat meter",
        includes=tuple(heat),
        flow_class=2,
        nominal_flow_m3h=2.5,
        probes=Probes.HEAT_METER_PAIR,
        in_service=False,
    )
    register = HeatRegister(
        "heat register",
        includes=tuple(heat),
        accuracy_class=2,
        circuit="heat meter",
        in_service=False,
    )
    return Installation(
        name=name,
        zone=ZONE,
        electricity=tuple(meters),
        circuits=(circuit,),
        registers=(register,),
        consumers=tuple(consumers),
        unit=HeatPump(
            capacity_kw=plant.capacity / 1000,
            minimum_output_kw=round(plant.least * plant.capacity / 1000, 1),
            low_outdoor_limit=-20.0,
        ),
        location=Location(52.0, -20.0),  # open sea: the island is made up
        house=described_house(plant),
        tank=Tank(volume_l=plant.tank) if plant.tank else None,
        outdoor=OutdoorSensor(limit_k=0.5),
        tariff=Tariff(
            price=0.31,
            currency="EUR",
            standing_charge=0.42,
            bands=(Band("night", 0.17, time(23, 30), time(5, 30)),),
        ),
    )


DESIGN = -6.0  # outdoors [degC]


def described_house(plant: Plant) -> House:
    """The house as a survey would find it."""
    need = plant.heat_loss * (plant.room_set - DESIGN) - plant.gains
    flow = plant.room_set + (need / plant.emitter) ** (1 / plant.exponent) + 2.5
    return House(
        floor_area_m2=round(plant.heat_loss),
        heat_loss_kw=round(plant.heat_loss * (plant.room_set - DESIGN) / 1000, 1),
        design_outdoor=DESIGN,
        design_indoor=plant.room_set,
        design_flow=round(flow),
        emitters=Emitters.RADIATORS,
        built=Built.TO_2000,
    )


def simulate(scenario: Scenario) -> Simulated:
    """Runs a scenario; the same seed gives the same log and the same truth."""
    rng = np.random.default_rng(scenario.seed)
    first = scenario.first_day.timetuple().tm_yday
    air = weather(rng, first, scenario.days, scenario.mean_temp, scenario.swing)
    done = run(scenario.plant, air, scenario.days, scenario.step)
    columns = read(done, scenario.errors, rng)
    start = instant_of(scenario.first_day, zone_named(ZONE))
    if scenario.panels:
        used = np.nan_to_num(columns["power_unit"])
        made = supplied(
            used, start, scenario.step, scenario.panels, scenario.battery, scenario.seed
        )
        columns = columns | made
    if scenario.plant.windows:
        # Of each hour, as a weather station gives it, and of a room on the other side of the house.
        hours = np.arange(len(columns["room_temp"])) * scenario.step // 3600
        columns["solar_radiation"] = np.round(air.radiation[hours])
        columns["room_bedroom"] = np.round(columns["room_temp"] - BEDROOM_COLDER, 1)
    described = scenario.installation or default_installation(scenario.name, scenario.plant)
    return Simulated(scenario, described, start, columns, done)


def errors_within(
    installation: Installation, rng: np.random.Generator, base: MeterErrors
) -> MeterErrors:
    """Errors of meters that keep to the limits of their description, drawn at random.

    Each limit is drawn uniformly, the assumption under which the core states its U.
    """

    def draw(limit: float) -> float:
        return float(rng.uniform(-limit, limit))

    circuit = installation.circuits[0]
    doubled = 2.0 if circuit.in_service else 1.0
    flow_limit = circuit.flow_limit
    if circuit.flow_class is not None:
        c, d, cap = FLOW_SENSOR[circuit.flow_class]
        flow_limit = doubled * min(c + d * circuit.nominal_flow_m3h / 1.2, cap)
    if circuit.probes == Probes.HEAT_METER_PAIR:
        # Calculator and gain errors go into the flow's gain, the pair's into the offset.
        gain = draw(flow_limit) + draw(doubled * (PAIR[0] + CALCULATOR[0]))
        offset = draw(doubled * PAIR[1] * DELTA_MIN) + draw(doubled * CALCULATOR[1] * DELTA_MIN)
        common = draw(0.2)
        flow_offset, return_offset = common + offset, common
    else:
        gain = draw(flow_limit)
        a, b = HEAT_PROBE[circuit.probes]
        limit = a + b * 35.0
        flow_offset, return_offset = draw(limit), draw(limit)
    by_name = {m.name: draw(ELECTRICITY_LIMITS[m.accuracy][0]) for m in installation.electricity}
    return replace(
        base,
        flow_gain=gain,
        flow_offset=flow_offset,
        return_offset=return_offset,
        outdoor_offset=draw(installation.outdoor.limit_k),
        unit_gain=by_name.get("unit meter", 0.0),
        pump_gain=by_name.get("pump meter", 0.0),
        backup_gain=by_name.get("backup meter", 0.0),
    )
