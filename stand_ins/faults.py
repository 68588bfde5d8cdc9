"""Metering faults at three sizes, and healthy metering with harmless quirks, for validation.

Each is a house drawn at random whose meters keep to their class but for the one fault.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ember.description.installation import (
    ElectricityMeter,
    HeatRegister,
    Probes,
    ReportedHeat,
)
from ember.description.meters import Consumer, HeatSource
from ember.properties import Fluid, FluidKind, liquid
from stand_ins.catalogue import random_season
from stand_ins.scenario import Scenario, errors_within

Change = Callable[[Scenario, float], Scenario]


@dataclass(frozen=True)
class Fault:
    """A fault. check : that must find it. sizes : small to large, `unit` says of what.
    corrects : whether what the check proposes must bring the truth back."""

    name: str
    check: str
    sizes: tuple[float, float, float]
    unit: str
    make: Change
    corrects: bool = True


def faulty(fault: Fault, size: float, seed: int, days: int = 365) -> Scenario:
    """A house drawn at random with one fault."""
    base = replace(measured(random_season(seed), seed), days=days)
    return fault.make(base, size)


def measured(scenario: Scenario, seed: int) -> Scenario:
    """The same house with power sampled and the heat meter's own pair, and no gaps."""
    assert scenario.installation is not None
    described = scenario.installation
    unit = replace(described.electricity[0], channel="power:unit")
    circuit = replace(
        described.circuits[0], probes=Probes.HEAT_METER_PAIR, flow_class=2, in_service=False
    )
    register = replace(described.registers[0], in_service=False)
    described = replace(
        described,
        electricity=(unit, *described.electricity[1:]),
        circuits=(circuit,),
        registers=(register,),
    )
    errors = errors_within(
        described, np.random.default_rng(seed), replace(scenario.errors, gaps=())
    )
    return replace(scenario, errors=errors, installation=described)


def _errors(**fixed: object) -> Change:
    """A change of the meters' errors; a callable is given the size and the scenario."""

    def change(scenario: Scenario, size: float) -> Scenario:
        values = {k: v(size, scenario) if callable(v) else v for k, v in fixed.items()}
        return replace(scenario, errors=replace(scenario.errors, **values))  # type: ignore[arg-type]

    return change


def _offset(scenario: Scenario, size: float) -> Scenario:
    errors = scenario.errors
    return replace(
        scenario,
        plant=scenario.plant._replace(pump_on=1.0, pipe=20.0),
        errors=replace(errors, flow_offset=errors.return_offset + size),
    )


def _backup(scenario: Scenario) -> Scenario:
    """The same house with a backup heater that is used: the unit is too small."""
    assert scenario.installation is not None
    plant = scenario.plant._replace(backup=3000.0, capacity=scenario.plant.heat_loss * 34.0)
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
        plant=plant,
        installation=replace(
            described,
            consumers=consumers,
            electricity=tuple(meters),
            circuits=(replace(described.circuits[0], includes=heat),),
            registers=(replace(described.registers[0], includes=heat),),
        ),
    )


def _doubled(scenario: Scenario, size: float) -> Scenario:
    scenario = _backup(scenario)
    plant = scenario.plant._replace(backup=size * 1000.0)
    return replace(scenario, plant=plant, errors=replace(scenario.errors, doubled=True))


def _unmetered(scenario: Scenario, size: float) -> Scenario:
    """The backup's heat passes the heat meter; the description knows nothing of a backup."""
    scenario = _backup(scenario)
    assert scenario.installation is not None
    described = scenario.installation
    only = (HeatSource.HEAT_PUMP,)
    described = replace(
        described,
        electricity=tuple(m for m in described.electricity if m.name != "backup meter"),
        consumers=tuple(c for c in described.consumers if c != Consumer.BACKUP_HEATER),
        circuits=(replace(described.circuits[0], includes=only),),
        registers=(replace(described.registers[0], includes=only),),
    )
    plant = scenario.plant._replace(backup=size * 1000.0)
    return replace(scenario, plant=plant, installation=described, step=60)


def _glycol(scenario: Scenario, size: float) -> Scenario:
    assert scenario.installation is not None
    fluid = Fluid(FluidKind.PROPYLENE_GLYCOL, size)
    at = np.array([35.0])
    mixture, water = liquid(fluid), liquid(Fluid())
    factor = float((mixture.rho(at) * mixture.cp(at) / (water.rho(at) * water.cp(at)))[0])
    return replace(
        scenario,
        plant=scenario.plant._replace(glycol=factor),
        errors=replace(scenario.errors, heat_factor=1 / factor),
        installation=replace(scenario.installation, fluid=fluid),
    )


def _yield(scenario: Scenario, size: float) -> Scenario:
    """The display's heat total is the yield; the flow is not logged, so that heat is measured in
    one way only; the flow temperature is, for the table. size : how good the unit is, of rated."""
    assert scenario.installation is not None
    described = scenario.installation
    errors = replace(scenario.errors, yield_logged=True, heat_step=0.1, without=("flow_rate",))
    register = HeatRegister(
        "display",
        includes=described.registers[0].includes,
        accuracy_class=2,
        resolution_kwh=0.1,
        in_service=False,
    )
    described = replace(
        described,
        registers=(register,),
    )
    return replace(
        scenario,
        errors=errors,
        installation=described,
        plant=scenario.plant._replace(cop_factor=size),
    )


def _rate(scenario: Scenario, size: float) -> Scenario:
    assert scenario.installation is not None
    described = scenario.installation
    unit = replace(described.electricity[0], channel="energy:unit")
    described = replace(described, electricity=(unit, *described.electricity[1:]))
    errors = replace(scenario.errors, silent=(23.0, (23.0 + size) % 24))
    return replace(scenario, errors=errors, installation=described)


def _controller(scenario: Scenario, size: float) -> Scenario:
    assert scenario.installation is not None
    described = replace(scenario.installation, reported=(ReportedHeat("controller"),))
    return replace(
        scenario, installation=described, errors=replace(scenario.errors, reported=1 + size)
    )


FAULTS = (
    Fault("air in the water", "flow reading", (2, 8, 20), "days",
          _errors(air=lambda size, _: ((40.0, 40.0 + size),))),
    Fault("pair offset", "pair offset", (0.25, 0.5, 1.0), "K", _offset),
    Fault("swapped sensors", "swapped sensors", (6, 30, 400), "days",
          _errors(swapped_days=lambda size, _: (30.0, 30.0 + size))),
    Fault("register in a wrong unit", "register against flow × ΔT", (1.163, 2.0, 3.6), "times",
          _errors(heat_factor=lambda size, _: size)),
    Fault("controller estimates", "controller against meter", (0.08, 0.2, 0.4), "too much",
          _controller, corrects=False),
    Fault("stuck return sensor", "stuck readings", (0.4, 2, 8), "days",
          _errors(stuck=lambda size, _: (("return_temp", 50.0, 50.0 + size),))),
    Fault("spikes of the flow sensor", "spikes", (4, 60, 400), "readings",
          _errors(spikes=lambda size, _: (("flow_temp", int(size), 45.0),))),
    Fault("sun on the outdoor sensor", "outdoor sensor", (2.5, 5, 10), "K",
          _errors(sun=lambda size, _: size), corrects=False),
    Fault("register reset", "counter resets", (1, 2, 5), "times",
          _errors(resets=lambda size, _: tuple(
              ("heat_energy", 25.0 + 11.3 * k) for k in range(int(size)))), corrects=False),
    Fault("electricity logged late", "clocks", (900, 1800, 3600), "s",
          _errors(late=lambda size, _: size)),
    Fault("gaps", "gaps", (0.05, 0.15, 0.4), "of the record",
          _errors(gaps=lambda size, s: ((20 * 86400.0, (20 + size * s.days) * 86400.0),)),
          corrects=False),
    Fault("beyond the table", "beyond the table", (0.8, 0.53, 0.38), "of the electricity",
          _errors(unit_factor=lambda size, _: size), corrects=False),
    Fault("phases without a clamp", "beyond the table", (2 / 3, 1 / 2, 1 / 3), "of the electricity",
          _errors(unit_factor=lambda size, _: size)),
    Fault("other loads on the circuit", "other loads", (60, 150, 400), "W",
          _errors(base_load=lambda size, _: size)),
    Fault("backup counted twice", "consumers", (1.0, 3.0, 6.0), "kW", _doubled),
    Fault("backup in the heat alone", "consumers", (1.2, 3.0, 5.0), "kW", _unmetered,
          corrects=False),
    Fault("coarse temperatures", "resolution", (0.5, 1.0, 2.0), "K",
          _errors(temp_step=lambda size, _: size), corrects=False),
    Fault("glycol unknown to the meter", "glycol", (0.1, 0.25, 0.4), "by mass", _glycol),
    Fault("yield logged as heat", "yield as heat", (0.9, 0.95, 1.0), "of rated", _yield),
    Fault("a rate register not read", "rate registers", (2, 5, 9), "h", _rate),
)  # fmt: skip


def _quirk(**errors: object) -> Change:
    def change(scenario: Scenario, _: float) -> Scenario:
        return replace(scenario, errors=replace(scenario.errors, **errors))  # type: ignore[arg-type]

    return change


def _pump_on(scenario: Scenario, _: float) -> Scenario:
    return replace(scenario, plant=scenario.plant._replace(pump_on=1.0, pipe=25.0))


def _weak(scenario: Scenario, _: float) -> Scenario:
    """A unit that really is bad: no fault of the metering."""
    return replace(scenario, plant=scenario.plant._replace(cop_factor=0.72))


def _crankcase(scenario: Scenario, _: float) -> Scenario:
    return replace(scenario, plant=scenario.plant._replace(controls=45.0))


def _reported(scenario: Scenario, _: float) -> Scenario:
    return _controller(scenario, 0.04)


QUIRKS: dict[str, Change] = {
    "none": lambda scenario, _: scenario,
    "noise": _quirk(flow_noise=0.02, temp_noise=0.12),
    "coarse steps": _quirk(temp_step=0.5, flow_step=0.5),
    "gaps": _quirk(gaps=((5e5, 6e5), (1e6, 1.4e6), (5e6, 5.3e6))),
    "pump always on": _pump_on,
    "backup used": lambda scenario, _: _backup(scenario),
    "a unit far below its table": _weak,
    "high standby": _crankcase,
    "controller nearly right": _reported,
    "another weather series": _quirk(weather=True),
}


def healthy(quirk: str, seed: int, days: int = 365) -> Scenario:
    """A house drawn at random whose metering is sound, with a harmless quirk."""
    scenario = replace(random_season(seed), days=days)
    return QUIRKS[quirk](scenario, 0.0)
