"""The segments: a trace cut into segments within which nothing changes, each basis summed once.

Every sum over days, months, states, price bands or exclusions is then a sum over segments.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ember.basis.series import Bools, Floats, Ints, Span, filled
from ember.basis.side_by_side import side_by_side
from ember.messages import Source
from ember.metering import MeterEnergies, MeterEnergy

Codes = NDArray[np.int8]


@dataclass(frozen=True)
class Meter:
    """What the sums need to know of a meter beside its energy.

    Attributes
    ----------
    components : tuple[tuple[str, tuple[tuple[float, str], ...]], ...]
        standard uncertainty by source, as pairs of a factor and the name of its basis. The rest as
        in Stream.
    """

    name: str
    method: str
    loads: str
    native: float
    step_energy: float
    holes: tuple[Span, ...]
    components: tuple[tuple[Source, tuple[tuple[float, str], ...]], ...]


@dataclass(frozen=True)
class Segments:
    """Segments of a trace.

    Attributes
    ----------
    start, step : int
        of the grid [s].
    edges : Ints
        array, (m + 1,) First cell of each segment, and the end.
    state : Codes
        array, (m,) State code.
    excluded : Ints
        array, (m,) Index into `reasons`, −1 where nothing is left out.
    sums : Mapping[str, Floats]
        basis → array, (m,) Σ of that basis over each segment; NaN where a meter says nothing.
    meters : Mapping[str, Meter]
        by name.
    """

    start: int
    step: int
    edges: Ints
    state: Codes
    excluded: Ints
    reasons: tuple[str, ...]
    sums: Mapping[str, Floats]
    meters: Mapping[str, Meter]

    @property
    def cells(self) -> Ints:
        """Cells in each segment, (m,)."""
        cells: Ints = self.edges[1:] - self.edges[:-1]
        return cells

    @property
    def begins(self) -> Ints:
        """When each segment begins, (m,) [s]."""
        return self.start + self.edges[:-1] * self.step

    def energy(self, name: str) -> Floats:
        """Σ energy of a meter, (m,) [J]."""
        return self.sums[f"{name} energy"]

    def components(self, name: str) -> list[tuple[Source, Floats]]:
        """Standard uncertainty of that Σ by source, (m,) each [J]."""
        return [
            (source, _weighted([(factor, self.sums[basis]) for factor, basis in pairs]))
            for source, pairs in self.meters[name].components
        ]

    def jumps(self, name: str) -> Floats | None:
        """Variance that sampling gives to that Σ, (m,) [J²]; None for a register."""
        return self.sums.get(f"{name} jumps")

    def rounding(self, name: str) -> Floats | None:
        """Variance that the steps of sensors give to that Σ, (m,) [J²]; None where none does."""
        return self.sums.get(f"{name} rounding")

    def within(self, start: float, stop: float) -> Bools:
        """The segments that begin in start ≤ t < stop [s]."""
        mask: Bools = (self.begins >= start) & (self.begins < stop)
        return mask


def segmented(
    start: int,
    step: int,
    state: Codes,
    meter_energies: MeterEnergies,
    excluded: Sequence[tuple[Span, str]],
    cuts: Sequence[Ints],
    extra: Mapping[str, Floats],
) -> Segments:
    """Cuts a trace into segments and sums every meter over them.

    Parameters
    ----------
    start, step : int
        of the grid [s].
    state : array, (n,)
        State codes.
    excluded : Sequence[tuple[Span, str]]
        spans to leave out, with the reason.
    cuts : Sequence[Ints]
        arrays of cells at which a segment must end: midnights, price changes, selections.
    extra : Mapping[str, Floats]
        further arrays, (n,), to sum.

    Returns
    -------
    Ledger. A state, an exclusion or a gap in a meter never lies in one segment with its
    opposite.
    """
    n = len(state)
    every = meter_energies.every
    changes = [np.flatnonzero(state[1:] != state[:-1]) + 1, np.array([0, n])]
    changes += [np.asarray(cut, np.int64) for cut in cuts]
    changes.append(np.array([e for span, _ in excluded for e in (span.start, span.stop)], np.int64))
    for meter_energy in every.values():
        unknown = np.isnan(meter_energy.energy)
        if unknown.any():
            changes.append(np.flatnonzero(unknown[1:] != unknown[:-1]) + 1)
        changes += [np.array([hole.start, hole.stop]) for hole in meter_energy.holes]
    edges = np.unique(np.concatenate(changes))
    edges = edges[(edges >= 0) & (edges <= n)]
    at = edges[:-1]

    label = np.full(len(at), -1, np.int64)
    for k, (span, _) in enumerate(excluded):
        label[np.searchsorted(at, span.start) : np.searchsorted(at, span.stop)] = k
    meters, bases = _bases(every)

    def over(values: Floats) -> Floats:
        found: Floats = np.add.reduceat(values, at)
        return found

    made = {name: partial(over, values) for name, values in {**bases, **extra}.items()}
    for name, meter_energy in every.items():
        if meter_energy.sampled:
            made[f"{name} jumps"] = partial(_jumps, meter_energy, at)
        if meter_energy.rounding is not None:
            made[f"{name} rounding"] = partial(over, filled(meter_energy.rounding))
    sums = side_by_side(made)
    reasons = tuple(reason for _, reason in excluded)
    return Segments(
        start=start,
        step=step,
        edges=edges,
        state=state[at],
        excluded=label,
        reasons=reasons,
        sums=sums,
        meters=meters,
    )


def refined(segments: Segments, local: Segments, cuts: Ints) -> Segments:
    """A segments cut further, by a local one that holds the same time around the cuts.

    Parameters
    ----------
    local : Segments
        made from a part of the same trace with the same states, cut where `segments` is and at the
        cuts.
    cuts : array, (c,)
        Cells of `segments` at which a segment must end.

    Raises
    ------
    LookupError
        if the two disagree about what is cut: readings from outside the part are needed then.
    """
    shift = (local.start - segments.start) // segments.step
    edges = local.edges + shift
    inside = cuts[(cuts > segments.edges[0]) & (cuts < segments.edges[-1])]
    new = inside[segments.edges[np.searchsorted(segments.edges, inside)] != inside]
    split = sorted({int(k) for k in np.searchsorted(segments.edges, new, side="right") - 1})
    for k in reversed(split):
        begin, end = segments.edges[k : k + 2]
        if begin < edges[0] or end > edges[-1]:
            raise LookupError("the part does not hold the whole segment")
        first, last = np.searchsorted(edges, [begin, end])
        sums = {}
        for name, whole in segments.sums.items():
            pieces = local.sums[name][first:last]
            if not np.isclose(pieces.sum(), whole[k], rtol=1e-6, atol=1e-3, equal_nan=True):
                raise LookupError(f"{name} cannot be told from the part alone")
            sums[name] = np.concatenate([whole[:k], pieces, whole[k + 1 :]])
        repeats = np.ones(len(segments.state), np.int64)
        repeats[k] = last - first
        segments = Segments(
            start=segments.start,
            step=segments.step,
            edges=np.concatenate([segments.edges[:k], edges[first:last], segments.edges[k + 1 :]]),
            state=np.repeat(segments.state, repeats),
            excluded=np.repeat(segments.excluded, repeats),
            reasons=segments.reasons,
            sums=sums,
            meters=segments.meters,
        )
    return segments


def _bases(every: Mapping[str, MeterEnergy]) -> tuple[dict[str, Meter], dict[str, Floats]]:
    """The meters, and by name each array of which their energies and errors are made."""
    bases = {f"{name} energy": meter_energy.energy for name, meter_energy in every.items()}
    names = {id(values): basis for basis, values in bases.items()}
    meters = {}
    for name, meter_energy in every.items():
        for component in meter_energy.components:
            for _, values in component.pairs:
                if id(values) not in names:
                    basis = f"{name} basis {sum(b.startswith(f'{name} basis') for b in bases) + 1}"
                    names[id(values)], bases[basis] = basis, values
        components = tuple(
            (
                component.cause,
                tuple((factor, names[id(values)]) for factor, values in component.pairs),
            )
            for component in meter_energy.components
        )
        meters[name] = Meter(
            name,
            meter_energy.method,
            meter_energy.loads,
            meter_energy.native,
            meter_energy.step_energy,
            meter_energy.holes,
            components,
        )
    return meters, bases


def _weighted(pairs: list[tuple[float, Floats]]) -> Floats:
    total: Floats = pairs[0][0] * pairs[0][1]
    for factor, values in pairs[1:]:
        total = total + factor * values
    return total


def _jumps(meter_energy: MeterEnergy, at: Ints) -> Floats:
    """Variance from sampling a rate: a jump falls anywhere between two readings, so its energy
    is known to ±half a cell of it (rectangular). Source: GUM 4.3.7; treatment common practice."""
    step = np.zeros(len(meter_energy.energy))
    np.subtract(meter_energy.energy[1:], meter_energy.energy[:-1], out=step[:-1])
    step *= step
    variance: Floats = np.add.reduceat(step, at)
    if np.isnan(variance).any():  # at the edge of a gap there is no next reading
        variance = np.add.reduceat(np.nan_to_num(step, copy=False), at)
    variance *= 1 / 12
    return variance
