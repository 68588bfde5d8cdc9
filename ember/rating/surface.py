"""The surface through a rated table: second-law efficiency for the COP, capacity linearly."""

from dataclasses import dataclass

import numpy as np

from ember.errors import TableError
from ember.installation import RatedTable
from ember.trace import Floats, Ints

LEAST_LIFT = 10.0  # Carnot is taken at no less [K]: below it the ratio runs away
MOST_SHARE = 0.8  # of Carnot that a maker's point may claim, common practice
KELVIN = 273.15


@dataclass(frozen=True)
class Surface:
    """A table on its grid of outdoor × flow temperatures [degC], NaN where it has no point."""

    outdoor: Floats  # (a,)
    flow: Floats  # (b,)
    share: Floats  # (a, b) COP ÷ COP_Carnot
    capacity: Floats  # (a, b) [W]

    def cop(self, outdoor: Floats, flow: Floats) -> Floats:
        """Rated COP at conditions, (n,) each [degC]; NaN outside the table, never extrapolated.

        Source: interpolation of the second-law efficiency between points; Carnot efficiency
        from the second law of thermodynamics.
        """
        result = self._between(self.share, outdoor, flow)
        result *= carnot(outdoor, flow)
        return result

    def capacity_at(self, outdoor: Floats, flow: Floats) -> Floats:
        """Rated heat output at conditions, (n,) each [degC] → [W]; NaN outside the table."""
        return self._between(self.capacity, outdoor, flow)

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


def carnot(outdoor: Floats, flow: Floats) -> Floats:
    """COP of a Carnot process between source and flow temperature, (n,) [degC].

    The lift is taken at no less than LEAST_LIFT.
    """
    lift = flow - outdoor
    np.maximum(lift, LEAST_LIFT, out=lift)
    result = flow + KELVIN
    result /= lift
    return result


def surface(table: RatedTable) -> Surface:
    """The surface through a table's points. Raises TableError if they span no area."""
    outdoor = np.array(sorted({p.outdoor for p in table.points}))
    flow = np.array(sorted({p.flow for p in table.points}))
    if len(outdoor) < 2 or len(flow) < 2:
        raise TableError(
            "rated: the points lie on one line. At least two outdoor and two flow temperatures "
            "are needed to compare at the same conditions."
        )
    share = np.full((len(outdoor), len(flow)), np.nan)
    capacity = share.copy()
    for p in table.points:
        at = np.searchsorted(outdoor, p.outdoor), np.searchsorted(flow, p.flow)
        ideal = carnot(np.array([p.outdoor]), np.array([p.flow]))[0]
        share[at] = p.cop / ideal
        capacity[at] = p.capacity_kw * 1000.0
        if p.flow <= p.outdoor or share[at] > MOST_SHARE:
            raise TableError(
                f"rated: COP {p.cop:g} at outdoor {p.outdoor:g} and flow {p.flow:g} °C cannot be "
                f"({share[at]:.0%} of what physics allows). Are the axes exchanged?"
            )
    return Surface(outdoor, flow, share, capacity)
