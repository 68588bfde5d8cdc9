"""Avoided energy, days of the same weather, payback: invented days whose saving is known."""

from unittest import TestCase

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate, UncertaintyComponent, exact
from ember.cost import payback, payback_by_paths
from ember.messages import NotAvailable, Source
from ember.readings.bills import in_weather
from ember.season import Worth, avoided, days_alike, hybrid
from ember.season.season import SeasonSeen
from tests.core.test_before_after import stretch


class ActualPeriod(TestCase):
    """A second winter that is 1 K milder, and takes half a kWh less a kelvin."""

    def test_what_was_avoided_lies_within_its_interval(self) -> None:
        away = []
        for seed in range(400):
            before = stretch(seed, 270, 220, 4.0)
            after = stretch(seed + 5000, 270, 220, 3.5, 1.0)
            mine = avoided(before, after, "electricity")
            assert not isinstance(mine, NotAvailable)
            truth = self.truth(before, after, 0.5, mine.days)
            away.append((mine.avoided.value - truth) / (1.96 / 2 * mine.avoided.U))
            self.assertEqual(mine.days + mine.outside, 220)
        away = np.abs(np.array(away))
        self.assertGreaterEqual((away <= 1).mean(), 0.9)
        self.assertGreater(np.median(away), 0.15)  # and it is not padded

    def truth(self, before: SeasonSeen, after: SeasonSeen, kwh_k: float, days: int) -> float:
        assert before.daily is not None and after.daily is not None
        low, high = np.quantile(before.daily.outdoor, [0.05, 0.95])
        outdoor = after.daily.outdoor
        inside = (outdoor >= low) & (outdoor <= high)
        self.assertEqual(int(inside.sum()), days)
        return float((kwh_k * np.maximum(15.3 - outdoor[inside], 0)).sum())

    def test_a_milder_winter_avoids_nothing(self) -> None:
        said = []
        for seed in range(100):
            before, after = stretch(seed, 270, 220, 4.0), stretch(seed + 500, 270, 220, 4.0, 2.0)
            mine = avoided(before, after, "heat")
            assert not isinstance(mine, NotAvailable)
            said.append(mine.worth)
        self.assertLessEqual(sum(one != Worth.NOT_TOLD for one in said), 10)

    def test_weather_that_was_not_seen_is_not_counted(self) -> None:
        """A winter tells nothing of a summer."""
        mine = avoided(stretch(1, 330, 90, 4.0), stretch(2, 170, 60, 4.0), "electricity")
        self.assertIsInstance(mine, NotAvailable)


class Alike(TestCase):
    def test_pairs_by_hand(self) -> None:
        """By brute force: no two days that are left are nearer than the last pair shown."""
        before, after = stretch(1, 300, 60, 4.0), stretch(2, 310, 60, 3.5)
        assert before.daily is not None and after.daily is not None
        pairs = days_alike(before, after)
        self.assertEqual(len(pairs), 12)
        apart = [abs(a - b) for a, b in (pair.outdoor for pair in pairs)]
        self.assertEqual(apart, sorted(apart))
        self.assertLessEqual(max(apart), 0.5)
        starts = [pair.start for pair in pairs]
        self.assertEqual(len({a for a, _ in starts}), 12)
        self.assertEqual(len({b for _, b in starts}), 12)
        free = [
            abs(x - y)
            for a, x in zip(before.daily.start, before.daily.outdoor, strict=True)
            for b, y in zip(after.daily.start, after.daily.outdoor, strict=True)
            if a not in {s for s, _ in starts} and b not in {s for _, s in starts}
        ]
        self.assertGreaterEqual(min(free), max(apart))
        day = int(pairs[0].start[0] // 86_400)
        self.assertEqual(pairs[0].electricity[0], before.daily.electricity[day])


class PaidBack(TestCase):
    def test_by_hand(self) -> None:
        """1,000 at 250 ± 50 a year: 4 years; at 201 (95 %) 4.975, at 299 3.344."""
        saved = Estimate(
            250.0, "EUR", (UncertaintyComponent(Source(SourceCode.DAYS_SCATTER), 25.0),)
        )
        found = payback(1000.0, saved)
        self.assertEqual(found.years, 4.0)
        self.assertAlmostEqual(found.latest or 0, 1000 / (250 - 49), 9)
        self.assertAlmostEqual(found.soonest or 0, 1000 / (250 + 49), 9)

    def test_with_prices_that_rise(self) -> None:
        """100 + 110 + 121 = 331 after three years; 400 takes 69 of the 133.1 of the fourth."""
        found = payback(400.0, exact(100.0, "EUR"), rise=0.1)
        self.assertAlmostEqual(found.years or 0, 3 + 69 / 133.1, 9)

    def test_what_saves_nothing_is_never_paid_back(self) -> None:
        self.assertIsNone(payback(10.0, exact(0.0, "EUR")).years)
        self.assertIsNone(payback(400.0, exact(10.0, "EUR"), rise=-0.5).years)
        with self.assertRaisesRegex(DescriptionError, "price"):
            payback(-1.0, exact(1.0, "EUR"))

    def test_two_paths_by_hand(self) -> None:
        """300 that rise, 100 that fall: 200, then 330 − 90 = 240; 320 after one year and a half."""
        found = payback_by_paths(320.0, exact(100.0, "EUR"), exact(300.0, "EUR"), -0.1, 0.1)
        self.assertAlmostEqual(found.years or 0, 1 + 120 / 240, 9)


class Hybrids(TestCase):
    def test_the_colder_days_by_hand(self) -> None:
        seen = stretch(1, 270, 220, 4.0)
        assert seen.daily is not None
        found = hybrid(seen, 3.0, 0.08, 0.30, "EUR")
        assert not isinstance(found, NotAvailable)
        cold = seen.daily.outdoor < 3.0
        self.assertEqual(found.days, int(cold.sum()))
        self.assertAlmostEqual(found.heat, seen.daily.heat[cold].sum())
        by_hand = (seen.daily.electricity * 0.30 - seen.daily.heat * 0.08)[cold].sum()
        self.assertAlmostEqual(found.saved.value, by_hand)

    def test_a_bill_in_another_weather(self) -> None:
        """12,000 kWh, of them 2,000 of hot water; 2,500 degree-days then, 2,000 now: 10,000."""
        bill = Estimate(
            12_000.0, "kWh", (UncertaintyComponent(Source(SourceCode.EFFICIENCY_BEFORE), 500.0),)
        )
        found = in_weather(bill, 2_000.0, 2_500.0, 2_000.0)
        self.assertAlmostEqual(found.value, 10_000.0)
        self.assertAlmostEqual(found.U, 800.0)
