"""Faults of unit, settings, water and metering, and healthy systems: what is found, in which place,
and what it is said to cost."""

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

from ember.assessment.assess import assess
from ember.diagnosis import Finding, Weight
from stand_ins.faults import Fault
from stand_ins.scenario import Scenario, simulate
from stand_ins.troubles import (
    HARMLESS,
    METERING,
    TROUBLES,
    Trouble,
    harmless,
    metering_trouble,
    troubled,
)
from validation.trust import described

WORKERS = 2


@dataclass(frozen=True)
class Placed:
    """One system: where its fault stands among the findings (1 is the first, None where it is not
    found), whether it asks for action, and what it costs against the truth [kWh]."""

    name: str
    size: float
    seed: int
    place: int | None
    actions: bool
    lost: float | None
    truth: float | None
    kinds: tuple[str, ...]


def findings_of(scenario: Scenario) -> tuple[Finding, ...]:
    """What is found in a simulated system."""
    done = simulate(scenario)
    return assess(described(scenario, done), done.trace()).findings


def placed(trouble: Trouble, size: float, seed: int, days: int = 212) -> Placed:
    """One system with a fault of unit, settings or water."""
    scenario, twin = troubled(trouble, size, seed, days)
    done = simulate(scenario)
    found = assess(described(twin, done), done.trace()).findings
    truth = None
    if trouble.costs:
        without = simulate(twin)
        truth = done.truth_electricity("H4") - without.truth_electricity("H4")
    return _placed(trouble.name, trouble.kinds, size, seed, found, truth)


def _placed(
    name: str,
    kinds: tuple[str, ...],
    size: float,
    seed: int,
    found: tuple[Finding, ...],
    truth: float | None,
) -> Placed:
    place = next((k for k, f in enumerate(found, 1) if f.name in kinds), None)
    mine = found[place - 1] if place else None
    costs = [f.lost.value for f in found[:2] if f.name in kinds and f.lost is not None]
    return Placed(
        name=name,
        size=size,
        seed=seed,
        place=place,
        actions=mine is not None and mine.weight == Weight.ACTION,
        lost=costs[0] if costs else None,
        truth=truth,
        kinds=tuple(f"{f.name} ({f.weight.value})" for f in found),
    )


def metered_ill(fault: Fault, size: float, seed: int, days: int = 212) -> Placed:
    """One system with a fault of its metering."""
    scenario = metering_trouble(fault, size, seed, days)
    found = findings_of(scenario)
    kinds: tuple[str, ...] = (f"metering: {fault.check}",)
    if fault.check in ("physical bound", "beyond the table"):
        kinds = (*kinds, "COP too good")
    if fault.name == "glycol unknown to the meter":
        kinds = (*kinds, "metering: register against flow × ΔT")
    return _placed(fault.name, kinds, size, seed, found, None)


def unharmed(quirk: str, seed: int, days: int = 212) -> Placed:
    """A healthy system: what is found all the same."""
    found = findings_of(harmless(quirk, seed, days))
    acting = [f for f in found if f.weight == Weight.ACTION]
    return Placed(
        name=quirk,
        size=0.0,
        seed=seed,
        place=1 if acting else None,
        actions=bool(acting),
        lost=None,
        truth=None,
        kinds=tuple(f"{f.name} ({f.weight.value})" for f in found),
    )


def all_placed(seeds: range, days: int = 212) -> tuple[list[Placed], list[Placed], list[Placed]]:
    """Every fault at both sizes, the metering's at their two larger, and healthy systems."""
    with ProcessPoolExecutor(WORKERS) as pool:
        one = [
            pool.submit(_by_name, t.name, s, k, days)
            for t in TROUBLES
            for s in t.sizes
            for k in seeds
        ]
        two = [
            pool.submit(_metered_by_name, f.name, s, k, days)
            for f in METERING
            for s in f.sizes[1:]
            for k in seeds
        ]
        three = [pool.submit(unharmed, q, k, days) for q in HARMLESS for k in seeds]
        return [f.result() for f in one], [f.result() for f in two], [f.result() for f in three]


def _by_name(name: str, size: float, seed: int, days: int) -> Placed:
    return placed(next(t for t in TROUBLES if t.name == name), size, seed, days)


def _metered_by_name(name: str, size: float, seed: int, days: int) -> Placed:
    return metered_ill(next(f for f in METERING if f.name == name), size, seed, days)
