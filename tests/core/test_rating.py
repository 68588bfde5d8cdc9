"""Rated tables, expected COP, performance ratio and verdict."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator

from ember.assessment.assess import assess
from ember.basis.codes import SourceCode
from ember.basis.errors import TableError
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.comparison.performance_ratio import Comparison, VerdictKind, verdict
from ember.description.installation import (
    AirCircuit,
    HeatPump,
    RatedPoint,
    RatedTable,
    Speed,
    TableKind,
    Thresholds,
    UnitKind,
    part_load_is_better,
)
from ember.messages import Source
from ember.rated import surface, surfaces, table_from_csv
from ember.rated.surface import carnot
from stand_ins.files import table_text
from tests.core.helpers import assessed, installation, steady, trace

# Invented points of the usual shape.
POINTS = tuple(
    RatedPoint(o, f, 8.0 + 0.15 * o - 0.02 * (f - 35), round(0.4 * (f + 273.15) / (f - o), 2))
    for o in (-7.0, 2.0, 7.0, 12.0)
    for f in (30.0, 35.0, 45.0, 55.0)
)
TABLE = RatedTable(points=POINTS, includes_defrost=False)


class Surface(TestCase):
    def test_carnot(self) -> None:
        """35 °C sink, 2 °C source: 308.15/33 = 9.338 (second law)."""
        self.assertAlmostEqual(float(carnot(np.array([2.0]), np.array([35.0]))[0]), 9.338, 3)

    def test_small_lifts_are_guarded(self) -> None:
        found = carnot(np.array([30.0, 40.0]), np.array([35.0, 35.0]))
        np.testing.assert_allclose(found, 308.15 / 10)

    def test_the_surface_goes_through_every_point(self) -> None:
        shape = surface(TABLE)
        for p in POINTS:
            at = np.array([p.outdoor]), np.array([p.flow])
            self.assertAlmostEqual(float(shape.cop(*at)[0]), p.cop, places=9)
            self.assertAlmostEqual(float(shape.capacity_at(*at)[0]), p.capacity_kw * 1e3, 6)

    @given(st.floats(-7, 12), st.floats(30, 55))
    def test_against_scipy(self, outdoor, flow) -> None:
        """Second-law efficiency between points by scipy's RegularGridInterpolator."""
        shape = surface(TABLE)
        share = RegularGridInterpolator((shape.outdoor, shape.flow), shape.share)
        o, f = np.array([outdoor]), np.array([flow])
        expected = float(share((outdoor, flow))) * float(carnot(o, f)[0])
        self.assertAlmostEqual(float(shape.cop(o, f)[0]), expected, places=9)

    def test_nothing_is_extrapolated(self) -> None:
        shape = surface(TABLE)
        outdoor = np.array([-7.1, 12.1, 2.0, 2.0, np.nan])
        flow = np.array([35.0, 35.0, 29.9, 55.1, 35.0])
        self.assertTrue(np.isnan(shape.cop(outdoor, flow)).all())

    def test_a_missing_point_leaves_its_cells_empty(self) -> None:
        shape = surface(RatedTable(points=POINTS[:-1]))
        self.assertTrue(np.isnan(shape.cop(np.array([11.0]), np.array([54.0]))[0]))
        self.assertTrue(np.isfinite(shape.cop(np.array([5.0]), np.array([54.0]))[0]))

    def test_one_flow_temperature_serves_near_itself(self) -> None:
        """Between the two outdoor temperatures as ever, a kelvin beside by Carnot, further not."""
        points = tuple(p for p in POINTS if p.flow == 35.0)
        line = surface(RatedTable(points=points))
        whole = surface(RatedTable(points=POINTS))
        at = np.array([2.0, 5.0])
        np.testing.assert_allclose(
            line.cop(at, np.full(2, 35.0)), whole.cop(at, np.full(2, 35.0)), rtol=0.01
        )
        self.assertTrue(np.isnan(line.cop(at, np.full(2, 37.0))).all())
        self.assertLess(line.cop(at, np.full(2, 36.0))[0], line.cop(at, np.full(2, 35.0))[0])
        table = table_from_csv("outdoor,flow,capacity,cop\n-7,35,6,2.6\n7,35,8,4.4\n", "t.csv")
        self.assertEqual(len(table.points), 2)

    def test_a_table_that_is_a_line_or_turned_round_is_refused(self) -> None:
        with self.assertRaisesRegex(TableError, "of one outdoor temperature"):
            surface(RatedTable(points=tuple(p for p in POINTS if p.outdoor == POINTS[0].outdoor)))
        turned = tuple(RatedPoint(p.flow, p.outdoor, p.capacity_kw, p.cop) for p in POINTS)
        with self.assertRaisesRegex(TableError, "axes exchanged"):
            surface(RatedTable(points=turned))


class Csv(TestCase):
    def test_round_trip(self) -> None:
        again = table_from_csv(table_text(TABLE), "t.csv")
        self.assertFalse(again.includes_defrost)
        self.assertEqual(len(again.points), len(POINTS))
        self.assertAlmostEqual(again.points[3].cop, POINTS[3].cop)

    def test_us_units_and_input(self) -> None:
        """28.4 in a US table means 28.4 kBtu/h (common practice); COP = capacity ÷ input."""
        text = (
            "outdoor [°F];flow [°F];capacity [kBtu/h];input [kW]\n"
            "47;95;28.4;2.0\n17;95;20;2.1\n47;113;27;2.5\n17;113;19;2.6\n"
        )
        point = table_from_csv(text, "t.csv").points[0]
        self.assertAlmostEqual(point.outdoor, 8.333, places=3)
        self.assertAlmostEqual(point.capacity_kw, 28.4 / 3.412142, places=4)
        self.assertAlmostEqual(point.cop, 28.4 / 3.412142 / 2.0, places=4)

    def test_wrong_tables_are_refused_by_row(self) -> None:
        head = "outdoor,flow,capacity,cop\n"
        for text, words in (
            ("", "is empty"),
            ("outdoor,flow,power\n1,2,3\n", "no column for capacity"),
            (head + "7,35,8,4\n2,35,7,abc\n", "row 3: cop is 'abc'"),
            (head + "7,35,8,31\n", "row 2: capacity 8 kW at COP 31"),
            (head + "7,35,8,4\n7,35,6,4.5\n", "row 3: the same conditions as row 2"),
            (head + "7,35,8,4\n", "at least 2"),
            ("outdoor [kW],flow,capacity,cop\n", "has the unit kW"),
        ):
            with self.subTest(words), self.assertRaisesRegex(TableError, words):
                table_from_csv(text, "t.csv")


class PerformanceRatio(TestCase):
    def test_a_steady_hour_by_hand(self) -> None:
        """20 L/min at 35/30 °C is 6.93 kW; on 2 kW a COP of 3.466; rated 0.4 of Carnot: 3.735."""
        found = assess(installation(rated=TABLE), steady(48))
        self.assertAlmostEqual(found.comparison.measured.cop.value, 3.466, delta=0.005)
        self.assertAlmostEqual(found.comparison.rated_cop.value, 3.735, delta=0.006)
        self.assertAlmostEqual(found.comparison.ratio.value, 3.466 / 3.735, delta=0.003)

    def test_the_ratio_carries_table_sensor_and_meters(self) -> None:
        found = assess(installation(rated=TABLE), steady(48)).comparison.ratio
        sources = {part.source for part in found.budget}
        self.assertLessEqual(
            {"rated table", "outdoor sensor", "circuit: flow sensor", "fluid properties"}, sources
        )
        # 1 K outdoors is about 3 % of the COP (common practice).
        (outdoor,) = [p.u for p in found.budget if p.source == "outdoor sensor"]
        self.assertAlmostEqual(abs(outdoor) * np.sqrt(3) / found.value, 0.03, delta=0.004)

    def test_start_up_is_not_compared(self) -> None:
        found = assess(installation(rated=TABLE), steady(48)).comparison
        self.assertAlmostEqual(found.hours, 48 - 10 / 60, places=6)

    def test_defrosts_belong_to_an_integrated_table_only(self) -> None:
        readings = steady(48)
        warm = readings["flow_temp"].copy()
        warm[60::120] = warm[61::120] = warm[62::120] = 26.0
        readings = readings.with_channels({"flow_temp": warm})
        peak = assess(installation(rated=TABLE), readings).comparison
        whole = assess(
            installation(rated=replace(TABLE, includes_defrost=True)), readings
        ).comparison
        self.assertLess(whole.ratio.value, peak.ratio.value)
        self.assertGreater(whole.hours, peak.hours)
        self.assertTrue(any("defrost" in line.name for line in whole.measured.heat_lines))

    def test_outside_the_table_there_is_no_verdict(self) -> None:
        found = assess(installation(rated=TABLE), steady(48, outdoor_temp=-12.0))
        self.assertIsNone(found.comparison)
        self.assertIn("Nothing is extrapolated", found.verdict.sentence)

    def test_where_no_level_can_be_computed_there_is_no_verdict(self) -> None:
        described = installation(
            rated=TABLE, consumers=(*installation().consumers, "backup_heater")
        )
        whole = replace(described.electricity[0], includes=tuple(described.consumers))
        found = assess(replace(described, electricity=(whole,)), steady(48))
        self.assertEqual(found.verdict.kind, VerdictKind.NONE)
        self.assertIn("no level can be computed", found.verdict.sentence)


class Verdicts(TestCase):
    """Handbook limits: below only if PR + U < 0.90, too good only if PR − U > 1.15."""

    def said(self, value, expanded, part_load=False, hours=500.0) -> VerdictKind:
        measured = assess(installation(), steady(3)).main
        ratio = Estimate(
            value, "", (UncertaintyComponent(Source(SourceCode.METHOD, detail="x"), expanded / 2),)
        )
        comparison = Comparison(
            measured, ratio, ratio, hours, 0.0, "settled heating", (), None, 0.0
        )
        return verdict(comparison, Thresholds(), part_load, "none").kind

    def test_limits(self) -> None:
        for value, expanded, kind in (
            (0.80, 0.09, VerdictKind.BELOW_RATED),
            (0.80, 0.11, VerdictKind.WATCH),
            (0.89, 0.005, VerdictKind.BELOW_RATED),
            (0.90, 0.05, VerdictKind.AS_RATED),
            (0.92, 0.15, VerdictKind.WIDE_LIMITS),
            (1.00, 0.15, VerdictKind.AS_RATED),
            (1.20, 0.04, VerdictKind.TOO_GOOD),
            (1.20, 0.06, VerdictKind.WIDE_LIMITS),
            (1.14, 0.06, VerdictKind.AS_RATED),
        ):
            self.assertEqual(self.said(value, expanded), kind, (value, expanded))

    def test_part_load_is_better_by_nature(self) -> None:
        self.assertEqual(self.said(1.25, 0.05, part_load=True), VerdictKind.AS_RATED)
        self.assertEqual(self.said(1.40, 0.05, part_load=True), VerdictKind.TOO_GOOD)

    def test_a_few_hours_say_nothing(self) -> None:
        self.assertEqual(self.said(0.5, 0.05, hours=10), VerdictKind.NONE)


class Findings(TestCase):
    def test_below_rated_has_evidence_causes_and_a_next_check(self) -> None:
        finding = assessed("below-rated", days=60).findings[0]
        self.assertEqual(finding.name, "below rated")
        evidence = finding.evidence[0]
        self.assertLess(evidence.measured.value + evidence.measured.U, evidence.threshold)
        self.assertIsNone(finding.kwh_a_year)
        self.assertIn("a year is not claimed", finding.cost_basis)
        self.assertIn("certified", finding.who)
        (charge,) = [c for c in finding.causes if c.name == "refrigerant charge"]
        self.assertIn("suspicion", " ".join(charge.speaks_against))

    def test_a_year_of_it_has_a_price(self) -> None:
        """The loss is what the same heat would not have needed at the rated COP."""
        finding = assessed("below-rated", days=366, step=300).findings[0]
        self.assertAlmostEqual(
            finding.money_a_year.value / finding.kwh_a_year.value, 0.27, delta=0.02
        )
        self.assertGreater(finding.kwh_a_year.value, 1000)
        self.assertGreater(finding.kwh_a_year.U, 100)

    def test_a_healthy_unit_has_none(self) -> None:
        found = assessed("as-rated", days=60)
        self.assertEqual(found.verdict.kind, VerdictKind.AS_RATED)
        self.assertEqual(found.findings, ())


class Speeds(TestCase):
    """Between speed levels by logged speed, else by delivered heat (common practice)."""

    def table(self, **changes):
        least = tuple(
            replace(p, speed=Speed.MINIMUM, capacity_kw=p.capacity_kw * 0.4, cop=p.cop * 1.1)
            for p in POINTS
        )
        full = tuple(replace(p, speed=Speed.MAXIMUM) for p in POINTS)
        return RatedTable(points=(*least, *full), includes_defrost=False, **changes)

    def cop(self, heat, speed=None, **changes):
        at = np.array([2.0]), np.array([35.0])
        found = surfaces(self.table(**changes))
        return float(found.cop(*at, np.array([heat]), speed)[0])

    def test_by_heat(self) -> None:
        point = next(p for p in POINTS if (p.outdoor, p.flow) == (2.0, 35.0))
        full = point.capacity_kw * 1000
        self.assertAlmostEqual(self.cop(full), point.cop, 9)
        self.assertAlmostEqual(self.cop(0.4 * full), point.cop * 1.1, 9)
        self.assertAlmostEqual(self.cop(0.7 * full), point.cop * 1.05, 9)
        self.assertAlmostEqual(self.cop(0.1 * full), point.cop * 1.1, 9)  # beyond it, the nearest
        self.assertAlmostEqual(self.cop(2 * full), point.cop, 9)

    def test_by_speed_where_both_know_it(self) -> None:
        point = next(p for p in POINTS if (p.outdoor, p.flow) == (2.0, 35.0))
        known = {"minimum_hz": 30.0, "maximum_hz": 90.0}
        found = self.cop(1.0, np.array([60.0]), **known)
        self.assertAlmostEqual(found, point.cop * 1.05, 9)
        # A table that knows no speeds is matched by heat.
        self.assertAlmostEqual(self.cop(1.0, np.array([60.0])), point.cop * 1.1, 9)

    def test_outside_the_table_there_is_none(self) -> None:
        found = surfaces(self.table()).cop(np.array([-20.0]), np.array([35.0]), np.array([5e3]))
        self.assertTrue(np.isnan(found[0]))

    def test_a_table_of_several_speeds_says_how_it_is_matched(self) -> None:
        found = assess(installation(rated=self.table()), steady(48)).comparison
        self.assertIn("by delivered heat, which hides a loss of capacity", found.span)
        logged = steady(48).with_channels({"compressor_speed": np.full(48 * 60, 60.0)})
        known = self.table(minimum_hz=30.0, maximum_hz=90.0)
        found = assess(installation(rated=known), logged).comparison
        self.assertIn("by the logged one", found.span)

    def test_part_load_is_better_by_nature_against_one_speed_only(self) -> None:
        self.assertTrue(part_load_is_better(installation(rated=TABLE)))
        self.assertFalse(part_load_is_better(installation(rated=self.table())))


class OtherAxes(TestCase):
    def test_a_ground_table_is_over_the_brine(self) -> None:
        """Brine at 2 °C and air at 12 °C: rated 0.4 × 308.15/33 = 3.735, whatever the air."""
        context = replace(TABLE, kind=TableKind.GROUND)
        readings = steady(48, outdoor_temp=12.0)
        none = assess(installation(rated=context), readings)
        self.assertIsNone(none.comparison)
        self.assertIn("brine", none.verdict.sentence)
        brine = readings.with_channels({"source_temp": np.full(48 * 60, 2.0)})
        found = assess(installation(rated=context), brine).comparison
        self.assertAlmostEqual(found.rated_cop.value, 3.735, delta=0.006)

    def air(self, **changes):
        """Capacity and input in lines over outdoors, at two indoor temperatures."""
        return RatedTable(
            points=tuple(
                RatedPoint(o, i, c, c / p, airflow_m3h=flow)
                for flow, more in ((500.0, 1.0), (900.0, 1.1))
                for o, c, p in ((-8.0, 4.0 * more, 1.6), (8.0, 6.0 * more, 1.6))
                for i in (16.0, 22.0)
            ),
            kind=TableKind.AIR,
            **changes,
        )

    def test_on_air_capacity_and_input_run_in_lines(self) -> None:
        """Half-way: 5 kW from 1.6 kW, 3.125; Carnot on room air breaks down (handbook §8)."""
        shape = surface(self.air(), airflow=500.0)
        at = np.array([0.0]), np.array([20.0])
        self.assertAlmostEqual(float(shape.capacity_at(*at)[0]), 5000.0, 9)
        self.assertAlmostEqual(float(shape.cop(*at)[0]), 5.0 / 1.6, 9)

    def test_between_the_rows_of_two_airflows(self) -> None:
        """5.0 kW at 500 m3/h and 5.5 at 900: 5.25 half-way; beyond them the nearest holds."""
        for airflow, capacity in ((700.0, 5250.0), (900.0, 5500.0), (1200.0, 5500.0)):
            shape = surface(self.air(), airflow=airflow)
            found = float(shape.capacity_at(np.array([0.0]), np.array([20.0]))[0])
            self.assertAlmostEqual(found, capacity, 9)

    def test_an_air_unit_is_compared_at_its_room(self) -> None:
        described = installation(
            rated=self.air(includes_defrost=False),
            circuits=(),
            air=(AirCircuit("air side", nominal_m3h=500.0),),
            unit=HeatPump(kind=UnitKind.AIR_TO_AIR_SINGLE),
        )
        n = 48 * 60
        readings = trace(
            60,
            power_unit=np.full(n, 1600.0),
            outdoor_temp=np.zeros(n),
            supply_air_temp=np.full(n, 45.0),
            return_air_temp=np.full(n, 20.0),
        )
        found = assess(described, readings).comparison
        self.assertAlmostEqual(found.rated_cop.value, 5.0 / 1.6, delta=0.01)
