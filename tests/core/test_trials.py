"""Trials: schedules by count, days needed by simulation, results whose difference is known."""

from datetime import date
from unittest import TestCase

import numpy as np
import statsmodels.api as sm

from ember.basis.codes import ReasonCode
from ember.basis.errors import DescriptionError
from ember.messages import NotAvailable
from ember.season import Worth
from ember.season.season import SeasonSeen
from ember.season.signature import Signature, kinship_of, lags_of
from ember.season.trial import TrialPlan, days_needed, schedule, trial_result
from tests.core.test_before_after import stretch

FIRST = date(2026, 11, 1)


def tried(seed: int, plan: TrialPlan, less: float) -> tuple[SeasonSeen, list[str | None]]:
    """Days of a trial in which B takes so much less [kWh/d]."""
    days = schedule(plan)
    seen = stretch(seed, 305, plan.days, 4.0)
    assert seen.daily is not None
    with_b = np.array([one.setting == "B" for one in days])
    seen.daily.electricity[with_b] -= less  # heat is the same array: it falls too
    return seen, [one.setting if one.counts else None for one in days]


class Schedule(TestCase):
    def test_blocks_are_balanced_and_their_first_days_left_out(self) -> None:
        plan = TrialPlan(FIRST, 56, 7, 2, 3)
        days = schedule(plan)
        self.assertEqual(len(days), 56)
        self.assertEqual(sum(one.setting == "A" for one in days), 28)
        for k in range(0, 56, 14):  # in each pair both
            self.assertEqual({one.setting for one in days[k : k + 14]}, {"A", "B"})
        for k, one in enumerate(days):
            before = days[k - 1] if k else None
            self.assertEqual(one.begins, before is None or before.setting != one.setting)
            if one.begins:
                self.assertFalse(one.counts)
        self.assertEqual(days[0].day, FIRST)
        self.assertEqual(days, schedule(plan))  # the same again from the same seed
        orders = {
            tuple(d.setting for d in schedule(TrialPlan(FIRST, 56, 7, 2, s))) for s in range(9)
        }
        self.assertGreater(len(orders), 3)

    def test_what_is_none_is_refused_at_its_field(self) -> None:
        for changed, where in (((0, 0), "block"), ((7, 7), "carry"), ((40, 1), "days")):
            with self.assertRaises(DescriptionError) as refused:
                TrialPlan(FIRST, 56, *changed, 1)
            self.assertEqual(refused.exception.where, where)


class Needed(TestCase):
    def test_that_many_days_show_it_in_four_of_five_trials(self) -> None:
        """80 % power, by 200 simulated trials of a difference of 12 %."""
        so_far = stretch(7, 305, 120, 4.0)
        days = days_needed(so_far, 0.12, 3, 1)
        assert isinstance(days, int) and so_far.daily is not None
        self.assertEqual(days % 6, 0)
        less = 0.12 * float(so_far.daily.electricity.mean())
        shown = 0
        for seed in range(200):
            result = trial_result(*tried(seed, TrialPlan(FIRST, days, 3, 1, seed), less))
            assert not isinstance(result, NotAvailable)
            shown += result.worth == Worth.SAVED
        self.assertGreater(shown / 200, 0.74)
        self.assertLess(shown / 200, 0.995)

    def test_half_the_difference_asks_for_about_four_times_the_days(self) -> None:
        so_far = stretch(7, 305, 120, 4.0)
        more, fewer = (days_needed(so_far, share, 3, 1) for share in (0.03, 0.06))
        assert isinstance(more, int) and isinstance(fewer, int)
        self.assertAlmostEqual(more / fewer, 4, delta=0.4)

    def test_what_cannot_be_tried_is_said(self) -> None:
        """A tenth of a percent would take decades; less is refused, as is what is no number."""
        so_far = stretch(7, 305, 120, 4.0)
        found = days_needed(so_far, 0.001, 3, 1)
        assert isinstance(found, NotAvailable)
        self.assertEqual(found.reason.code, ReasonCode.TRIAL_TOO_LONG)
        for share in (0.0, 1e-300, 2.0, float("nan")):
            with self.assertRaisesRegex(DescriptionError, "share"):
                days_needed(so_far, share, 3, 1)


class Result(TestCase):
    def test_the_difference_lies_within_its_interval(self) -> None:
        away = []
        for seed in range(300):
            result = trial_result(*tried(seed, TrialPlan(FIRST, 84, 7, 2, seed), 4.0))
            assert not isinstance(result, NotAvailable)
            away.append((result.less.value - 4.0) / (1.96 / 2 * result.less.U))
            self.assertEqual(result.heat_less, result.less)
        away = np.abs(np.array(away))
        self.assertGreaterEqual((away <= 1).mean(), 0.9)
        self.assertGreater(np.median(away), 0.15)

    def test_settings_that_are_alike_are_not_told_apart(self) -> None:
        said = [
            trial_result(*tried(seed, TrialPlan(FIRST, 84, 7, 2, seed), 0.0)).worth
            for seed in range(100)
        ]
        self.assertLessEqual(sum(one != Worth.NOT_TOLD for one in said), 11)

    def test_against_statsmodels(self) -> None:
        """The difference and its HAC error by statsmodels 0.14."""
        seen, setting = tried(3, TrialPlan(FIRST, 84, 7, 2, 3), 4.0)
        assert seen.daily is not None and isinstance(seen.electricity, Signature)
        use = np.array([one is not None for one in setting])
        with_b = np.array([one == "B" for one in setting])[use]
        below = np.maximum(seen.electricity.knee - seen.daily.outdoor[use], 0)
        by = np.column_stack([np.ones(use.sum()), below, with_b])
        plain = sm.OLS(seen.daily.electricity[use], by).fit()
        lags = lags_of(kinship_of(plain.resid), int(use.sum()))
        theirs = plain.get_robustcov_results("HAC", maxlags=lags, use_correction=True)
        result = trial_result(seen, setting)
        assert not isinstance(result, NotAvailable)
        self.assertAlmostEqual(result.less.value, -plain.params[2], 9)
        self.assertGreater(result.less.u, theirs.bse[2])
        self.assertLess(result.less.u, 1.25 * theirs.bse[2])

    def test_too_few_days_say_nothing(self) -> None:
        seen, setting = tried(1, TrialPlan(FIRST, 42, 7, 2, 1), 9.0)
        few = [one if k < 12 else None for k, one in enumerate(setting)]
        result = trial_result(seen, few)
        assert isinstance(result, NotAvailable)
        self.assertEqual(result.reason.code, ReasonCode.TOO_FEW_DAYS)

    def test_a_room_that_is_warmer_is_said(self) -> None:
        seen, setting = tried(1, TrialPlan(FIRST, 84, 7, 2, 1), 3.0)
        room = np.array([20.0 + (one == "B") * 0.5 for one in setting])
        result = trial_result(seen, setting, room)
        assert not isinstance(result, NotAvailable)
        self.assertAlmostEqual(result.room or 0, 0.5)
