"""The whole road: periods, exports, and the demo systems against their truth."""

import json
import subprocess
import sys
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.assessment.export import to_json
from ember.boundary import Level
from tests.core.helpers import START, assessed, installation, simulated, steady


class Truth(TestCase):
    def test_healthy_and_below_rated_hold_the_truth_within_their_uncertainty(self) -> None:
        for key in ("as-rated", "below-rated"):
            done = simulated(key, days=60)
            found = assessed(key, days=60)
            for level, heat in (
                (Level.H2, done.truth_heat_pump()),
                (Level.H3, done.truth_heat()),
                (Level.H4, done.truth_heat()),
            ):
                reckoning = found.total.at(level)
                electricity = done.truth_electricity(level.value)
                for mine, truth in (
                    (reckoning.heat, heat),
                    (reckoning.electricity, electricity),
                    (reckoning.cop, heat / electricity),
                ):
                    self.assertLess(abs(mine.value - truth), mine.U, (key, level))

    def test_lines_of_the_sum_against_truth(self) -> None:
        done = simulated("as-rated", days=60)
        lines = {line.name: line.energy for line in assessed("as-rated", days=60).main.heat_lines}
        for name, truth in (("heating", "heating"), ("hot water", "hot_water")):
            true = float(done.run.sums[truth].sum()) / 3.6e6
            self.assertAlmostEqual(lines[name].value / true, 1.0, delta=0.05)
        self.assertLess(lines["defrost, taken back"].value, 0)

    def test_months_add_up_to_the_whole(self) -> None:
        found = assessed("as-rated", days=60)
        for k, whole in enumerate(found.total.reckonings):
            for side in ("heat", "electricity"):
                parts = sum(getattr(m.reckonings[k], side).value for m in found.months)
                self.assertAlmostEqual(parts, getattr(whole, side).value, places=6)
        money = sum(b.money.value for m in found.months for b in m.cost.bands)
        self.assertAlmostEqual(money, sum(b.money.value for b in found.total.cost.bands), 6)

    def test_the_same_seed_gives_the_same_log(self) -> None:
        one, other = simulated("air", days=3), simulated.__wrapped__("air", days=3)
        for name, values in one.columns.items():
            np.testing.assert_array_equal(values, other.columns[name])


class Periods(TestCase):
    def test_any_period(self) -> None:
        readings = steady(72)
        found = assess(installation(), readings, START + 86400, START + 2 * 86400)
        self.assertEqual(found.main.seconds, 86400)
        self.assertAlmostEqual(found.main.electricity.value, 48.0, places=6)
        self.assertEqual(len(found.months), 1)

    def test_a_period_without_readings_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "no readings between"):
            assess(installation(), steady(2), START + 10**6, START + 2 * 10**6)


class Export(TestCase):
    def test_json_is_complete_and_carries_every_uncertainty(self) -> None:
        found = assessed("below-rated", days=60)
        document = json.loads(to_json(assessment=found))["assessment"]
        main = document["total"]["reckonings"][-1]
        self.assertAlmostEqual(main["cop"]["value"], found.main.cop.value)
        self.assertAlmostEqual(main["cop"]["U"], found.main.cop.U)
        self.assertEqual(len(main["cop"]["budget"]), len(found.main.cop.budget))
        self.assertEqual(document["verdict"]["kind"], found.verdict.kind.value)
        self.assertEqual(document["start"], "2025-09-30T23:00:00Z")
        self.assertEqual(document["format"], "honest-ember/assessment")

        def figures(node):
            if isinstance(node, dict):
                if "value" in node and "unit" in node:
                    self.assertIn("U", node)
                    self.assertIn("budget", node)
                for item in node.values():
                    figures(item)
            elif isinstance(node, list):
                for item in node:
                    figures(item)

        figures(document)


class Alone(TestCase):
    def test_the_core_imports_neither_django_nor_heavy_libraries(self) -> None:
        code = (
            "import sys, ember.assessment.assess, ember.intake, ember.assessment.export, "
            "ember.season, ember.what_if, ember.proposal; "
            "print([m for m in ('django', 'CoolProp', 'numba', 'pandas', "
            "'scipy.optimize', 'scipy.interpolate') "
            "if m in sys.modules])"
        )
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        )
        self.assertEqual(done.stdout.strip(), "[]")
