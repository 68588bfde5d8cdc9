"""Faults of unit, settings and water at two sizes, and healthy systems with quirks, for findings.

Each is a house drawn at random, with sound metering, and a twin without the fault in the same
weather: what the fault costs is the difference of their electricity.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ember.description.installation import Consumer, ElectricityMeter, HeatSource
from stand_ins.catalogue import random_season
from stand_ins.faults import FAULTS, QUIRKS, Fault, measured
from stand_ins.plant import Plant
from stand_ins.scenario import Scenario, described_house

Change = Callable[[Scenario, float], Scenario]


@dataclass(frozen=True)
class Trouble:
    """A fault. kinds : findings of which one must be the first or second. sizes : smaller and
    larger. fine : needs readings every minute. costs : whether the twin tells what it costs."""

    name: str
    kinds: tuple[str, ...]
    sizes: tuple[float, float]
    unit: str
    make: Change
    fine: bool = False
    costs: bool = True


def house(seed: int, days: int = 212, step: int = 300) -> Scenario:
    """A house drawn at random with sound metering, described as a survey would find it."""
    base = measured(random_season(50_000 + seed), seed)
    plant = base.plant._replace(tank=200.0 if base.plant.tank == 0.0 else base.plant.tank)
    return replace(base, plant=plant, days=days, step=step)


def described_anew(scenario: Scenario) -> Scenario:
    """The same with house and unit described as a survey would find them."""
    plant, described = scenario.plant, scenario.installation
    assert described is not None
    unit = replace(
        described.unit,
        capacity_kw=plant.capacity / 1000,
        minimum_output_kw=round(plant.least * plant.capacity / 1000, 1),
    )
    return replace(
        scenario, installation=replace(described, house=described_house(plant), unit=unit)
    )


def with_backup(scenario: Scenario, size: float = 3000.0) -> Scenario:
    """The same house with a metered backup heater."""
    assert scenario.installation is not None
    described = scenario.installation
    consumers = tuple(dict.fromkeys((*described.consumers, Consumer.BACKUP_HEATER)))
    heat = (HeatSource.HEAT_PUMP, HeatSource.BACKUP_HEATER)
    meters = [m for m in described.electricity if m.name != "backup meter"]
    meters.append(
        ElectricityMeter(
            "backup meter",
            "power:backup",
            (Consumer.BACKUP_HEATER,),
            described.electricity[0].accuracy,
        )
    )
    return replace(
        scenario,
        plant=scenario.plant._replace(backup=size),
        installation=replace(
            described,
            consumers=consumers,
            electricity=tuple(meters),
            circuits=(replace(described.circuits[0], includes=heat),),
            registers=(replace(described.registers[0], includes=heat),),
        ),
    )


def _plant(**fixed: object) -> Change:
    """A change of the plant; a callable is given the size and the plant."""

    def change(scenario: Scenario, size: float) -> Scenario:
        values = {k: v(size, scenario.plant) if callable(v) else v for k, v in fixed.items()}
        return replace(scenario, plant=scenario.plant._replace(**values))  # type: ignore[arg-type]

    return change


def _weak(scenario: Scenario, size: float) -> Scenario:
    """Too little capacity, with a backup that stands in."""
    scenario = with_backup(scenario, 4000.0)
    return replace(scenario, plant=scenario.plant._replace(strength=1 - size))


def _large(scenario: Scenario, size: float) -> Scenario:
    """A unit of the next sizes, which cannot run slower than a good part of it."""
    plant = scenario.plant
    plant = plant._replace(capacity=plant.capacity * size, least=0.42, tight=2.5, pause=300.0)
    return replace(scenario, plant=plant)


def _eager(scenario: Scenario, size: float) -> Scenario:
    scenario = with_backup(scenario, 2000.0)
    return replace(scenario, plant=scenario.plant._replace(eager=size))


def _limited(scenario: Scenario, size: float) -> Scenario:
    scenario = with_backup(scenario, 9000.0)
    assert scenario.installation is not None
    unit = replace(scenario.installation.unit, low_outdoor_limit=size)
    return replace(
        scenario,
        plant=scenario.plant._replace(low_limit=size),
        installation=replace(scenario.installation, unit=unit),
    )


def _blended(scenario: Scenario, size: float) -> Scenario:
    plant = scenario.plant
    plant = plant._replace(blend=size, flow=plant.capacity / 69.5 / 8.0)
    return replace(scenario, plant=plant, errors=replace(scenario.errors, secondary=True))


def _plain(scenario: Scenario, size: float) -> Scenario:
    return scenario


def _narrow_flow(size: float, plant: Plant) -> float:
    """Flow at which ΔT at full load is `size` [L/min]."""
    return plant.capacity / 69.5 / size


TROUBLES = (
    Trouble("weak everywhere", ("below rated",), (0.14, 0.28), "of the COP",
            _plant(cop_factor=lambda s, _: 1 - s)),
    Trouble("weak since a date", ("below rated since", "below rated"), (0.10, 0.22), "of the COP",
            _plant(cop_factor=lambda s, _: 1 - s, fault_since=100 * 86400.0)),
    Trouble("weak in frost", ("below rated in frost", "below rated"), (0.35, 0.6), "of the COP",
            _plant(frost_cost=lambda s, _: s)),
    Trouble("weak at part load", ("below rated at part load", "below rated"), (-0.4, -0.65),
            "at no load", _plant(part_load=lambda s, _: s)),
    Trouble("weak at high flow", ("below rated at high flow", "below rated"), (0.3, 0.5),
            "at 57 °C", _plant(hot_loss=lambda s, _: s, emitter=lambda _, p: p.heat_loss * 0.28)),
    Trouble("capacity short", ("capacity short", "room not held"), (0.35, 0.5), "of the capacity",
            _weak, costs=False),
    Trouble("needless defrosts", ("needless defrosts", "timed defrosts", "defrosts too often"),
            (2700.0, 1500.0), "s between", _plant(idle=lambda s, _: s), fine=True),
    Trouble("timed defrosts", ("timed defrosts", "needless defrosts", "defrosts too often"),
            (3600.0, 1800.0), "s between", _plant(timed=lambda s, _: s), fine=True),
    Trouble("defrosts too often", ("defrosts too often", "needless defrosts"), (0.35, 0.18),
            "of the usual frost",
            _plant(frost_mass=lambda s, p: p.frost_mass * s), fine=True),
    Trouble("ineffective defrosts", ("ineffective defrosts", "defrosts too often"), (0.33, 0.2),
            "of the heat", _plant(melts=lambda s, _: s, defrost_limit=480.0), fine=True),
    Trouble("short cycling", ("short cycling",), (0.6, 0.8), "least output",
            _plant(least=lambda s, _: s, tight=1.0, pause=200.0), fine=True),
    Trouble("oversized", ("oversized", "short cycling"), (1.7, 2.4), "times",
            _large, costs=False, fine=True),
    Trouble("fixed flow", ("fixed flow temperature",), (45.0, 52.0), "°C",
            _plant(fixed_flow=lambda s, _: s)),
    Trouble("heating curve too steep", ("heating curve too steep",), (7.0, 12.0), "K",
            _plant(steep=lambda s, _: s)),
    Trouble("ΔT too wide", ("ΔT too wide",), (13.0, 18.0), "K",
            _plant(flow=_narrow_flow), costs=False),
    Trouble("pumps fighting", ("pumps fighting",), (0.25, 0.45), "of the flow",
            _plant(swing=lambda s, _: s), fine=True, costs=False),
    Trouble("buffer blending", ("buffer blending",), (0.5, 0.9), "of ΔT",
            _blended, costs=False),
    Trouble("backup overused", ("heater overused",), (4.0, 9.0), "°C", _eager),
    Trouble("hot water too hot", ("hot water too hot",), (56.0, 61.0), "°C",
            _plant(tank_set=lambda s, _: s)),
    Trouble("hot water too often", ("hot water too often",), (2.0, 1.0), "K",
            _plant(band=lambda s, _: s), fine=True),
    Trouble("high standby", ("high standby", "metering: other loads"), (75.0, 140.0), "W",
            _plant(controls=lambda s, _: s)),
    Trouble("pump always on", ("pump always on",), (60.0, 110.0), "W",
            _plant(pump_on=1.0, pump=lambda s, _: s)),
    Trouble("low limit", ("low outdoor limit reached", "heater overused", "room not held"),
            (-1.0, 2.0), "°C", _limited, costs=False),
    Trouble("room not held", ("room not held",), (-10.0, -16.0), "K",
            _plant(steep=lambda s, _: s), costs=False),
)  # fmt: skip

# Faults of the metering, as findings.
METERING = tuple(f for f in FAULTS if f.name not in ("gaps", "register reset"))


def troubled(
    trouble: Trouble, size: float, seed: int, days: int = 212
) -> tuple[Scenario, Scenario]:
    """A house with the fault, and its twin without: the same house, weather and meters."""
    base = house(seed, days, 60 if trouble.fine else 300)
    made = described_anew(trouble.make(base, size))
    return made, _twin(trouble, base, made, size)


def _twin(trouble: Trouble, base: Scenario, made: Scenario, size: float) -> Scenario:
    """The house without the fault; what it was given besides stays (a heater, emitters)."""
    healthy = base.plant
    kept = {"emitter", "backup", "capacity"}
    plant = healthy._replace(**{k: getattr(made.plant, k) for k in kept})
    if trouble.name == "pump always on":
        plant = plant._replace(pump=size)
    return replace(made, plant=plant)


def metering_trouble(fault: Fault, size: float, seed: int, days: int = 212) -> Scenario:
    """A house with a fault of its metering."""
    return described_anew(fault.make(house(seed, days), size))


def _night(scenario: Scenario, _: float) -> Scenario:
    return replace(scenario, plant=scenario.plant._replace(setback=2.0))


def _hygiene(scenario: Scenario, _: float) -> Scenario:
    return replace(scenario, plant=scenario.plant._replace(pasteurise=60.0))


def _warm(scenario: Scenario, _: float) -> Scenario:
    """A curve two kelvin above what is needed: usual."""
    return replace(scenario, plant=scenario.plant._replace(steep=2.0))


def _better(scenario: Scenario, _: float) -> Scenario:
    return replace(scenario, plant=scenario.plant._replace(cop_factor=1.04))


def _slightly(scenario: Scenario, _: float) -> Scenario:
    """A unit at the lower end of what is still as rated."""
    return replace(scenario, plant=scenario.plant._replace(cop_factor=0.96))


def _small(scenario: Scenario, _: float) -> Scenario:
    """A unit chosen small, with a backup for the coldest days: a usual design."""
    made = with_backup(scenario)
    return replace(made, plant=made.plant._replace(capacity=made.plant.heat_loss * 40.0))


# Harmless: of the metering, and of the house.
HARMLESS: dict[str, Change] = {
    **{k: v for k, v in QUIRKS.items()
       if k in ("none", "noise", "coarse steps", "gaps", "controller nearly right",
                "another weather series")},
    "night set-back": _night, "weekly pasteurisation": _hygiene, "curve 2 K high": _warm,
    "4 % better": _better, "4 % worse": _slightly, "small with backup": _small,
}  # fmt: skip


def harmless(quirk: str, seed: int, days: int = 212) -> Scenario:
    """A healthy house with a quirk."""
    step = 60 if np.random.default_rng(seed).random() < 0.25 else 300
    return described_anew(HARMLESS[quirk](house(seed, days, step), 0.0))
