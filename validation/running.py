"""States, starts and defrosts of varied systems against the truth of the stand-ins."""

from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ember.metering import meter
from ember.states import State, running
from stand_ins.catalogue import varied
from stand_ins.scenario import simulate

WITHIN = 60  # of a start [s]: one sample


@dataclass(frozen=True)
class Told:
    """How one system's running was told.

    states : share of the minutes whose state is right. starts, found : true starts, and how many
    were found to one sample; false : starts that were none. The same for defrosts.
    """

    kind: str
    seed: int
    states: float
    starts: int
    starts_found: int
    starts_false: int
    defrosts: int
    defrosts_found: int
    defrosts_false: int
    by_state: dict[str, tuple[int, int]]


def told(seed: int, days: int = 60) -> Told:
    """One system, the core not knowing the truth."""
    kind, scenario = varied(seed, days)
    done = simulate(scenario)
    trace = done.trace()
    mine = running(done.installation, trace, meter(done.installation, trace))
    truth = done.run.state
    if kind == "air-to-air":  # without water nobody can know whether its pump runs on
        truth = np.where(truth == State.PUMP_OVERRUN, State.STANDBY, truth)
    starts = np.array([run.start for run in mine.runs]) * scenario.step
    by_state = {
        State(code).words: (
            int((truth == code).sum()),
            int(((truth == code) & (mine.state == code)).sum()),
        )
        for code in np.unique(truth).tolist()
    }
    middles = np.array([(d.start + d.stop) / 2 for d in mine.defrosts]) * scenario.step
    defrosts = done.run.defrosts.reshape(-1, 2)
    hit = [bool(np.any((middles > a - WITHIN) & (middles < b + WITHIN))) for a, b in defrosts]
    false = [
        not np.any((m > defrosts[:, 0] - WITHIN) & (m < defrosts[:, 1] + WITHIN)) for m in middles
    ]
    return Told(
        kind=kind,
        seed=seed,
        states=float(np.mean(mine.state == truth)),
        starts=len(done.run.starts),
        starts_found=_near(done.run.starts, starts),
        starts_false=len(starts) - _near(starts, done.run.starts),
        defrosts=len(defrosts),
        defrosts_found=sum(hit),
        defrosts_false=sum(false),
        by_state=by_state,
    )


def _near(these: NDArray[np.int64], those: NDArray[np.int64]) -> int:
    """How many of these lie within one sample of one of those."""
    if not len(those) or not len(these):
        return 0
    return int((np.abs(these[:, None] - those[None, :]).min(axis=1) <= WITHIN).sum())


def all_told(seeds: Iterable[int], days: int = 60) -> list[Told]:
    """Several systems, two at a time."""
    with ThreadPoolExecutor(2) as pool:
        return list(pool.map(lambda seed: told(seed, days), seeds))


def states_right(found: list[Told]) -> float:
    """Share of all minutes whose state is right."""
    return float(np.mean([one.states for one in found]))
