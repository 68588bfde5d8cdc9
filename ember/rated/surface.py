"""The surface through a rated table: second-law efficiency for the COP, capacity linearly; on room
air capacity and input linearly."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ember.basis.errors import TableError
from ember.basis.practice import KELVIN
from ember.basis.series import Floats, Ints
from ember.description.installation import RatedPoint, RatedTable, TableKind

SURFACE_LEAST_LIFT = 10.0  # Carnot is taken at no less [K]: below it the ratio runs away
MOST_SHARE = 0.8  # of Carnot that a maker's point may claim, common practice


NEAR_FLOW, NEAR_INDOOR = 1.5, 2.0  # about the one that a table has [K], common practice
USUAL_SLOPE = 0.03  # of a COP per kelvin, common practice


@dataclass(frozen=True)
class Surface:
    """A table on its grid of outdoor × flow temperatures [degC], NaN where it has no point."""

    outdoor: Floats  # (a,)
    flow: Floats  # (b,)
    share: Floats  # (a, b) COP ÷ COP_Carnot
    capacity: Floats  # (a, b) [W]
    used: Floats | None = None  # (a, b) input [W], of an air table, interpolated itself
    quotient: Floats | None = None  # (a, b) COP, of an air table without capacities

    def cop(self, outdoor: Floats, flow: Floats) -> Floats:
        """Rated COP at conditions, (n,) each [degC]; NaN outside the table, never extrapolated.

        Source: interpolation of the second-law efficiency between points; Carnot efficiency
        from the second law of thermodynamics. On room air that breaks down: an air table has its
        capacity and input interpolated linearly, common practice.
        """
        if self.quotient is not None:
            return self._between(self.quotient, outdoor, flow)
        if self.used is not None:
            quotient: Floats = self.capacity_at(outdoor, flow) / self._between(
                self.used, outdoor, flow
            )
            return quotient
        result = self._between(self.share, outdoor, flow)
        result *= carnot(outdoor, flow)
        # Carnot's own curve between two points may leave their range where the lift is small.
        low, high = self._range
        cell = self._cell(outdoor, flow)
        np.minimum(result, high[cell], out=result)
        np.maximum(result, low[cell], out=result)
        return result

    @cached_property
    def _range(self) -> tuple[Floats, Floats]:
        """Lowest and highest COP of the points around each cell, flat."""
        cop = self.share * carnot(*np.meshgrid(self.outdoor, self.flow, indexing="ij"))
        corners = np.stack([cop[:-1, :-1], cop[1:, :-1], cop[:-1, 1:], cop[1:, 1:]])
        return corners.min(axis=0).ravel(), corners.max(axis=0).ravel()

    def _cell(self, outdoor: Floats, flow: Floats) -> Ints:
        i = np.searchsorted(self.outdoor[1:-1], outdoor, side="right")
        j = np.searchsorted(self.flow[1:-1], flow, side="right")
        cell: Ints = i * (len(self.flow) - 1) + j
        return cell

    def capacity_at(self, outdoor: Floats, flow: Floats) -> Floats:
        """Rated heat output at conditions, (n,) each [degC] → [W]; NaN outside the table."""
        return self._between(self.capacity, outdoor, flow)

    def slope(self, at: tuple[float, float], axis: int) -> float:
        """Relative change of the rated COP per kelvin of the outdoor (0) or flow (1) temperature
        around a point [1/K]; a usual one at the table's edge."""
        low, high = list(at), list(at)
        low[axis] -= 0.5
        high[axis] += 0.5
        pair = np.array([low, high])
        cop = self.cop(pair[:, 0], pair[:, 1])
        if not np.isfinite(cop).all():
            return USUAL_SLOPE
        return abs(float(cop[1] - cop[0])) / float(cop.mean())

    def _between(self, table: Floats, outdoor: Floats, flow: Floats) -> Floats:
        """Bilinear between the four points around."""
        rows, cols = len(self.outdoor), len(self.flow)
        i, x = _place(self.outdoor, outdoor)
        j, y = _place(self.flow, flow)
        # One table of the four corners' coefficients: f = c0 + c1·x + c2·y + c3·x·y.
        a, b, c, d = table[:-1, :-1], table[1:, :-1], table[:-1, 1:], table[1:, 1:]
        cell = i * (cols - 1) + j
        c0, c1, c2, c3 = (k.ravel() for k in (a, b - a, c - a, a - b - c + d))
        assert len(c0) == (rows - 1) * (cols - 1)
        result: Floats = c3[cell]
        result *= x
        result += c2[cell]
        result *= y
        x *= c1[cell]
        result += x
        result += c0[cell]
        inside = (outdoor >= self.outdoor[0]) & (outdoor <= self.outdoor[-1])
        inside &= (flow >= self.flow[0]) & (flow <= self.flow[-1])
        result[~inside] = np.nan
        return result


def _place(axis: Floats, values: Floats) -> tuple[Ints, Floats]:
    """Interval of an axis in which each value lies, and how far along, 0 … 1."""
    index = np.searchsorted(axis[1:-1], values, side="right")
    share = values - axis[index]
    share /= np.diff(axis)[index]
    return index, share


@dataclass(frozen=True)
class Surfaces:
    """The surfaces of a table at each of its speeds, slowest first.

    Attributes
    ----------
    hertz : Floats | None
        speed of each, (k,), None where the table does not say.
    """

    levels: tuple[Surface, ...]
    hertz: Floats | None

    def cop(
        self, outdoor: Floats, flow: Floats, heat: Floats | None, speed: Floats | None = None
    ) -> Floats:
        """Rated COP at conditions, (n,) each [degC]; NaN outside the table.

        Parameters
        ----------
        heat : array, (n,)
            Delivered [W], by which it is matched between the levels; None or NaN: the level in the
            middle.
        speed : array, (n,)
            Of the compressor [Hz], by which it is matched where the table knows its speeds. Beyond
            the levels the nearest holds.

        Source: between speed levels by logged speed, else by delivered heat, common practice.
        """
        every = [level.cop(outdoor, flow) for level in self.levels]
        nominal = every[len(every) // 2]
        by_speed = speed is not None and self.hertz is not None
        match = speed if by_speed else heat
        if len(every) == 1 or match is None:
            return nominal
        if by_speed:
            assert self.hertz is not None
            places = [np.full(len(outdoor), hz) for hz in self.hertz.tolist()]
        else:
            places = [level.capacity_at(outdoor, flow) for level in self.levels]
        result = np.where(np.isfinite(match), every[0], nominal)
        for k in range(1, len(every)):
            with np.errstate(invalid="ignore", divide="ignore"):
                share = np.clip((match - places[k - 1]) / (places[k] - places[k - 1]), 0.0, 1.0)
                between = every[k - 1] + share * (every[k] - every[k - 1])
                above = match > places[k - 1]
            result = np.where(above, between, result)
        return result


def surfaces(table: RatedTable, airflow: float | None = None) -> Surfaces:
    """The surfaces of a table at each of its speeds. Raises TableError."""
    hertz = [table.hertz(level) for level in table.speeds]
    known = np.array([h for h in hertz if h is not None])
    return Surfaces(
        tuple(surface(table, s, airflow) for s in table.speeds),
        known if len(known) == len(hertz) else None,
    )


def carnot(outdoor: Floats, flow: Floats) -> Floats:
    """COP of a Carnot process between source and flow temperature, (n,) [degC].

    The lift is taken at no less than LEAST_LIFT.
    """
    lift: Floats = np.maximum(flow - outdoor, SURFACE_LEAST_LIFT)
    result = flow + KELVIN
    result /= lift
    return result


def surface(table: RatedTable, speed: str | None = None, airflow: float | None = None) -> Surface:
    """The surface through a table's points at one level of load or speed.

    Parameters
    ----------
    speed : str | None
        None: the table's main one.
    airflow : float | None
        in use [m3/h]; of a table with several rows of it the two around it are interpolated,
        outside them the nearest holds.

    Points that cannot be (no lift, or more than physics allows) are left out.

    Raises
    ------
    TableError
        if the others span no area.
    """
    level = speed or table.main
    points = [p for p in table.points if p.speed == level]
    if table.kind != TableKind.AIR:
        ill = [p for p in points if not possible(p)]
        if len(ill) > 0.5 * len(points):
            raise TableError(
                f"rated: COP {ill[0].cop or 0:g} at outdoor {ill[0].outdoor:g} and flow "
                f"{ill[0].flow:g} °C cannot be, and so {len(ill)} of {len(points)} points. Are the "
                "axes exchanged?"
            )
        points = [p for p in points if p not in ill]
    outdoor = np.array(sorted({p.outdoor for p in points}))
    flow = np.array(sorted({p.flow for p in points}))
    if len(outdoor) < 2 or not len(flow):
        raise TableError(
            "rated: the points are of one outdoor temperature. At least two are needed to compare "
            "at the same conditions."
        )
    capacity, cop = _rows(points, outdoor, flow, airflow)
    if len(flow) == 1:  # of one flow or indoor temperature: compared near it alone
        near = NEAR_INDOOR if table.kind == TableKind.AIR else NEAR_FLOW
        flow = np.array([flow[0] - near, flow[0] + near])
        capacity, cop = np.repeat(capacity, 2, axis=1), np.repeat(cop, 2, axis=1)
        if table.kind != TableKind.AIR:  # the share of Carnot holds, not the COP
            middle = np.full(2, float(flow.mean()))
            ideal = carnot(*np.meshgrid(outdoor, middle, indexing="ij"))
            cop = cop / ideal * carnot(*np.meshgrid(outdoor, flow, indexing="ij"))
    used = capacity / cop
    share = cop / carnot(*np.meshgrid(outdoor, flow, indexing="ij"))
    if table.kind != TableKind.AIR:
        return Surface(outdoor, flow, share, capacity)
    if not table.gives_capacity:
        return Surface(outdoor, flow, share, capacity, quotient=cop)
    return Surface(outdoor, flow, share, capacity, used)


def possible(point: RatedPoint) -> bool:
    """Whether a point of a water or brine table can be: it has a lift, and its COP lies below
    MOST_SHARE of Carnot at the true lift."""
    lift = point.flow - point.outdoor
    return lift > 0 and (point.cop or 0.0) <= MOST_SHARE * (point.flow + KELVIN) / lift


def _rows(
    points: list[RatedPoint], outdoor: Floats, flow: Floats, airflow: float | None
) -> tuple[Floats, Floats]:
    """Capacity [W] and COP of points on their grid, (a, b), at an airflow; NaN what the table does
    not give."""
    rows = sorted({p.airflow_m3h for p in points if p.airflow_m3h is not None})
    wanted: list[tuple[float | None, float]] = [(None, 1.0)]
    if len(rows) > 1:
        at = rows[len(rows) // 2] if airflow is None else min(max(airflow, rows[0]), rows[-1])
        k = int(np.clip(np.searchsorted(rows, at, side="right") - 1, 0, len(rows) - 2))
        x = (at - rows[k]) / (rows[k + 1] - rows[k])
        wanted = [(r, w) for r, w in ((rows[k], 1 - x), (rows[k + 1], x)) if w > 0]
    sized = any(p.capacity_kw is not None for p in points)  # else each point counts alike
    capacity = np.zeros((len(outdoor), len(flow)))
    used = capacity.copy()
    given = np.zeros(capacity.shape, np.bool_)
    for row, weight in wanted:
        one = np.full((2, len(outdoor), len(flow)), np.nan)
        for p in points:
            if row is None or p.airflow_m3h == row:
                at_cell = np.searchsorted(outdoor, p.outdoor), np.searchsorted(flow, p.flow)
                gives = (p.capacity_kw or (np.nan if sized else 1.0)) * 1000.0
                one[(slice(None), *at_cell)] = gives, gives / (p.cop or np.nan)
                given[at_cell] |= p.capacity_kw is not None
        capacity += weight * one[0]
        used += weight * one[1]
    cop = capacity / used
    return np.where(given, capacity, np.nan), cop
