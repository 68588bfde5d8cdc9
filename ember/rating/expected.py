"""What the table promises in every cell that can be compared with it."""

from dataclasses import dataclass

import numpy as np

from ember.installation import Installation
from ember.rating.surface import Surface, surface
from ember.running import Running, State
from ember.trace import Bools, Floats, Trace


@dataclass(frozen=True)
class Promise:
    """How a rated table meets a record.

    fitting : cells that fit but for the range; outside : those of them outside the table.
    per_kelvin_outdoor, per_kelvin_flow : mean relative change of the rated COP [1/K].
    tolerance : of the table, as a share. span : what is compared, in words.
    """

    fitting: int
    outside: int
    per_kelvin_outdoor: float
    per_kelvin_flow: float
    tolerance: float
    span: str


@dataclass(frozen=True)
class Expected:
    """The rated COP over a trace.

    cop : array, (n,)  Rated COP in the cells compared, 0 elsewhere.
    compared : array, (n,)  Cells that fit the table: heating, settled, inside its range.
    """

    promise: Promise
    cop: Floats
    compared: Bools


def expected(installation: Installation, trace: Trace, states: Running) -> Expected | str:
    """The rated COP at each cell's own conditions, or why there is none.

    A table that includes defrosts is compared with heating and its defrosts, the rated COP
    held from the cell before each; one that does not, with settled heating only.

    Source: span that fits the table, common practice.
    """
    table = installation.rated
    if table is None:
        return "no rated table is given"
    circuit = next((c for c in installation.circuits if c.flow_temp in trace), None)
    outdoor_channel = installation.outdoor.channel
    if circuit is None or outdoor_channel not in trace:
        lacking = "flow temperature" if circuit is None else "outdoor temperature"
        return f"no {lacking} is logged, so the conditions are not known"
    shape = surface(table)
    steady = (states.state == State.HEATING) & ~states.recovery
    cells = np.flatnonzero(steady)
    outdoor, flow = trace[outdoor_channel][cells], trace[circuit.flow_temp][cells]
    values = shape.cop(outdoor, flow)
    inside = np.isfinite(values)
    # Where the readings themselves are missing, nothing lies outside the table.
    known = int(np.count_nonzero(np.isfinite(outdoor) & np.isfinite(flow)))
    cop = np.zeros(len(trace))
    cop[cells[inside]] = values[inside]
    if table.includes_defrost:
        _hold_through_defrosts(cop, states)
        span = "settled heating with its defrosts (table includes them)"
    else:
        span = "settled heating without defrosts (table leaves them out)"
    mean = (
        float(np.mean(outdoor[inside])) if inside.any() else 0.0,
        (float(np.mean(flow[inside])) if inside.any() else 0.0),
    )
    promise = Promise(
        len(cells), known - int(inside.sum()), _slope(shape, mean, 0), _slope(shape, mean, 1),
        table.tolerance, span,
    )  # fmt: skip
    return Expected(promise, cop, cop > 0)


def _hold_through_defrosts(cop: Floats, states: Running) -> None:
    held = np.flatnonzero((states.state == State.DEFROST) | states.recovery)
    if not len(held):
        return
    before = held - 1
    starts = np.flatnonzero(np.diff(held, prepend=-2) != 1)
    first = before[starts]
    value = np.where(first >= 0, cop[np.maximum(first, 0)], 0.0)
    cop[held] = np.repeat(value, np.diff(np.append(starts, len(held))))


def _slope(shape: Surface, at: tuple[float, float], axis: int) -> float:
    """Relative change of the rated COP per kelvin around a point, inside the table."""
    low, high = list(at), list(at)
    low[axis] -= 0.5
    high[axis] += 0.5
    pair = np.array([low, high])
    cop = shape.cop(pair[:, 0], pair[:, 1])
    if not np.isfinite(cop).all():
        return 0.03  # common practice, where the point lies at the table's edge
    return abs(float(cop[1] - cop[0])) / float(cop.mean())
