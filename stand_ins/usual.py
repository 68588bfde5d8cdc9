"""What real plants and their metering do, each usual and harmless: the handbook's list, drawn at
random. None makes the metering doubtful, and none may stop a verdict."""

from dataclasses import replace
from datetime import date

import numpy as np

from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    HeatRegister,
    HeatSource,
    Installation,
)
from stand_ins.catalogue import random_season
from stand_ins.faults import measured
from stand_ins.meters import MeterErrors
from stand_ins.plant import Plant
from stand_ins.scenario import Scenario

EVERYTHING = (
    Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS, Consumer.DISTRIBUTION_PUMP,
    Consumer.BACKUP_HEATER,
)  # fmt: skip

# Kinds of plants; every one has one meter for everything and a net heat register.
USUAL = (
    "one meter for all", "pump all season", "sniffing pump", "pump runs on", "inverter in steps",
    "fixed speed on a buffer", "noisy sensors", "neither valve nor tank sensor",
    "two-minute readings", "five-minute readings", "counters alone", "pasteurisation",
)  # fmt: skip


WINDOWS = (0.02, 0.06)  # that let in what the sun gives on the level, by the heat loss [m²·K/W]


def usual(seed: int, days: int = 106) -> tuple[str, Scenario]:
    """A healthy system of one of the kinds, drawn at random; its kind."""
    kind = USUAL[seed % len(USUAL)]
    rng = np.random.default_rng(70_000 + seed)
    base = measured(random_season(60_000 + seed), seed)
    assert base.installation is not None
    plant = base.plant._replace(
        backup=float(rng.choice([0.0, 2000.0, 3000.0])),
        tank=200.0,
        pump=float(rng.uniform(30, 80)),
        tank_set=float(rng.uniform(47, 51)),
        band=float(rng.uniform(6, 11)),
    )
    errors = replace(
        base.errors,
        gaps=(),
        whole=True,
        net=True,
        heat_step=float(rng.choice([0.1, 1.0])),
        unit_gain=base.errors.unit_gain,
        without=("power_pump", "power_backup", "hot_water_on"),
    )
    step = 60
    match kind:
        case "pump all season":
            plant = plant._replace(pump_on=1.0)
        case "sniffing pump":
            plant = plant._replace(sniff=float(rng.choice([180.0, 240.0, 300.0])))
        case "pump runs on":
            plant = plant._replace(linger=float(rng.uniform(300, 600)))
        case "inverter in steps":
            plant = plant._replace(notch=0.12)
        case "fixed speed on a buffer":
            plant = plant._replace(
                least=1.0, loop_capacity=plant.heat_loss * 28e3, pump_on=1.0, tight=3.0
            )
        case "noisy sensors":
            errors = replace(errors, temp_noise=0.2, temp_step=0.0625, flow_noise=0.04)
        case "neither valve nor tank sensor":
            errors = replace(errors, without=(*errors.without, "tank_temp"))
        case "two-minute readings":
            step = 120
        case "five-minute readings":
            step = 300
        case "counters alone":
            errors = replace(
                errors,
                heat_step=0.1,
                energy_step=0.001,
                volume=0.001,
                without=(*errors.without, "power_unit", "flow_rate"),
            )
        case "pasteurisation":
            plant = plant._replace(pasteurise=60.0)
    described = _described(base.installation, plant, errors, kind)
    return kind, replace(
        base,
        plant=plant,
        errors=errors,
        installation=described,
        days=days,
        step=step,
        first_day=date(2024, 11, 1),
        name=f"{kind} {seed}",
    )


def sunlit(seed: int, days: int = 106) -> tuple[str, Scenario]:
    """The same with the sun through its windows, late winter and spring; its kind."""
    kind, scenario = usual(seed, days)
    plant = scenario.plant
    through = float(np.random.default_rng([seed, 9]).uniform(*WINDOWS))
    plant = plant._replace(windows=through * plant.heat_loss)
    return kind, replace(scenario, plant=plant, first_day=date(2025, 1, 20))


def _described(base: Installation, plant: Plant, errors: MeterErrors, kind: str) -> Installation:
    """As the papers say: one electricity meter, one heat meter, and nothing of the pump's watts."""
    held = EVERYTHING if plant.backup else EVERYTHING[:-1]
    heat = (
        (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER)
        if plant.backup
        else (HeatSource.HEAT_PUMP,)
    )
    channel = "energy:unit" if kind == "counters alone" else "power:unit"
    meter = ElectricityMeter("main meter", channel, held, base.electricity[0].accuracy)
    circuits = tuple(replace(c, includes=heat) for c in base.circuits)
    register = HeatRegister(
        "heat register",
        includes=heat,
        accuracy_class=base.registers[0].accuracy_class,
        circuit=None if kind == "counters alone" else circuits[0].name,
        resolution_kwh=errors.heat_step,
        in_service=base.registers[0].in_service,
    )
    return replace(
        base,
        electricity=(meter,),
        registers=(register,),
        consumers=held,
        fixed=(),
        circuits=() if kind == "counters alone" else circuits,
        unit=replace(
            base.unit,
            capacity_kw=plant.capacity / 1000,
            minimum_output_kw=round(plant.least * plant.capacity / 1000, 1),
            variable_speed=plant.least < 0.99,
        ),
    )
