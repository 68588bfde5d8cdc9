"""One healthy plant of each usual kind, against its truth; `make validate` does three hundred
(docs/validation.md)."""

from unittest import TestCase

import numpy as np

from stand_ins.usual import USUAL
from validation.rates import bound, rates
from validation.usual import Seen, seen


class UsualPlants(TestCase):
    plants: list[Seen]

    @classmethod
    def setUpClass(cls) -> None:
        cls.plants = [seen(seed, days=60) for seed in range(len(USUAL))]

    def test_every_kind_is_there(self) -> None:
        self.assertEqual({p.kind for p in self.plants}, set(USUAL))

    def test_nobody_is_accused_and_everybody_gets_a_verdict(self) -> None:
        for plant in self.plants:
            self.assertEqual((plant.doubts, plant.actions), ((), ()), plant.kind)
            self.assertIn(plant.verdict, ("as rated", "as rated within wide limits"), plant.kind)

    def test_starts(self) -> None:
        """A start is standstill to running: within 2 % or 2."""
        for plant in self.plants:
            true, found = plant.starts
            self.assertLessEqual(abs(true - found), max(2, 0.02 * true), plant.kind)

    def test_defrosts(self) -> None:
        for plant in self.plants:
            true, hit, false = plant.defrosts
            if plant.kind == "five-minute readings":
                continue  # what they show is said, no more
            least, most = (0.95, 0.05) if plant.kind == "noisy sensors" else (0.98, 0.02)
            self.assertGreaterEqual(hit, least * true, plant.kind)
            self.assertLessEqual(false, most * true, plant.kind)

    def test_hot_water_without_a_valve(self) -> None:
        for plant in self.plants:
            if plant.hot_water is not None:
                self.assertAlmostEqual(plant.hot_water, 1.0, delta=0.1, msg=plant.kind)

    def test_the_ratio_at_the_one_meter(self) -> None:
        """Against the unit's own true heat and electricity in settled heating."""
        ratios = [p.ratio for p in self.plants if p.ratio is not None]
        self.assertEqual(len(ratios), len(USUAL))
        self.assertEqual({p.level for p in self.plants}, {"H4"})
        away = np.array([abs(v / true - 1) for v, _, true in ratios])
        self.assertLessEqual(float(np.median(away)), 0.03)
        self.assertTrue(all(abs(v - true) <= U for v, U, true in ratios), ratios)


class UnderTheSun(TestCase):
    """Spring, and windows: rooms are warm in the sun and as asked on dull days, runs are short."""

    def test_nobody_is_accused(self) -> None:
        for seed in (2, 3, 11, 23):  # at three of them the room was said not to be held
            plant = seen(seed, sun=True)
            with self.subTest(plant.kind):
                self.assertEqual((plant.doubts, plant.actions), ((), ()))
                self.assertEqual(plant.verdict, "as rated")
                assert plant.ratio is not None
                ratio, U, true = plant.ratio
                self.assertLessEqual(abs(ratio - true), U)


class Rates(TestCase):
    def test_the_bound_is_that_of_three(self) -> None:
        """None of 300: at most 1 % (rule of three, 3/n; Clopper and Pearson: 1 − 0.05^(1/n))."""
        self.assertAlmostEqual(bound(0, 300), 1 - 0.05 ** (1 / 300), 6)
        self.assertAlmostEqual(bound(0, 300), 3 / 300, 3)

    def test_accused_and_never(self) -> None:
        said = rates([["gaps"], [], [], []], [[], ["short cycling"], [], ["short cycling"]])
        self.assertTrue(any("check: gaps | 1 | 4 | 25.0%" in line for line in said))
        self.assertTrue(any("rule: short cycling | 2 | 4" in line for line in said))
        self.assertIn("Never, of 4", said[-1])
        self.assertIn("pair offset", said[-1])
