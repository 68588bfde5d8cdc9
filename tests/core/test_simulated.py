"""Some random seasons of `make validate`: the truth within U, U not padded, the verdict right.

Houses, weather, units and meters are drawn at random; meters stay within the limits of their
class, which is what the core assumes and all that it assumes of them.
"""

from concurrent.futures import ThreadPoolExecutor
from unittest import TestCase

import numpy as np

from ember.comparison.performance_ratio import VerdictKind
from validation.trust import season

SEASONS = 15
COVERED = 0.93  # share of truths within U (k = 2) that is asked for
NOT_PADDED = 0.15  # least median of |error| ÷ U


class RandomSeasons(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        with ThreadPoolExecutor(2) as pool:
            cls.healthy = list(pool.map(season, range(SEASONS)))
            cls.faulty = list(pool.map(lambda seed: season(seed, cop_factor=0.8), range(SEASONS)))

    def errors(self):
        """Error ÷ U of heat, electricity and SPF at the widest level of every season."""
        found = {"heat": [], "electricity": [], "spf": []}
        for done, assessment, known in (*self.healthy, *self.faulty):
            main = assessment.main
            heat = done.truth_heat(known)
            electricity = done.truth_electricity(main.level.value, known)
            for name, mine, truth in (
                ("heat", main.heat, heat),
                ("electricity", main.electricity, electricity),
                ("spf", main.cop, heat / electricity),
            ):
                found[name].append((mine.value - truth) / mine.U)
        return {name: np.array(values) for name, values in found.items()}

    def test_the_truth_lies_within_the_stated_uncertainty(self) -> None:
        for name, errors in self.errors().items():
            with self.subTest(name):
                self.assertEqual(len(errors), 2 * SEASONS)
                self.assertGreaterEqual(np.mean(np.abs(errors) <= 1), COVERED)

    def test_the_uncertainty_is_not_padded(self) -> None:
        for name, errors in self.errors().items():
            with self.subTest(name):
                self.assertGreater(np.median(np.abs(errors)), NOT_PADDED)

    def test_no_healthy_unit_is_accused_nor_praised_beyond_measure(self) -> None:
        kinds = [assessment.verdict.kind for _, assessment, _ in self.healthy]
        allowed = {VerdictKind.AS_RATED, VerdictKind.WIDE_LIMITS, VerdictKind.WATCH}
        self.assertLessEqual(set(kinds), allowed)
        self.assertLessEqual(kinds.count(VerdictKind.WATCH), 0.1 * SEASONS)

    def test_no_unit_twenty_percent_below_is_called_as_rated(self) -> None:
        """Below rated where U allows it, watch where it does not (a heat meter of class 2 or 3 in
        service proves a fifth in about half of the cases)."""
        kinds = [assessment.verdict.kind for _, assessment, _ in self.faulty]
        allowed = {VerdictKind.BELOW_RATED, VerdictKind.WATCH, VerdictKind.WIDE_LIMITS}
        self.assertLessEqual(set(kinds), allowed)
        self.assertLessEqual(kinds.count(VerdictKind.WIDE_LIMITS), 0.1 * SEASONS)
        self.assertGreaterEqual(kinds.count(VerdictKind.BELOW_RATED), 0.3 * SEASONS)

    def test_what_lies_beyond_any_doubt_is_named(self) -> None:
        """At 35 % below, twice U still stays under the limit: every one is below rated."""
        for seed in range(6):
            _, assessment, _ = season(seed, cop_factor=0.65)
            self.assertLess(assessment.comparison.ratio.U, 0.125)
            self.assertEqual(assessment.verdict.kind, VerdictKind.BELOW_RATED, seed)

    def test_never_a_cop_where_sensors_are_swapped(self) -> None:
        for seed in range(5):
            _, assessment, _ = season(seed, swapped=True)
            for figures in (assessment.total, *assessment.months):
                for reckoning in figures.reckonings:
                    self.assertIsNone(reckoning.cop)
            self.assertEqual(assessment.verdict.kind, VerdictKind.NONE)
