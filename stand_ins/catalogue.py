"""Named scenarios: those of the demo, and random ones for tests and validation."""

from dataclasses import replace
from datetime import date

import numpy as np

from ember.description.installation import (
    AirCircuit,
    ElectricityAccuracy,
    Installation,
    OutdoorSensor,
    Probes,
    UnitKind,
)
from stand_ins.meters import MeterErrors
from stand_ins.plant import Plant
from stand_ins.scenario import Scenario, default_installation, errors_within

FIRST = date(2025, 10, 1)
DAYS = 396  # thirteen months

_SMALL = Plant(
    capacity=8000.0, heat_loss=140.0, emitter=62.0, flow=17.0, part_load=0.02, second_law=0.41
)
_LARGE = Plant(
    capacity=16000.0, heat_loss=290.0, emitter=118.0, flow=33.0, part_load=0.02, second_law=0.41,
    house_capacity=45e6, loop_capacity=800e3, gains=600.0, tank=300.0, coil=1400.0,
    backup=6000.0, frost_mass=5.0,
)  # fmt: skip
_GAINS = MeterErrors(
    flow_gain=-0.006, flow_offset=0.11, return_offset=0.09, outdoor_offset=0.2, unit_gain=0.004
)

SCENARIOS = {
    "as-rated": Scenario("Nursery", 11, FIRST, DAYS, plant=_SMALL, errors=_GAINS),
    "below-rated": Scenario(
        "School house", 12, FIRST, DAYS, plant=_LARGE._replace(cop_factor=0.8), errors=_GAINS,
        fault="COP 20 % below the rated table in all conditions",
    ),
    "air": Scenario(
        "Ferry office", 13, FIRST, DAYS, plant=_SMALL._replace(capacity=7000.0, heat_loss=120.0),
        errors=replace(_GAINS, air=((153.0, 170.0),)),
        fault="air in the flow meter, days 153 to 170",
    ),
    "swapped": Scenario(
        "Workshop", 14, FIRST, DAYS, plant=_SMALL._replace(tank=0.0, backup=0.0),
        errors=replace(_GAINS, swapped=True),
        fault="flow and return sensors swapped",
    ),
}  # fmt: skip


def random_season(seed: int, cop_factor: float = 1.0, swapped: bool = False) -> Scenario:
    """A heating season of a house drawn at random: 5-minute readings, meters within class."""
    rng = np.random.default_rng(10_000 + seed)
    heat_loss = float(rng.uniform(90, 280))
    capacity = heat_loss * float(rng.uniform(48, 66))
    plant = Plant(
        heat_loss=heat_loss,
        house_capacity=heat_loss * float(rng.uniform(1.2e5, 2.0e5)),
        gains=float(rng.uniform(200, 500)),
        emitter=heat_loss * float(rng.uniform(0.40, 0.62)),
        loop_capacity=heat_loss * float(rng.uniform(2.2e3, 6e3)),
        flow=capacity / 69.5 / float(rng.uniform(4.5, 7.0)),  # ΔT at full load [K]
        capacity=capacity,
        least=float(rng.uniform(0.22, 0.40)),
        second_law=float(rng.uniform(0.37, 0.45)),
        part_load=float(rng.uniform(0.0, 0.08)),
        tank=float(rng.choice([0.0, 180.0, 250.0])),
        tank_set=float(rng.uniform(45, 52)),
        backup=float(rng.choice([0.0, 3000.0])),
        pump=float(rng.uniform(25, 80)),
        cop_factor=cop_factor,
    )
    base = default_installation(f"random {seed}", plant)
    described = _metering(base, rng)
    errors = errors_within(described, rng, MeterErrors(swapped=swapped))
    if rng.random() < 0.4:
        begin = float(rng.uniform(20, 150)) * 86400
        errors = replace(errors, gaps=((begin, begin + float(rng.uniform(0.2, 15)) * 86400),))
    return Scenario(
        name=described.name,
        seed=seed,
        first_day=date(2024, 10, 1),
        days=212,
        step=300,
        plant=plant,
        errors=errors,
        installation=described,
        mean_temp=float(rng.uniform(6.0, 9.5)),
        swing=float(rng.uniform(5.5, 8.5)),
    )


def _metering(base: Installation, rng: np.random.Generator) -> Installation:
    """One of the usual ways of metering, at random."""
    circuit = base.circuits[0]
    kind = int(rng.integers(4))
    if kind == 0:
        circuit = replace(circuit, flow_class=3, in_service=True)
    elif kind == 1:
        circuit = replace(
            circuit, flow_class=None, flow_limit=0.03, probes=Probes.CLASS_AA, in_service=True
        )
    elif kind == 2:
        circuit = replace(circuit, flow_class=2, in_service=True)
    register = replace(base.registers[0], in_service=circuit.in_service)
    accuracy = rng.choice([ElectricityAccuracy.CLASS_A, ElectricityAccuracy.CLASS_B])
    meters = tuple(replace(m, accuracy=ElectricityAccuracy(accuracy)) for m in base.electricity)
    if rng.random() < 0.4:  # a register instead of sampled power
        meters = (replace(meters[0], channel="energy:unit"), *meters[1:])
    return replace(
        base,
        circuits=(circuit,),
        registers=(register,),
        electricity=meters,
        outdoor=OutdoorSensor(limit_k=float(rng.choice([0.5, 1.0]))),
    )


# Kinds of systems by which states, runs, starts and defrosts are checked.
KINDS = (
    "weather curve", "thermostat", "night set-back", "defrosts by the clock", "defrosts cut short",
    "short cycling", "ground source", "cooling", "air-to-air", "pump always on",
)  # fmt: skip


def varied(seed: int, days: int = 60) -> tuple[str, Scenario]:
    """A system of one of the kinds, drawn at random, with readings every minute; its kind."""
    kind = KINDS[seed % len(KINDS)]
    base = random_season(20_000 + seed)
    assert base.installation is not None
    described = base.installation
    unit = replace(described.electricity[0], channel="power:unit")
    described = replace(described, electricity=(unit, *described.electricity[1:]))
    rng = np.random.default_rng(30_000 + seed)
    plant, errors, first = base.plant, replace(base.errors, gaps=()), date(2024, 12, 1)
    match kind:
        case "thermostat":
            plant = plant._replace(fixed_flow=float(rng.uniform(44, 52)))
        case "night set-back":
            plant = plant._replace(setback=float(rng.uniform(1.5, 4)))
        case "defrosts by the clock":
            plant = plant._replace(timed=float(rng.choice([2400.0, 2700.0, 3600.0])))
        case "defrosts cut short":
            plant = plant._replace(melts=0.33, defrost_limit=float(rng.choice([480.0, 600.0])))
        case "short cycling":
            plant = plant._replace(least=0.6, tight=1.0, pause=240.0)
        case "ground source":
            plant = plant._replace(ground=1.0)
            described = replace(
                described, unit=replace(described.unit, kind=UnitKind.GROUND_SOURCE)
            )
        case "cooling":
            plant, first = plant._replace(cooling=23.0), date(2025, 6, 1)
        case "air-to-air":
            plant = plant._replace(tank=0.0, backup=0.0)
            airflow = plant.capacity / 6.0  # [m3/h]
            air = AirCircuit(
                "air side", nominal_m3h=airflow, includes=described.circuits[0].includes
            )
            described = replace(
                described,
                circuits=(),
                registers=(),
                air=(air,),
                tank=None,
                unit=replace(described.unit, kind=UnitKind.AIR_TO_AIR_SINGLE),
            )
            water = (
                "flow_rate",
                "flow_temp",
                "return_temp",
                "heat_energy",
                "hot_water_on",
                "tank_temp",
            )
            errors = replace(errors, air_m3h=airflow, without=water)
        case "pump always on":
            plant = plant._replace(pump_on=1.0, pipe=float(rng.uniform(5, 20)))
    mean = 14.0 if kind == "cooling" else base.mean_temp
    return kind, replace(
        base,
        plant=plant,
        errors=errors,
        installation=described,
        first_day=first,
        days=days,
        step=60,
        mean_temp=mean,
    )
