"""A table in a house before anything is logged, against sums written out by hand."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from ember.assessment.assess import assess
from ember.description.declared import Climate
from ember.description.house import Built, CurvePoint, Emitters, House, SetCurve
from ember.description.installation import RatedPoint, RatedTable, TableKind
from ember.rated import by_table_alone, climate_weather, for_house, hourly_weather, need_of, scop
from ember.rated.climates import VARIABLE
from ember.rated.design import asked_flow
from tests.core.helpers import installation, steady

SHARE = 0.4
AVERAGE = climate_weather(Climate.AVERAGE)
EN_55 = tuple(CurvePoint(float(t), float(f)) for t, f in VARIABLE[Climate.AVERAGE][55])
HOUSE = House(heat_loss_kw=8.0, design_outdoor=-10.0, curve=SetCurve(EN_55), floor_area_m2=120.0)


def table(capacity: float | None = 6.0, cop: bool = True, **changes) -> RatedTable:
    """The same share of Carnot and the same capacity everywhere."""
    points = tuple(
        RatedPoint(o, f, capacity, SHARE * (f + 273.15) / max(f - o, 10.0) if cop else None)
        for o in (-25.0, 16.0)
        for f in (20.0, 66.0)
    )
    return RatedTable(points=points, **changes)


class Season(TestCase):
    def test_in_a_reference_climate_it_is_the_bin_sum_of_en_14825(self) -> None:
        """With the need and the curve of EN 14825 (from memory), the expected SPF is SCOPon."""
        found = for_house(table(), HOUSE, AVERAGE, "t")
        same = scop(table(), Climate.AVERAGE, 55, design_load_kw=8.0)
        self.assertAlmostEqual(found.spf.value, same.on, 12)
        # 2066 equivalent hours of the average climate (EN 14825, from memory).
        self.assertAlmostEqual(found.heat.value / 8.0, 2066, delta=5)

    def test_heaters_make_up_what_is_lacking(self) -> None:
        found = for_house(table(), HOUSE, AVERAGE, "t")
        by_hand = sum(
            max(8.0 * (16 - t) / 26 - 6.0, 0.0) * h
            for t, h in zip(AVERAGE.outdoor, AVERAGE.hours, strict=True)
        )
        self.assertAlmostEqual(found.makeup_energy.value, by_hand, 9)
        self.assertAlmostEqual(found.makeup, 2.0, 12)

    def test_balance_point(self) -> None:
        """8·(16 − T)/26 = 6 at T = −3.5."""
        found = for_house(table(), HOUSE, AVERAGE, "t")
        self.assertAlmostEqual(found.balance, -3.5, 9)
        self.assertAlmostEqual(found.balance_kw, 6.0, 9)
        self.assertIsNone(for_house(table(20.0), HOUSE, AVERAGE, "t").balance)

    def test_below_its_limit_heaters_carry_all(self) -> None:
        found = for_house(table(20.0), HOUSE, AVERAGE, "t", low_limit=-5.0)
        cold = [b for b in found.bins if b.outdoor < -5]
        self.assertTrue(all(b.electricity == b.heat and b.backup == b.load for b in cold))
        self.assertAlmostEqual(found.makeup_energy.value, sum(b.heat for b in cold), 9)
        self.assertIn(0.0, [at.capacity for at in found.lines])
        own = for_house(table(20.0, low_outdoor_limit=-5.0), HOUSE, AVERAGE, "t")
        self.assertEqual(own.makeup_energy.value, found.makeup_energy.value)

    def test_u_holds_the_need_and_the_flow(self) -> None:
        """15 % more need gives 15 % more heat: rectangular, k = 2."""
        found = for_house(table(20.0), HOUSE, AVERAGE, "t")
        self.assertAlmostEqual(found.heat.U / found.heat.value, 2 * 0.15 / 3**0.5, 9)
        sources = {part.source for part in found.spf.budget}
        self.assertLessEqual({"flow temperature", "rated table"}, sources)
        vague = replace(HOUSE, curve=None, design_flow=55.0)
        self.assertGreater(for_house(table(20.0), vague, AVERAGE, "t").spf.U, found.spf.U)

    def test_capacity_kept_in_the_cold(self) -> None:
        points = tuple(
            RatedPoint(o, f, 6.0 + 0.1 * o, 3.0) for o in (-15.0, 15.0) for f in (25.0, 60.0)
        )
        found = for_house(RatedTable(points=points), HOUSE, AVERAGE, "t")
        self.assertAlmostEqual(found.kept, 5.0 / 6.7, 9)


class Halves(TestCase):
    def test_capacity_alone(self) -> None:
        found = for_house(table(cop=False), HOUSE, AVERAGE, "t")
        self.assertIsNone(found.spf)
        self.assertIsNone(found.electricity)
        self.assertAlmostEqual(found.balance, -3.5, 9)
        self.assertGreater(found.makeup_energy.value, 0)
        self.assertTrue(any("no COP" in note for note in found.notes))

    def test_cop_alone(self) -> None:
        found = for_house(table(None), HOUSE, AVERAGE, "t")
        self.assertIsNone(found.makeup_energy)
        self.assertIsNone(found.balance)
        by_hand = sum(
            8.0
            * (16 - b.outdoor)
            / 26
            * b.hours
            / (SHARE * (b.flow + 273.15) / (b.flow - b.outdoor))
            for b in found.bins
        )
        self.assertAlmostEqual(found.electricity.value, by_hand, delta=0.01 * by_hand)

    def test_running_is_compared_only_with_a_cop(self) -> None:
        """A table of capacities promises no COP; one of COPs at two levels cannot be matched by
        heat, so its level in the middle holds."""
        plain = installation(rated=table(cop=False))
        self.assertIn("no COP", assess(plain, steady()).verdict.sentence)
        points = tuple(
            RatedPoint(o, f, None, c, speed)
            for o in (-15.0, 15.0)
            for f in (25.0, 60.0)
            for speed, c in (("50 %", 4.0), ("100 %", 3.0))
        )
        both = installation(rated=RatedTable(points=points))
        found = assess(both, steady(hours=8.0))
        self.assertAlmostEqual(found.comparison.rated_cop.value, 3.0, 6)

    def test_a_table_that_spans_nothing_says_nothing(self) -> None:
        one = RatedTable(points=(RatedPoint(2.0, 35.0, 5.0, 3.0), RatedPoint(2.0, 45.0, 5.0, 2.6)))
        self.assertIsNone(by_table_alone(one, HOUSE, None, None))
        said = by_table_alone(table(), HOUSE, None, None)
        self.assertIn("expected SPF", said)
        self.assertIn("balance point -3.5 °C", said)

    def test_what_is_not_described_is_asked_for(self) -> None:
        bare = for_house(table(), House(), AVERAGE, "t")
        self.assertIn("heat loss is not described", str(bare.reason))
        lacking = for_house(table(), House(heat_loss_kw=8.0), AVERAGE, "t")
        self.assertIn("flow temperature is not known", str(lacking.reason))


class Air(TestCase):
    def test_supply_temperature(self) -> None:
        """room + capacity ÷ (ρ·c·V̇): 4 kW in 600 m³/h of 20 °C air (ρ 1.204 kg/m³, ASHRAE
        Fundamentals) is 19.8 K warmer."""
        points = tuple(RatedPoint(o, f, 4.0, 3.0) for o in (-15.0, 15.0) for f in (18.0, 22.0))
        one = RatedTable(points=points, kind=TableKind.AIR)
        house = House(heat_loss_kw=5.0, design_outdoor=-10.0)
        found = for_house(one, house, AVERAGE, "t", airflow=600.0)
        rise = 4000 / (1.204 * 1006 * 600 / 3600)
        at = next(line for line in found.lines if line.outdoor == 0.0)
        self.assertAlmostEqual(at.supply, 20 + rise, delta=0.05)
        self.assertEqual(at.flow, 20.0)
        self.assertIsNone(for_house(one, house, AVERAGE, "t").lines[0].supply)

    def test_ground_source_has_its_brine(self) -> None:
        found = for_house(table(kind=TableKind.GROUND), HOUSE, AVERAGE, "t")
        warm = next(b for b in found.bins if b.outdoor == -10.0)
        self.assertAlmostEqual(warm.cop, SHARE * (55 + 273.15) / 55, 6)


class TheHouse(TestCase):
    def test_need_by_age_and_leakage(self) -> None:
        house = House(
            floor_area_m2=100.0, built=Built.TO_1980, design_outdoor=-10.0, airtightness_ach50=6.0
        )
        need = need_of(house, AVERAGE)
        self.assertEqual(need.watts, 9500.0)
        self.assertEqual(need.limit, 0.40)
        self.assertAlmostEqual(need.leakage, 6 / 20 * 250 * 0.335 * 30 / 1000, 9)
        self.assertEqual(need.per_area, 95.0)

    def test_emitters_stand_in_for_a_design_flow(self) -> None:
        """EN 442: emitters give by the power 1.3 of their excess."""
        cold = np.array([-10.0, 5.0])
        radiators = asked_flow(House(emitters=Emitters.RADIATORS), cold, -10.0)
        self.assertAlmostEqual(radiators.flow[0], 55.0, 9)
        self.assertAlmostEqual(radiators.flow[1], 20 + 35 * 0.5 ** (1 / 1.3), 9)
        self.assertIsNone(asked_flow(House(), cold, -10.0))

    def test_set_curve(self) -> None:
        points = SetCurve((CurvePoint(15.0, 25.0), CurvePoint(-10.0, 50.0)), highest=45.0)
        at = np.array([-20.0, -5.0, 2.5, 20.0])
        np.testing.assert_allclose(points.flow_at(at, 20.0), [45.0, 45.0, 37.5, 25.0])
        sloped = SetCurve(slope=0.8, offset=3.0, lowest=25.0)
        np.testing.assert_allclose(sloped.flow_at(np.array([0.0, 20.0]), 20.0), [39.0, 25.0])
        for wrong in (
            {},
            {"points": (CurvePoint(0.0, 30.0),)},
            {"points": points.points, "slope": 1.0},
        ):
            with self.assertRaises(ValidationError):
                SetCurve(**wrong)

    def test_weather_of_hours(self) -> None:
        temps = np.concatenate([np.full(4380, -2.3), np.full(4380, 8.6), [np.nan] * 100])
        weather = hourly_weather("w", temps)
        self.assertAlmostEqual(float(weather.hours.sum()), 8760.0, 6)
        np.testing.assert_allclose(weather.outdoor, [-2.5, 8.5])
        self.assertAlmostEqual(weather.design, -2.3, 6)
