"""Metering faults at three sizes, healthy metering with quirks, and random systems: what is found,
and whether the truth lies within the stated uncertainty."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ember.assessment.assess import answer
from ember.assessment.record_analysis import RecordAnalysis, analyse_record
from ember.assessment.results import Assessment
from ember.basis.series import Trace
from ember.boundary.combinations import widest
from ember.description.installation import Installation
from ember.reckoning.tally import validity
from ember.trust import Check, Soundness
from stand_ins.catalogue import random_season
from stand_ins.faults import Fault, faulty, healthy
from stand_ins.scenario import Scenario, Simulated, rated_table, simulate

WORKERS = 2


@dataclass(frozen=True)
class Found:
    """One fault in one house, and what its check says. error, error_before : (COP − truth) ÷ U
    once its proposals are accepted, and as it stands; None where no COP is stated."""

    fault: str
    size: float
    seed: int
    check: Check
    sentence: str
    error: float | None
    error_before: float | None


def described(scenario: Scenario, done: Simulated) -> Installation:
    """The description with the rated table of the healthy unit."""
    return replace(done.installation, rated=rated_table(scenario.plant._replace(cop_factor=1.0)))


def with_fault(fault: Fault, size: float, seed: int, days: int) -> Found:
    """One house with the fault: what its check says, and the COP once its proposals are
    accepted."""
    scenario = faulty(fault, size, seed, days)
    done = simulate(scenario)
    installation, trace = described(scenario, done), done.trace()
    first = analyse_record(installation, trace)
    check = next(c for c in first.facts.checks if c.name == fault.check)
    before = against_truth(done, first, trace)
    after = None
    if check.proposals and fault.corrects:
        accepted = replace(installation, corrections=check.proposals)
        after = against_truth(done, analyse_record(accepted, trace), trace)
    return Found(fault.name, size, seed, check, check.sentence, after, before)


def against_truth(done: Simulated, analysis: RecordAnalysis, trace: Trace) -> float | None:
    """(COP − truth) ÷ U of the widest level over the cells that it counts; None without a COP."""
    main = answer(analysis).main
    if main is None or main.cop is None:
        return None
    counted = counted_cells(analysis, trace)
    electricity = done.truth_electricity(main.level.value, counted)
    heat = done.truth_heat(counted)
    if main.level.value in ("H1", "H2"):
        heat = done.truth_heat_pump(counted)
    return (main.cop.value - heat / electricity) / main.cop.U


def counted_cells(analysis: RecordAnalysis, trace: Trace) -> NDArray[np.bool_]:
    """The cells, (n,), that the widest Reckoning counts."""
    combination = widest(analysis.facts.combinations)
    assert combination is not None
    valid, _ = validity(analysis.segments, tuple(name for _, name in combination.meters))
    cells = np.diff(analysis.segments.edges)
    mask: NDArray[np.bool_] = np.repeat(valid, cells)
    return mask


def faults(every: tuple[Fault, ...], seeds: range, days: int) -> list[Found]:
    """Every fault at every size in several houses."""
    work = [(f, size, seed) for f in every for size in f.sizes for seed in seeds]
    with ThreadPoolExecutor(WORKERS) as pool:
        return list(pool.map(lambda w: with_fault(w[0], w[1], w[2], days), work))


def quirk(name: str, seed: int, days: int) -> tuple[str, int, list[Check]]:
    """The checks of a healthy house that are not sound."""
    scenario = healthy(name, seed, days)
    done = simulate(scenario)
    analysis = analyse_record(described(scenario, done), done.trace())
    return name, seed, [c for c in analysis.facts.checks if c.unsound]


def quirks(names: list[str], seeds: range, days: int) -> list[tuple[str, int, list[Check]]]:
    """Healthy houses with each quirk."""
    work = [(name, seed) for name in names for seed in seeds]
    with ThreadPoolExecutor(WORKERS) as pool:
        return list(pool.map(lambda w: quirk(w[0], w[1], days), work))


def season(seed: int, **changes: Any) -> tuple[Simulated, Assessment, NDArray[np.bool_]]:
    """A random season, its assessment, and the cells in which there are readings."""
    scenario = random_season(seed, **changes)
    done = simulate(scenario)
    trace = done.trace()
    return (
        done,
        answer(analyse_record(described(scenario, done), trace)),
        np.isfinite(trace["flow_temp"]),
    )


def errors(seeds: range) -> dict[str, NDArray[np.float64]]:
    """(Figure − truth) ÷ U of heat, electricity and COP of random systems."""
    with ThreadPoolExecutor(WORKERS) as pool:
        every = list(pool.map(season, seeds))
    found: dict[str, list[float]] = {"heat": [], "electricity": [], "COP": []}
    for done, assessment, known in every:
        main = assessment.main
        assert main is not None and main.heat is not None and main.cop is not None
        heat = done.truth_heat(known)
        electricity = done.truth_electricity(main.level.value, known)
        found["heat"].append((main.heat.value - heat) / main.heat.U)
        found["electricity"].append((main.electricity.value - electricity) / main.electricity.U)
        found["COP"].append((main.cop.value - heat / electricity) / main.cop.U)
    return {name: np.array(values) for name, values in found.items()}


def detected(found: Found) -> bool:
    """Whether the check that must find the fault did."""
    return found.check.soundness in (Soundness.DOUBTFUL, Soundness.BROKEN)
