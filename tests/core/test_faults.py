"""Every metering fault at its middle size is found, none is seen where the metering is sound,
and the corrected COP is within its U of the truth. `make validate` does the same with many more
houses and whole years.
"""

from dataclasses import replace
from unittest import TestCase

from ember.assessment.assess import answer
from ember.assessment.record_analysis import analyse_record
from ember.comparison.performance_ratio import VerdictKind
from ember.trust import Soundness
from stand_ins.faults import FAULTS, QUIRKS
from stand_ins.scenario import simulate
from stand_ins.varrick import INSTALLATIONS
from validation.trust import described, detected, faults, quirks

DAYS = 110
SEEDS = range(41, 42)
QUIRK_SEEDS = range(60, 61)


# What the fault of each installation of the demo must be found by.
SHOWN = {
    "offset": "pair offset",
    "unit": "register against flow × ΔT",
    "stuck": "stuck readings",
    "spikes": "spikes",
    "phases": "beyond the table",
    "other-loads": "other loads",
    "doubled": "consumers",
    "heat-alone": "consumers",
    "resets": "counter resets",
    "late": "clocks",
    "glycol": "glycol",
    "yield": "yield as heat",
    "rate": "rate registers",
    "sun": "outdoor sensor",
}


class Faults(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        middle = tuple(replace(f, sizes=f.sizes[1:2]) for f in FAULTS)
        cls.found = faults(middle, SEEDS, DAYS)

    def test_each_is_found(self) -> None:
        self.assertEqual(len(self.found), len(FAULTS))
        for one in self.found:
            with self.subTest(one.fault, size=one.size):
                self.assertTrue(detected(one), one.sentence)

    def test_the_corrected_cop_holds_the_truth(self) -> None:
        errors = [abs(one.error) for one in self.found if one.error is not None]
        self.assertGreater(len(errors), 10)
        within = sum(error <= 1 for error in errors) / len(errors)
        self.assertGreaterEqual(within, 0.93)

    def test_before_it_many_do_not(self) -> None:
        """The check would be idle if the truth had been within U anyway."""
        named = {"pair offset", "other loads on the circuit", "yield logged as heat"}
        for one in self.found:
            if one.fault in named:
                with self.subTest(one.fault, size=one.size):
                    self.assertTrue(one.error_before is None or abs(one.error_before) > 1)

    def test_what_is_found_has_evidence_and_a_remedy(self) -> None:
        for one in self.found:
            with self.subTest(one.fault, size=one.size):
                self.assertTrue(one.check.spans)
                self.assertTrue(one.check.remedy)
                self.assertRegex(one.check.sentence, r"\d")


class Healthy(TestCase):
    def test_nothing_is_broken_and_no_cop_is_doubted(self) -> None:
        for name, seed, ill in quirks(list(QUIRKS), QUIRK_SEEDS, DAYS):
            with self.subTest(name, seed=seed):
                self.assertNotIn(Soundness.BROKEN, [check.soundness for check in ill])
                doubted = [c.name for c in ill if {"heat", "electricity"} & set(c.affects)]
                self.assertEqual(doubted, [])


class TheDemo(TestCase):
    def test_each_fault_is_the_one_that_is_found(self) -> None:
        for key, name in SHOWN.items():
            scenario = INSTALLATIONS[key]
            done = simulate(scenario)
            found = answer(analyse_record(described(scenario, done), done.trace()))
            with self.subTest(key):
                self.assertIn(name, [c.name for c in found.checks if c.unsound])
                if key not in ("resets", "glycol"):  # the COP does not rest on those registers
                    self.assertEqual(found.verdict.kind, VerdictKind.NONE)

    def test_the_healthy_ones_are_left_in_peace(self) -> None:
        for key in ("quirky", "two-probes"):
            scenario = INSTALLATIONS[key]
            done = simulate(scenario)
            found = answer(analyse_record(described(scenario, done), done.trace()))
            self.assertEqual([c.name for c in found.checks if c.unsound], [], key)


class ChangeOfClocks(TestCase):
    def test_an_hour_lost_where_the_clocks_change_is_said_and_hides_nothing(self) -> None:
        scenario = replace(INSTALLATIONS["as-rated"], days=40, step=300)
        done = simulate(scenario)
        lost = (25 * 24 + 2) * 3600.0  # the last Sunday of October, summer time ends at 1:00 UTC
        errors = replace(scenario.errors, gaps=((lost, lost + 3600.0),))
        for changed, expected in ((errors, True), (scenario.errors, False)):
            found = simulate(replace(scenario, errors=changed))
            seen = analyse_record(described(scenario, done), found.trace())
            checks = {c.name: c for c in seen.facts.checks}
            self.assertEqual(checks["clocks"].unsound, expected, checks["clocks"].sentence)
            self.assertEqual(checks["flow reading"].soundness, Soundness.SOUND)
