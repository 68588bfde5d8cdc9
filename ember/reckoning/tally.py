"""Sums of every meter over groups of segments, with their uncertainty."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent, merge
from ember.basis.series import Bools, Floats, Ints
from ember.messages import Source
from ember.reckoning.segments import Segments
from ember.states import State

TALLY_STATES = len(State)
ALL_STATES = TALLY_STATES  # column of the sum over them


def validity(
    segments: Segments, names: tuple[str, ...], with_exclusions: bool = True
) -> tuple[Bools, dict[str, Bools]]:
    """Segments, (m,), that count: nothing left out, every meter known; and where each is not.

    A stretch that a register bridges counts only where all the others know all of it.
    """
    lost = {name: np.isnan(segments.energy(name)) for name in names}
    valid = (segments.excluded < 0) | (not with_exclusions)
    for mask in lost.values():
        valid &= ~mask
    at = segments.edges[:-1]
    for name in names:
        for hole in segments.meters[name].holes:
            inside = slice(np.searchsorted(at, hole.start), np.searchsorted(at, hole.stop))
            if not valid[inside].all():
                valid[inside] = False
                lost[name][inside] = True
    return valid, lost


@dataclass(frozen=True, slots=True)
class _Sums:
    """One meter by group and state: energy [kWh], its components, its random variances, its
    step."""

    energy: list[list[float]]
    components: list[tuple[Source, list[list[float]]]]
    variances: list[tuple[SourceCode, list[list[float]]]]
    step: float


class Tally:
    """Sums of every meter by group and state."""

    def __init__(
        self, segments: Segments, names: tuple[str, ...], valid: Bools, groups: Ints, count: int
    ) -> None:
        pick = np.flatnonzero(valid & (groups >= 0))
        mine, states = groups[pick], segments.state[pick].astype(np.int64)
        label = mine * TALLY_STATES + states

        def table(values: Floats | Ints, scale: float = 1.0) -> list[list[float]]:
            """A row a group: each state, and all of them together in the last column."""
            sums = np.bincount(label, weights=values[pick], minlength=count * TALLY_STATES)
            by_state = (sums / scale).reshape(count, TALLY_STATES)
            rows: list[list[float]] = np.column_stack([by_state, by_state.sum(axis=1)]).tolist()
            return rows

        self.cells = np.array([row[ALL_STATES] for row in table(segments.cells)])
        self.sums = {
            name: _Sums(
                table(segments.energy(name), KWH),
                [(source, table(u, KWH)) for source, u in segments.components(name)],
                [
                    (what, table(variance, KWH**2))
                    for what, variance in (
                        (SourceCode.SAMPLING, segments.jumps(name)),
                        (SourceCode.TEMPERATURE_STEPS, segments.rounding(name)),
                    )
                    if variance is not None
                ],
                segments.meters[name].step_energy / KWH,
            )
            for name in names
        }
        apart = np.diff(pick, prepend=-2) != 1
        new_group = apart | (np.diff(mine, prepend=-1) != 0)
        new_state = new_group | (np.diff(states, prepend=-1) != 0)
        self.group_pieces = np.bincount(mine[new_group], minlength=count).tolist()
        by_state = np.bincount(label[new_state], minlength=count * TALLY_STATES)
        self.state_pieces = by_state.reshape(count, TALLY_STATES).tolist()

    def total(self, k: int, name: str) -> Estimate:
        """Energy of a meter in group k."""
        return self._estimate(name, k, [ALL_STATES], self.group_pieces[k])

    def state(self, k: int, name: str, state: State) -> Estimate:
        """Energy of a meter in group k while in a state."""
        pieces = self.state_pieces[k][state]
        if not pieces:
            return Estimate(0.0, "kWh", ())
        return self._estimate(name, k, [state], pieces)

    def without(self, k: int, name: str, state: State) -> Estimate:
        """Energy of a meter in group k but for a state."""
        pieces = self.group_pieces[k] + self.state_pieces[k][state]
        return self._estimate(name, k, [s for s in State if s != state], pieces)

    def _estimate(self, name: str, k: int, states: Sequence[int], pieces: int) -> Estimate:
        sums = self.sums[name]

        def total(row: list[float]) -> float:
            return row[states[0]] if len(states) == 1 else sum(row[state] for state in states)

        parts = [UncertaintyComponent(source, total(u[k])) for source, u in sums.components]
        for what, variance in sums.variances:
            parts.append(
                UncertaintyComponent(
                    Source(what, name),
                    sqrt(total(variance[k])),
                    random=True,
                )
            )
        if sums.step and pieces:
            # Two readings a piece, each rounded to the register's step (rectangular, GUM 4.3.7).
            step = sums.step * sqrt(pieces / 6)
            parts.append(
                UncertaintyComponent(Source(SourceCode.REGISTER_STEP, name), step, random=True)
            )
        return Estimate(total(sums.energy[k]), "kWh", merge(parts))
