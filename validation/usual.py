"""Healthy systems that do what real plants do: states, starts, defrosts, hot-water heat, sums and
ratio against the truth, and what they are falsely told."""

from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from ember.assessment.assess import answer
from ember.assessment.record_analysis import RecordAnalysis, analyse_record
from ember.assessment.results import Assessment
from ember.balance.sums import FORBIDS
from ember.boundary.combinations import widest
from ember.diagnosis import Weight
from ember.intake.columns import flow_by_volume
from ember.operation import operation
from ember.reckoning import reckon
from ember.states import State
from stand_ins.plant import rated_cop
from stand_ins.scenario import Simulated, simulate
from stand_ins.seldom import metered_by_counters, seldom
from stand_ins.usual import USUAL, sunlit, usual
from validation.trust import described

WORKERS = 2
SELDOM = ((900, True), (900, False), (3600, True), (3600, False), (86_400, True), (86_400, False))
WITHIN = 120  # of a defrost [s]
SETTLED, RECOVERED = 600, 360  # after a start and a defrost [s]


@dataclass(frozen=True)
class Seen:
    """One system. starts, defrosts : true, found, false. hot_water : found over true heat. sums :
    (figure − truth) ÷ U by name. ratio : found, U, true; None where it is not compared. doubts :
    that forbid a verdict; unsound : every check that doubts anything; actions, advisories :
    findings. verdict : in a word. All of them are false: each system is healthy."""

    kind: str
    seed: int
    starts: tuple[int, int]
    defrosts: tuple[int, int, int]
    hot_water: float | None
    sums: dict[str, float]
    ratio: tuple[float, float, float] | None
    level: str
    doubts: tuple[str, ...]
    unsound: tuple[str, ...]
    advisories: tuple[str, ...]
    actions: tuple[str, ...]
    verdict: str


def seen(seed: int, days: int = 106, sun: bool = False) -> Seen:
    """One system, the core not knowing the truth. sun : whether it shines through its windows."""
    kind, scenario = sunlit(seed, days) if sun else usual(seed, days)
    done = simulate(scenario)
    trace = done.trace()
    if "water_volume" in trace and "flow_rate" not in trace:
        flow = flow_by_volume(trace["water_volume"], trace.step)
        trace = trace.with_channels({"flow_rate": flow})
    analysis = analyse_record(described(scenario, done), trace)
    assessed = answer(analysis, ran=operation(analysis, trace))
    begun = analysis.runs[analysis.runs[:, 0] > 0]
    starts = (int((done.run.starts > 0).sum()), len(begun))
    found = analysis.defrosts * trace.step
    true = done.run.defrosts.reshape(-1, 2)
    hit = sum(
        bool(np.any((found[:, 1] > a - WITHIN) & (found[:, 0] < b + WITHIN))) for a, b in true
    )
    false = sum(
        not np.any((true[:, 1] > a - WITHIN) & (true[:, 0] < b + WITHIN)) for a, b in found.tolist()
    )
    return Seen(
        kind=kind,
        seed=seed,
        starts=starts,
        defrosts=(len(true), hit, false),
        hot_water=_hot_water(done, analysis),
        sums=_sums(done, assessed),
        ratio=_ratio(done, assessed),
        level=assessed.comparison.measured.level.value if assessed.comparison else "",
        doubts=tuple(c.name for c in assessed.checks if c.unsound and FORBIDS & set(c.affects)),
        unsound=tuple(c.name for c in assessed.checks if c.unsound),
        advisories=tuple(f.name for f in assessed.findings if f.weight == Weight.ADVISORY),
        actions=tuple(f.name for f in assessed.findings if f.weight == Weight.ACTION),
        verdict=assessed.verdict.kind.value,
    )


def _hot_water(done: Simulated, analysis: RecordAnalysis) -> float | None:
    combination = widest(analysis.facts.combinations)
    assert combination is not None
    groups = np.where(analysis.segments.state == State.HOT_WATER, 0, -1)
    asked = [(float(analysis.start), float(analysis.stop))]
    found = reckon(analysis.segments, combination, groups, asked)[0]
    true = float(done.run.sums["hot_water"].sum()) / 3.6e6
    return found.heat.value / true if found.heat is not None and true > 20 else None


def _sums(done: Simulated, assessed: Assessment) -> dict[str, float]:
    main = assessed.main
    assert main is not None and main.electricity is not None
    heat, used = done.truth_heat(), done.truth_electricity("H4")
    found = {"electricity": (main.electricity.value - used) / main.electricity.U}
    if main.heat is not None and main.cop is not None:
        found["heat"] = (main.heat.value - heat) / main.heat.U
        found["COP"] = (main.cop.value - heat / used) / main.cop.U
    return found


def _ratio(done: Simulated, assessed: Assessment) -> tuple[float, float, float] | None:
    """The ratio against the one of the unit's own true heat and electricity in settled heating."""
    if assessed.comparison is None:
        return None
    run, step = done.run, done.scenario.step
    settled = run.state == State.HEATING
    ends = run.defrosts.reshape(-1, 2)[:, 1] // step
    for end in ends.tolist():
        settled[end : end + RECOVERED // step + 1] = False
    settled &= run.spot["backup_power"] == 0
    cop = rated_cop(done.scenario.plant, run.spot["source"], run.spot["flow_temp"])
    heat = run.sums["heating"]
    used = run.sums["compressor"] + run.sums["source"] + run.sums["controls"]
    true = float((heat[settled] / cop[settled]).sum() / used[settled].sum())
    ratio = assessed.comparison.ratio
    return ratio.value, ratio.U, true


@dataclass(frozen=True)
class Seldom:
    """One system whose log is written seldom. step : of its rows [s]. The rest as in Seen."""

    kind: str
    seed: int
    step: int
    counters: bool
    sums: dict[str, float]
    ratio: tuple[float, float, float] | None
    unsound: tuple[str, ...]
    actions: tuple[str, ...]
    verdict: str


def seen_seldom(seed: int, days: int = 106) -> Seldom:
    """One system through a log with rows a quarter of an hour, an hour or a day apart."""
    kind, scenario = usual(seed, days)
    done = simulate(scenario)
    step, counters = SELDOM[seed // len(USUAL) % len(SELDOM)]
    trace, installation = done.trace(), described(scenario, done)
    counters = counters and "heat_energy" in trace
    if counters:
        installation = metered_by_counters(installation)
    trace = seldom(trace, step, counters)
    analysis = analyse_record(installation, trace)
    assessed = answer(analysis, ran=operation(analysis, trace))
    return Seldom(
        kind=kind,
        seed=seed,
        step=step,
        counters=counters,
        sums=_sums(done, assessed),
        ratio=_ratio(done, assessed),
        unsound=tuple(c.name for c in assessed.checks if c.unsound),
        actions=tuple(f.name for f in assessed.findings if f.weight == Weight.ACTION),
        verdict=assessed.verdict.kind.value,
    )


def all_seldom(seeds: Iterable[int], days: int = 106) -> list[Seldom]:
    """Several systems whose logs are written seldom, on two cores."""
    with ProcessPoolExecutor(WORKERS) as pool:
        each = list(seeds)
        return list(pool.map(seen_seldom, each, [days] * len(each)))


def all_seen(seeds: Iterable[int], days: int = 106, sun: bool = False) -> list[Seen]:
    """Several systems, on two cores."""
    with ProcessPoolExecutor(WORKERS) as pool:
        each = list(seeds)
        return list(pool.map(seen, each, [days] * len(each), [sun] * len(each)))
