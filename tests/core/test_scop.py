"""SCOP by EN 14825, and a bin sum, each written out by hand."""

from unittest import TestCase

import numpy as np

from ember.description.installation import RatedPoint, RatedTable, Speed, TableKind
from ember.rated import CLIMATES, Aux, Climate, scop, seasonal, standard_point
from ember.rated.climates import VARIABLE

SHARE = 0.4  # of Carnot, everywhere


def table(capacity: float, low: float = -25.0, high: float = 16.0, **changes) -> RatedTable:
    """A table with the same share of Carnot and the same capacity at every point."""
    points = tuple(
        RatedPoint(o, f, capacity, SHARE * (f + 273.15) / max(f - o, 10.0))
        for o in (low, high)
        for f in (20.0, 66.0)
    )
    return RatedTable(points=points, **changes)


class Climates(TestCase):
    def test_the_hours_add_up(self) -> None:
        """EN 14825 totals: 4910 h, 3590 h, 6446 h (from memory)."""
        totals = [sum(CLIMATES[c].hours) for c in (Climate.AVERAGE, Climate.WARMER, Climate.COLDER)]
        self.assertEqual(totals, [4910, 3590, 6446])

    def test_the_bins_end_at_fifteen_degrees(self) -> None:
        for climate in CLIMATES.values():
            self.assertEqual(climate.first + len(climate.hours) - 1, 15)
            self.assertEqual(climate.first, climate.design)


class ByHand(TestCase):
    def test_average_climate_at_35(self) -> None:
        """EN 14825 written out: P = Pdesign·(16 − T)/26, COP·CR/(0.9·CR + 0.1) below the output,
        resistance heat above it."""
        capacity, design = 6.0, 8.0
        found = scop(table(capacity), Climate.AVERAGE, 35, design_load_kw=design)
        flows = dict(VARIABLE[Climate.AVERAGE][35])
        heat = used = 0.0
        for k, hours in enumerate(CLIMATES[Climate.AVERAGE].hours):
            t = -10 + k
            load = design * (16 - t) / 26
            # Flow between the part-load points, and held beyond the warmest.
            known = sorted(flows)
            left = max([p for p in known if p <= t], default=known[0])
            right = min([p for p in known if p >= t], default=known[-1])
            share = (t - left) / (right - left) if right > left else 0.0
            flow = flows[left] + share * (flows[right] - flows[left])
            cop = SHARE * (flow + 273.15) / max(flow - t, 10.0)  # lifts are guarded
            if load >= capacity:
                power = capacity / cop + (load - capacity)
            else:
                ratio = load / capacity
                power = load / (cop * ratio / (0.9 * ratio + 0.1))
            heat += hours * load
            used += hours * power
        # Where the lift nearly vanishes the surface stays within the COPs of the points around it.
        self.assertAlmostEqual(found.on, heat / used, delta=0.0003)
        self.assertIsNone(found.scop)  # no auxiliary powers are given

    def test_the_load_meets_the_capacity_at_the_bivalent_temperature(self) -> None:
        found = scop(table(6.0), Climate.AVERAGE, 55, bivalent=-7.0)
        self.assertAlmostEqual(found.design_load, 6.0 * 26 / 23, places=9)
        at = next(b for b in found.bins if b.outdoor == -7.0)
        self.assertAlmostEqual(at.load, at.capacity, places=9)
        self.assertEqual(at.backup, 0.0)

    def test_auxiliary_powers(self) -> None:
        """Heat 2066 h × Pdesign; 178 h thermostat-off, 3850 h crankcase, 3672 h off (from
        memory)."""
        aux = Aux(thermostat_off=20.0, standby=0.0, crankcase=15.0, off=8.0)
        found = scop(table(6.0), Climate.AVERAGE, 35, design_load_kw=8.0, aux=aux)
        heat = 2066 * 8.0
        extra = (178 * 20 + 3850 * 15 + 3672 * 8) / 1000
        self.assertAlmostEqual(found.scop, heat / (heat / found.on + extra), places=9)

    def test_elsewhere_they_are_left_out_and_said(self) -> None:
        found = scop(table(6.0), Climate.COLDER, 35, aux=Aux(20.0, 0.0, 15.0, 8.0))
        self.assertIsNone(found.scop)
        self.assertIn("not certain", " ".join(found.notes))

    def test_three_bins(self) -> None:
        """10 h at −5, 20 h at 0, 30 h at 5 °C; 8, 6 and 3 kW; capacity 6 kW, flow 35 °C."""
        found = seasonal(
            table(6.0),
            np.array([-5.0, 0.0, 5.0]),
            np.array([10.0, 20.0, 30.0]),
            np.array([8000.0, 6000.0, 3000.0]),
            np.full(3, 35.0),
        )
        cops = [0.4 * 308.15 / (35 - t) for t in (-5, 0, 5)]
        half = cops[2] * 0.5 / (0.9 * 0.5 + 0.1)
        self.assertAlmostEqual(found[0].electricity, 10 * (6 / cops[0] + 2), places=9)
        self.assertAlmostEqual(found[1].electricity, 20 * 6 / cops[1], places=9)
        self.assertAlmostEqual(found[2].electricity, 30 * 3 / half, places=9)
        self.assertEqual([b.heat for b in found], [80.0, 120.0, 90.0])

    def test_air_degrades_otherwise(self) -> None:
        """COP·(1 − 0.25·(1 − CR)) on room air (EN 14825)."""
        points = tuple(RatedPoint(o, f, 5.0, 3.0) for o in (-15.0, 16.0) for f in (18.0, 24.0))
        air = RatedTable(points=points, kind=TableKind.AIR)
        (found,) = seasonal(
            air, np.array([7.0]), np.array([1.0]), np.array([2000.0]), np.array([20.0])
        )
        self.assertAlmostEqual(found.cop, 3.0 * (1 - 0.25 * (1 - 0.4)), places=9)

    def test_between_two_speeds_it_does_not_cycle(self) -> None:
        least = tuple(
            RatedPoint(p.outdoor, p.flow, 2.0, p.cop * 1.1, Speed.MINIMUM)
            for p in table(6.0).points
        )
        both = RatedTable(points=(*table(6.0).points, *least))
        (found,) = seasonal(
            both, np.array([0.0]), np.array([1.0]), np.array([4000.0]), np.array([35.0])
        )
        full = 0.4 * 308.15 / 35
        self.assertEqual(found.ratio, 1.0)
        self.assertAlmostEqual(found.cop, full * 1.05, places=9)  # half-way between 2 and 6 kW


class Outside(TestCase):
    def test_assumed_bins_are_named(self) -> None:
        found = scop(table(6.0, low=-7.0), Climate.AVERAGE, 35)
        self.assertEqual([b.outdoor for b in found.bins if b.assumed], [-10.0, -9.0, -8.0])
        self.assertIn("Assumed: 3 bins", " ".join(found.notes))
        self.assertIsNotNone(found.on)

    def test_too_many_of_them_and_none_is_offered(self) -> None:
        found = scop(table(6.0, low=2.0), Climate.COLDER, 35)
        self.assertIsNone(found.on)
        self.assertIn("guess", str(found.reason))


class StandardPoints(TestCase):
    """Names of EN 14511 points and of North American ones (from memory)."""

    def test_names(self) -> None:
        for kind, outdoor, flow, name in (
            (TableKind.WATER, 7, 35, "A7/W35"),
            (TableKind.WATER, -7, 55, "A-7/W55"),
            (TableKind.GROUND, 0, 35, "B0/W35"),
            (TableKind.AIR, 8.33, 21.1, "47 °F"),
            (TableKind.AIR, -8.33, 21.1, "17 °F"),
            (TableKind.WATER, 5, 35, None),
            (TableKind.AIR, 8.33, 15.6, None),
        ):
            self.assertEqual(standard_point(kind, outdoor, flow), name)
