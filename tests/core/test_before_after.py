"""A change by two signatures: invented days whose saving is known, the truth of the stand-in."""

from unittest import TestCase

import numpy as np

from ember.basis.codes import ReasonCode
from ember.basis.series import Floats
from ember.messages import NotAvailable
from ember.season import Worth, before_after
from ember.season.before_after import BeforeAfter, Changed, days_seen
from ember.season.daily import in_weather
from ember.season.season import SeasonSeen
from ember.season.signature import Signature
from tests.core.helpers import season_of_days
from validation.savings import KINDS, UNCHANGED, savings

YEAR = 9 - 11 * np.cos(2 * np.pi * np.arange(365) / 365)


def stretch(seed: int, first: int, days: int, slope: float, warmer: float = 0.0) -> SeasonSeen:
    """Invented days without meters: 12 kWh and so much a kelvin below 15.3 °C, scatter akin."""
    rng = np.random.default_rng(seed)
    noise = rng.normal(0, 5, days)
    for k in range(1, days):
        noise[k] += 0.5 * noise[k - 1]
    outdoor = YEAR[(first + np.arange(days)) % 365] + warmer + rng.normal(0, 3, days)
    energy = 12 + slope * np.maximum(15.3 - outdoor, 0) + noise
    return season_of_days(np.arange(days) * 86_400.0, outdoor, energy)


def saved(found: BeforeAfter, one: SeasonSeen, other: SeasonSeen, kwh_k: float) -> float:
    """What is truly saved on the days that both saw [kWh a year]."""
    inside = np.ones(365, np.bool_)
    for stretch_ in (one, other):
        assert stretch_.daily is not None
        low, high = np.quantile(stretch_.daily.outdoor, [0.05, 0.95])
        inside &= (low <= YEAR) & (high >= YEAR)
    assert abs(inside.mean() - found.seen) < 1e-12
    return float((kwh_k * np.maximum(15.3 - YEAR[inside], 0)).sum())


def told(found: BeforeAfter) -> Changed:
    assert isinstance(found.electricity, Changed)
    return found.electricity


class KnownSavings(TestCase):
    """A second winter that is 2 K milder, 100 seeds."""

    def test_the_saving_lies_within_its_interval(self) -> None:
        away = []
        for seed in range(100):
            before, after = stretch(seed, 270, 220, 4.0), stretch(seed + 500, 270, 220, 3.5, 2.0)
            found = before_after(before, after, YEAR)
            mine, truth = told(found), saved(found, before, after, 0.5)
            away.append((mine.saved.value - truth) / (1.96 / 2 * mine.saved.U))
            self.assertAlmostEqual(mine.share, mine.saved.value / mine.before.value)
        away = np.abs(np.array(away))
        self.assertGreaterEqual((away <= 1).mean(), 0.9)
        self.assertGreater(np.median(away), 0.15)  # and it is not padded

    def test_a_milder_winter_is_no_saving(self) -> None:
        said = [
            told(
                before_after(
                    stretch(seed, 270, 220, 4.0), stretch(seed + 500, 270, 220, 4.0, 2.0), YEAR
                )
            ).worth
            for seed in range(100)
        ]
        self.assertLessEqual(sum(one != Worth.NOT_TOLD for one in said), 10)
        plain = told(before_after(stretch(1, 270, 220, 4.0), stretch(2, 270, 220, 3.0), YEAR))
        self.assertEqual(plain.worth, Worth.SAVED)
        back = told(before_after(stretch(1, 270, 220, 3.0), stretch(2, 270, 220, 4.0), YEAR))
        self.assertEqual(back.worth, Worth.USED_MORE)
        self.assertIsNone(back.fractional)

    def test_the_fractional_uncertainty_is_that_of_the_guideline(self) -> None:
        """By hand, for n = 220 days before and m = 220 after."""
        before, after = stretch(3, 270, 220, 4.0), stretch(503, 270, 220, 3.5)
        mine = told(before_after(before, after, YEAR))
        fit = before.electricity
        assert not isinstance(fit, NotAvailable)
        own = 220 * (1 - fit.kinship) / (1 + fit.kinship)
        hand = 1.645 * 1.26 * fit.cv / mine.share * np.sqrt(220 / own * (1 + 2 / own) / 220)
        self.assertAlmostEqual(mine.fractional or 0, hand, 9)

    def test_heat_and_electricity_do_not_cancel_in_the_cop(self) -> None:
        """By hand: the relative errors of both fits in quadrature (GUM 5.1.2)."""
        found = before_after(stretch(3, 270, 220, 4.0), stretch(503, 270, 220, 3.5), YEAR)
        assert isinstance(found.heat, Changed) and found.cop_before is not None
        heat, used = found.heat.before, told(found).before
        hand = found.cop_before.value * np.hypot(heat.u / heat.value, used.u / used.value)
        self.assertAlmostEqual(found.cop_before.u, hand, 9)
        self.assertGreater(hand, 0.005)

    def test_another_season_is_not_compared(self) -> None:
        found = before_after(stretch(1, 330, 90, 4.0), stretch(2, 150, 90, 4.0), YEAR)
        assert isinstance(found.electricity, NotAvailable)
        self.assertEqual(found.electricity.reason.code, ReasonCode.WEATHER_NOT_SEEN)


def bent(outdoor: Floats) -> Floats:
    """What a unit takes on a day whose COP falls with the cold, invented [kWh/d]."""
    cold = np.maximum(15.3 - outdoor, 0)
    return 8 + 0.5 * cold + 0.06 * cold**2


def bent_stretch(seed: int, first: int, days: int) -> SeasonSeen:
    """Days of it, with scatter."""
    rng = np.random.default_rng(seed)
    outdoor = YEAR[(first + np.arange(days)) % 365] + rng.normal(0, 3, days)
    energy = bent(outdoor) + rng.normal(0, 0.6, days)
    return season_of_days(np.arange(days) * 86_400.0, outdoor, energy)


class Bent(TestCase):
    """A unit's electricity bends with the cold; an autumn and a spring lie differently along it."""

    def test_nothing_was_changed_between_autumn_and_spring(self) -> None:
        said, stated, lines = [], [], []
        for seed in range(40):
            autumn, spring = bent_stretch(seed, 255, 140), bent_stretch(seed + 500, 28, 180)
            found = before_after(autumn, spring, YEAR).electricity
            if isinstance(found, NotAvailable):
                continue  # too little weather that both saw
            weather = YEAR[days_seen(autumn, spring, YEAR)]
            said.append(found.worth)
            stated.append(found.saved.value)
            one, other = (
                fit.at(weather).sum() if isinstance(fit := side.electricity, Signature) else np.nan
                for side in (autumn, spring)
            )
            lines.append(one - other)
        self.assertGreater(len(said), 30)
        self.assertLessEqual(sum(one != Worth.NOT_TOLD for one in said), 2)
        # The straight lines alone are off to one side; little of that is left.
        self.assertLess(np.mean(lines), -20.0)
        self.assertLess(abs(np.mean(stated)), 0.4 * abs(np.mean(lines)))

    def test_what_is_laid_over_its_own_weather_is_what_was_used(self) -> None:
        """Against a plain mean of the days within 1 K of each day."""
        autumn = bent_stretch(1, 270, 120)
        fit, daily = autumn.electricity, autumn.daily
        assert isinstance(fit, Signature) and daily is not None
        at = np.array([2.0, 5.0, 9.0])
        days, error = in_weather(daily, autumn.used, fit, "electricity", at)
        by_hand, counts = [], np.zeros(120)
        for one in at:
            near = np.abs(daily.outdoor - one) <= 1.0
            self.assertGreater(near.sum(), 4)
            by_hand.append(
                fit.at(one) + np.mean(daily.electricity[near] - fit.at(daily.outdoor[near]))
            )
            counts += near / near.sum()
        np.testing.assert_allclose(days, by_hand)
        kin = min(max(fit.kinship, 0.0), 0.9)
        hand = fit.scatter * np.sqrt((counts**2).sum() * (1 + kin) / (1 - kin))
        self.assertAlmostEqual(error, hand)

    def test_far_from_its_own_days_the_line_alone_tells(self) -> None:
        autumn = bent_stretch(1, 270, 120)
        fit, daily = autumn.electricity, autumn.daily
        assert isinstance(fit, Signature) and daily is not None
        far = np.array([-40.0, 40.0])
        days, error = in_weather(daily, autumn.used, fit, "electricity", far)
        np.testing.assert_array_equal(days, fit.at(np.array([-40.0, 40.0])))
        self.assertEqual(error, 0.0)


class StandIn(TestCase):
    def test_a_mended_unit_whatever_else_was_another(self) -> None:
        """A unit at 80 % of its table, mended; the truth of the plant on the days compared. The
        second winter is the same, milder, with colder rooms, or with two weeks away."""
        found = savings(0)
        self.assertEqual(len(found), len(KINDS) + len(UNCHANGED))
        for one in found:
            assert one.away is not None
            self.assertLessEqual(abs(one.away), 1.0, one)
            if one.kind in UNCHANGED:
                self.assertEqual(one.said, Worth.NOT_TOLD, one)
                continue
            self.assertTrue(0.17 < one.share < 0.2, one)
            self.assertEqual(one.said, Worth.SAVED, one)
