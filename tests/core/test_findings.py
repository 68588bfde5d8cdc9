"""Findings: a reduced set of `make validate`, and each part of a finding by hand."""

import json
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.basis.codes import SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.comparison.drift import DayRatio, StepChange, drift
from ember.description.thresholds import THRESHOLDS_LIMITS, Thresholds
from ember.diagnosis import RULES, Weight, foremost, table_or_house
from ember.diagnosis.cached import from_json, to_json
from ember.diagnosis.catalogue import Findings
from ember.diagnosis.metering import CAUSES
from ember.messages import Source
from ember.trust import ALONE, ON_BOTH_SENSORS, ON_STATES, TRUST_FIRST
from stand_ins.faults import FAULTS
from stand_ins.scenario import simulate
from stand_ins.troubles import TROUBLES, harmless, house, metering_trouble, troubled
from tests.core.helpers import assessed
from validation.findings import Placed, findings_of, placed
from validation.trust import described

SEED = 740
# One of each family; the others run in `make validate`. Those in minutes take longest.
HERE = (
    "weak everywhere", "weak since a date", "weak in frost", "weak at part load", "fixed flow",
    "heating curve too steep", "backup overused", "hot water too hot", "high standby", "pump "
        "always on",
    "capacity short", "low limit", "room not held", "defrosts too often", "short cycling",
)  # fmt: skip


class Simulated(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        chosen = [t for t in TROUBLES if t.name in HERE]
        with ThreadPoolExecutor(2) as pool:
            cls.found: list[Placed] = list(
                pool.map(lambda t: placed(t, t.sizes[1], SEED, 212), chosen)
            )

    def test_the_fault_is_the_first_or_second_finding(self) -> None:
        late = [(f.name, f.kinds) for f in self.found if f.place is None or f.place > 2]
        self.assertEqual(late, [])

    def test_what_it_costs_is_near_the_truth(self) -> None:
        """Against the twin without the fault in the same weather; the median case within a
        quarter."""
        pairs = [(f.lost, f.truth) for f in self.found if f.lost and f.truth and f.truth > 0]
        self.assertGreaterEqual(len(pairs), 8)
        away = [abs(lost / truth - 1) for lost, truth in pairs]
        self.assertLess(float(np.median(away)), 0.25)

    def test_a_healthy_house_is_not_told_to_act(self) -> None:
        for quirk in ("none", "night set-back", "coarse steps", "gaps"):
            acting = [
                f.name for f in findings_of(harmless(quirk, SEED)) if f.weight == Weight.ACTION
            ]
            self.assertEqual(acting, [], quirk)

    def test_ill_metering_silences_what_rests_on_it(self) -> None:
        fault = next(f for f in FAULTS if f.name == "air in the water")
        scenario = metering_trouble(fault, 20, SEED)
        scenario = replace(scenario, plant=scenario.plant._replace(cop_factor=0.7))
        done = simulate(scenario)
        found = assess(described(scenario, done), done.trace())
        self.assertEqual(found.findings[0].name, "metering: flow reading")
        self.assertNotIn("below rated", [f.name for f in found.findings])
        because = {s.name: s.reason.sentence for s in found.not_judged}
        self.assertIn("flow reading", because["below rated"])


class Parts(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.result = assessed("below-rated", days=120, step=300)
        cls.finding = cls.result.findings[0]

    def test_every_part_is_there(self) -> None:
        for finding in self.result.findings:
            for words in (
                finding.sentence,
                finding.next_check,
                finding.who,
                finding.caution,
                finding.clears,
                finding.cost_basis,
            ):
                self.assertTrue(words, finding.name)
            self.assertTrue(finding.evidence and finding.causes)
            for one in finding.evidence:
                self.assertGreaterEqual(one.start, finding.period.start - 1)
                self.assertGreater(one.stop, one.start)

    def test_the_loss_by_hand(self) -> None:
        """E·(1 − PR): of the compared running, and of the rest of the running."""
        measured = self.result.comparison.measured.electricity.value
        ratio = self.result.comparison.ratio.value
        running = sum(
            line.energy.value
            for line in self.result.total.at(
                self.result.comparison.measured.level
            ).electricity_lines
            if line.name != "standby"
        )
        self.assertGreater(self.finding.lost.value, measured * (1 - ratio))
        self.assertLessEqual(self.finding.lost.value, running * (1 - ratio) * 1.001)

    def test_money_is_energy_at_the_price_paid(self) -> None:
        price = self.result.total.cost.average_price
        self.assertAlmostEqual(self.finding.money_lost.value, self.finding.lost.value * price, 6)
        self.assertIsNone(self.finding.money_a_year)  # 120 days are no year

    def test_a_lower_limit_clears_it(self) -> None:
        limits = Thresholds(below_rated=0.6)
        scenario_limits = assessed("below-rated", days=120, step=300, thresholds=limits)
        self.assertNotIn("below rated", [f.name for f in scenario_limits.findings])

    def test_without_gauges_the_charge_is_a_suspicion(self) -> None:
        (charge,) = [c for c in self.finding.causes if c.name == "refrigerant charge"]
        self.assertIn("suspicion", charge.speaks_against[0])

    def test_kept_and_read_again(self) -> None:
        found = Findings(self.result.findings, self.result.not_judged)
        self.assertEqual(from_json(to_json(found)), found)
        json.loads(to_json(found))

    def test_foremost(self) -> None:
        found = foremost(self.result.findings)
        self.assertEqual(found.sentence, self.finding.sentence)
        self.assertEqual(found.dearest, "below_rated")
        self.assertEqual(foremost(()).actions, ())


class Catalogue(TestCase):
    def test_every_threshold_is_explained(self) -> None:
        self.assertEqual(
            {limit.name for limit in THRESHOLDS_LIMITS}, set(Thresholds.__dataclass_fields__)
        )
        self.assertTrue(all(limit.source for limit in THRESHOLDS_LIMITS))

    def test_every_check_has_its_causes(self) -> None:
        names = {*TRUST_FIRST, *ON_STATES, *ON_BOTH_SENSORS, *ALONE}
        self.assertEqual(set(CAUSES), names)

    def test_kinds_are_unique(self) -> None:
        kinds = [rule.code for rule in RULES]
        self.assertEqual(len(kinds), len(set(kinds)))


def ratio(value: float, U: float = 0.05) -> Estimate:
    return Estimate(
        value, "", (UncertaintyComponent(Source(SourceCode.METHOD, detail="own"), U / 2),)
    )


class TableOrHouse(TestCase):
    """If all siblings read 0.85, doubt the table (handbook §8, common practice)."""

    def test_all_low_speaks_for_the_table(self) -> None:
        others = [("one", ratio(0.84)), ("two", ratio(0.86))]
        self.assertIn("all 2", table_or_house(ratio(0.85), others, 0.9).speaks_for[0])

    def test_as_rated_siblings_speak_against_it(self) -> None:
        others = [("one", ratio(0.99)), ("two", ratio(1.02))]
        cause = table_or_house(ratio(0.8), others, 0.9)
        self.assertEqual(cause.speaks_for, ())
        self.assertIn("as rated", cause.speaks_against[0])

    def test_alone_it_cannot_be_told(self) -> None:
        self.assertIn("cannot be told", table_or_house(ratio(0.8), [], 0.9).speaks_against[0])


class Drifts(TestCase):
    """A step in a made series; the oracle is the step that was put in."""

    def series(self, step: float, at: int, n: int = 150, seed: int = 1):
        rng = np.random.default_rng(seed)
        temp = 6 + 6 * np.sin(np.arange(n) / 20) + rng.normal(0, 2, n)
        value = 0.98 * np.exp(0.004 * (temp - 6) + rng.normal(0, 0.015, n))
        value[at:] *= 1 + step
        return drift(
            [
                DayRatio(k * 86400.0, float(v), 0.05, float(t))
                for k, (v, t) in enumerate(zip(value, temp, strict=True))
            ]
        )

    def change(self, step: float, at: int, seed: int = 1) -> StepChange:
        found = self.series(step, at, seed=seed).change
        assert found is not None
        return found

    def test_the_date_and_the_size(self) -> None:
        for at, step in ((60, -0.1), (90, -0.2), (40, 0.12)):
            found = self.change(step, at)
            self.assertTrue(found.sure)
            self.assertAlmostEqual(found.step, step, delta=3 * found.se)
            self.assertLessEqual(found.first, at * 86400)
            self.assertGreaterEqual(found.last, at * 86400)

    def test_weather_alone_is_no_change(self) -> None:
        sure = [self.change(0.0, 70, seed).sure for seed in range(20)]
        self.assertLessEqual(sum(sure), 1)

    def test_too_few_days(self) -> None:
        found = drift([])
        self.assertIsNone(found.change)


class Twins(TestCase):
    def test_a_twin_differs_in_the_fault_alone(self) -> None:
        trouble = next(t for t in TROUBLES if t.name == "weak everywhere")
        scenario, twin = troubled(trouble, 0.2, SEED)
        self.assertEqual(twin.plant, scenario.plant._replace(cop_factor=1.0))
        self.assertEqual(house(SEED).errors, scenario.errors)
