"""SCOP of declared points, written out by hand as EN 14825 does (from memory)."""

from dataclasses import replace
from unittest import TestCase

from ember.description.declared import Aux, AuxTimes, Climate, Declared, DeclaredPoint
from ember.rated import CLIMATES
from ember.rated.declared import scop_declared

# An invented unit: name, outdoors, flow [°C], capacity [kW], COP, Cc.
ROWS = (
    ("A", -7.0, 34.0, 6.6, 2.75, 1.0),
    ("B", 2.0, 30.0, 4.2, 4.10, 0.98),
    ("C", 7.0, 27.0, 3.2, 5.40, 0.96),
    ("D", 12.0, 24.0, 3.0, 7.00, 0.93),
    ("E", -10.0, 35.0, 6.0, 2.50, 1.0),
)
UNIT = Declared(7.0, tuple(DeclaredPoint(n, o, f, kw, cop, None, cc)
                           for n, o, f, kw, cop, cc in ROWS))  # fmt: skip


def by_hand(limit: float | None = None) -> tuple[float, float]:
    """Annual heat and electricity [kWh], bin by bin, with nothing but the standard's formulas."""
    points = []
    for _, outdoor, _, capacity, cop, cc in sorted(ROWS, key=lambda r: r[1]):
        ratio = min(7.0 * (16 - outdoor) / 26 / capacity, 1.0)
        points.append((outdoor, capacity, cop * ratio / (cc * ratio + 1 - cc)))
    heat = used = 0.0
    for k, hours in enumerate(CLIMATES[Climate.AVERAGE].hours):
        t = -10.0 + k
        # The pair of points around, or the warmest two beyond D.
        right = next((i for i, p in enumerate(points) if p[0] >= t), len(points) - 1) or 1
        (t0, c0, e0), (t1, c1, e1) = points[right - 1], points[right]
        share = (t - t0) / (t1 - t0)
        capacity, cop = c0 + share * (c1 - c0), e0 + share * (e1 - e0)
        load = 7.0 * (16 - t) / 26
        made = 0.0 if limit is not None and t < limit else min(load, capacity)
        heat += hours * load
        used += hours * (made / cop + load - made)
    return heat, used


class ByHand(TestCase):
    def test_scop_on(self) -> None:
        heat, used = by_hand()
        found = scop_declared(UNIT)
        self.assertAlmostEqual(found.on or 0, heat / used, 9)
        self.assertAlmostEqual(sum(b.heat for b in found.bins), heat, 6)

    def test_points_fix_the_degraded_cop(self) -> None:
        """D: load 7·4/26 = 1.077 kW of 3.0, CR 0.359; COP 7·0.359/(0.93·0.359 + 0.07) = 6.222."""
        at_d = next(b for b in scop_declared(UNIT).bins if b.outdoor == 12.0)
        self.assertAlmostEqual(at_d.cop, 6.222, 3)

    def test_below_the_low_limit_the_heater_carries_all(self) -> None:
        heat, used = by_hand(limit=-7.0)
        found = scop_declared(replace(UNIT, low_limit=-7.0))
        self.assertAlmostEqual(found.on or 0, heat / used, 9)
        self.assertIn("the heater carries all", " ".join(found.notes))

    def test_auxiliary_powers(self) -> None:
        """Q_H = 7 · 2066 h; 178 h thermostat off at 10 W, 3850 h crankcase at 5 W, 3672 h off at
        4 W: hours of the average climate, a heating-only unit (from memory)."""
        heat, used = by_hand()
        aux = Aux(thermostat_off=10.0, standby=6.0, crankcase=5.0, off=4.0)
        found = scop_declared(replace(UNIT, aux=aux))
        total = 7 * 2066
        extra = (178 * 10 + 0 * 6 + 3850 * 5 + 3672 * 4) / 1000
        self.assertAlmostEqual(found.scop or 0, total / (total / (heat / used) + extra), 9)

    def test_hours_of_another_climate_are_asked_for_or_given(self) -> None:
        cold = replace(UNIT, climate=Climate.COLDER, aux=Aux(standby=6.0))
        self.assertIsNone(scop_declared(cold).scop)
        times = AuxTimes(heating=2465.0, standby=10.0)
        given = scop_declared(replace(cold, aux_hours=times))
        on = given.on or 0
        self.assertAlmostEqual(given.scop or 0, 7 * 2465 / (7 * 2465 / on + 6.0 * 10 / 1000), 9)

    def test_what_is_assumed_is_said(self) -> None:
        bare = tuple(replace(p, cc=None) for p in UNIT.points if p.name != "E")
        found = scop_declared(replace(UNIT, points=bare))
        words = " ".join(found.notes)
        self.assertIn("no point is declared below -7 °C", words)
        self.assertIn("Cc 0.9", words)
        self.assertEqual([b.outdoor for b in found.bins if b.assumed], [-10.0, -9.0, -8.0])
