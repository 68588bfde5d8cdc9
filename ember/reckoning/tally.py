"""Sums of every meter over groups of segments, with their uncertainty."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import KWH, Estimates
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
    """One meter by group and state, (count, states + 1), the last column all of them: energy
    [kWh], its components, its random variances; and its step."""

    energy: Floats
    components: list[tuple[Source, Floats]]
    variances: list[tuple[SourceCode, Floats]]
    step: float


class Tally:
    """Sums of every meter by group and state."""

    def __init__(
        self, segments: Segments, names: tuple[str, ...], valid: Bools, groups: Ints, count: int
    ) -> None:
        pick = np.flatnonzero(valid & (groups >= 0))
        # Mostly they lie in one piece, of which nothing need be copied.
        solid = len(pick) > 0 and pick[-1] - pick[0] + 1 == len(pick)
        part = slice(pick[0], pick[-1] + 1) if solid else pick
        mine, states = groups[part], segments.state[part].astype(np.int64)
        label = mine * TALLY_STATES + states

        def table(values: Floats | Ints, scale: float = 1.0) -> Floats:
            """A row a group: each state, and all of them together in the last column."""
            sums = np.bincount(label, weights=values[part], minlength=count * TALLY_STATES)
            found = np.empty((count, TALLY_STATES + 1))
            found[:, :ALL_STATES] = (sums / scale).reshape(count, TALLY_STATES)
            found[:, ALL_STATES] = found[:, :ALL_STATES].sum(axis=1)
            return found

        self.count = count
        self.cells = table(segments.cells)[:, ALL_STATES]
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
        by_state = np.bincount(label[new_state], minlength=count * TALLY_STATES)
        self.group_pieces = np.bincount(mine[new_group], minlength=count)
        self.state_pieces = by_state.reshape(count, TALLY_STATES)

    def has(self, state: State) -> bool:
        """Whether any group is ever in a state."""
        return bool(self.state_pieces[:, state].any())

    def total(self, name: str) -> Estimates:
        """Energy of a meter in each group."""
        return self._estimates(name, [ALL_STATES], self.group_pieces)

    def state(self, name: str, state: State) -> Estimates:
        """Energy of a meter in each group while in a state."""
        return self._estimates(name, [state], self.state_pieces[:, state])

    def without(self, name: str, state: State) -> Estimates:
        """Energy of a meter in each group but for a state."""
        pieces = self.group_pieces + self.state_pieces[:, state]
        return self._estimates(name, [s for s in State if s != state], pieces)

    def _estimates(self, name: str, states: Sequence[int], pieces: Ints) -> Estimates:
        sums = self.sums[name]

        def total(table: Floats) -> Floats:
            found: Floats = (
                table[:, states[0]] if len(states) == 1 else table[:, states].sum(axis=1)
            )
            return found

        budget: dict[tuple[Source, bool], Floats] = {}
        for source, u in sums.components:
            key = source, False
            budget[key] = budget[key] + total(u) if key in budget else total(u)
        for what, variance in sums.variances:
            budget[Source(what, name), True] = np.sqrt(total(variance))
        if sums.step:
            # Two readings a piece, each rounded to the register's step (rectangular, GUM 4.3.7).
            step = sums.step * np.sqrt(pieces / 6)
            budget[Source(SourceCode.REGISTER_STEP, name), True] = step
        return Estimates(total(sums.energy), "kWh", budget)
