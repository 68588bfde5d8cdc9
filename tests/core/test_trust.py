"""Checks of the metering: what is ill is seen, what is healthy is left in peace."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.comparison.performance_ratio import VerdictKind
from ember.description.installation import HeatRegister, Swap
from ember.trust import Affects, Soundness
from stand_ins.meters import MeterErrors
from tests.core.helpers import assessed, installation, simulated, steady


def check(assessment, name):
    return next(c for c in assessment.checks if c.name == name)


class Swapped(TestCase):
    def test_no_cop_anywhere_while_sensors_are_swapped(self) -> None:
        found = assessed("swapped", days=60)
        self.assertEqual(check(found, "swapped sensors").soundness, Soundness.BROKEN)
        every = [found.total, *found.months]
        for figures in every:
            for reckoning in figures.reckonings:
                self.assertIsNone(reckoning.cop)
                self.assertIsNone(reckoning.heat)
                self.assertIsNone(reckoning.gross_cop)
                self.assertIn("swapped", str(reckoning.reason))
        self.assertIsNone(found.comparison)
        self.assertEqual(found.verdict.kind, VerdictKind.NONE)
        self.assertIsNone(found.running.defrosts)
        self.assertIn("cannot be told while", found.running.notes[-1])

    def test_the_accepted_swap_brings_the_truth_back(self) -> None:
        done = simulated("swapped", days=60)
        first = assess(done.installation, done.trace())
        (swap,) = check(first, "swapped sensors").proposals
        mended = assess(replace(done.installation, corrections=(swap,)), done.trace())
        truth = done.truth_heat() / done.truth_electricity("H4")
        self.assertLess(abs(mended.main.cop.value - truth), mended.main.cop.U)
        self.assertIn("swapped", mended.corrections[0])
        self.assertEqual(check(first, "swapped sensors").effect.cop_then, mended.main.cop)

    def test_a_swap_of_what_is_not_logged_is_refused(self) -> None:
        described = installation(
            corrections=(Swap(channels=("flow_temp", "tank_temp"), reason="try"),)
        )
        with self.assertRaisesRegex(ValueError, "both must be logged"):
            assess(described, steady(2))


class Air(TestCase):
    ILL = MeterErrors(air=((20.0, 30.0),))

    def test_the_days_are_found_and_no_verdict_rests_on_them(self) -> None:
        found = assessed("as-rated", days=60)
        self.assertEqual(check(found, "flow reading").soundness, Soundness.SOUND)
        ill = simulated("as-rated", days=60, errors=self.ILL)
        seen = assess(ill.installation, ill.trace())
        air = check(seen, "flow reading")
        self.assertEqual(air.soundness, Soundness.DOUBTFUL)
        start, stop = ill.start + 20 * 86400, ill.start + 30 * 86400
        self.assertLess(abs(air.spans[0].start - start), 1.5 * 86400)
        erratic = [span for span in air.spans if span.name == "flow erratic"]
        self.assertLess(abs(erratic[-1].stop - stop), 1.5 * 86400)
        # Sound again only after a dozen healthy runs of each mode (handbook of the trade).
        self.assertEqual(air.spans[-1].name, "not yet sound again")
        self.assertIn("doubtful", seen.verdict.sentence)

    def test_the_accepted_exclusion_brings_the_truth_back(self) -> None:
        ill = simulated("as-rated", days=60, errors=self.ILL)
        first = assess(ill.installation, ill.trace())
        air = check(first, "flow reading")
        described = replace(ill.installation, corrections=air.proposals)
        mended = assess(described, ill.trace())
        days = np.arange(len(ill.stamps)) * 60 / 86400
        kept = (days < 20) | (days >= 30)
        truth = ill.truth_heat(kept) / ill.truth_electricity("H4", kept)
        self.assertLess(abs(mended.main.cop.value - truth), mended.main.cop.U)
        self.assertEqual(check(mended, "flow reading").soundness, Soundness.SOUND)
        self.assertLess(air.effect.cop_now.value, air.effect.cop_then.value)
        self.assertIn("air in the flow meter", str(mended.main.left_out[0].reason))


class Physics(TestCase):
    def test_a_steady_share_above_0_65_of_carnot_is_metering(self) -> None:
        """35 °C flow, 2 °C outdoors: Carnot 9.34; a COP of 6.9 is 74 %."""
        found = assess(installation(), steady(48, power_unit=1000.0))
        physical = check(found, "physical bound")
        self.assertEqual(physical.soundness, Soundness.BROKEN)
        self.assertIsNone(found.main.cop)

    def test_a_healthy_unit_reaches_a_third_to_a_half(self) -> None:
        physical = check(assess(installation(), steady(48)), "physical bound")
        self.assertEqual(physical.soundness, Soundness.SOUND)
        self.assertIn("37%", physical.sentence)

    def test_a_small_lift_is_not_judged(self) -> None:
        found = assess(installation(), steady(48, outdoor_temp=18.0))
        self.assertEqual(check(found, "physical bound").soundness, Soundness.NOT_CHECKABLE)


class TwoWays(TestCase):
    def with_register(self, factor):
        described = installation(registers=(HeatRegister("reg", resolution_kwh=0.1),))
        n = 48 * 60
        kwh = np.floor(np.arange(n) * 6.93 / 60 * factor * 10) / 10
        return assess(described, steady(48).with_channels({"heat_energy": 3.6e6 * kwh}))

    def test_agreement(self) -> None:
        self.assertEqual(
            check(self.with_register(1.0), "register against flow × ΔT").soundness, Soundness.SOUND
        )

    def test_a_mistake_of_unit_is_named(self) -> None:
        for factor, named in ((3.6, "3.6"), (1 / 3.785, "3.785"), (1.163, "1.163"), (0.5, "2")):
            found = check(self.with_register(factor), "register against flow × ΔT")
            self.assertEqual(found.soundness, Soundness.DOUBTFUL)
            self.assertIn(f"near {named} is a unit", found.sentence)


class HarmlessQuirks(TestCase):
    """Healthy metering with noise, gaps and coarse steps is not accused."""

    def test_no_check_is_worse_than_sound(self) -> None:
        quirks = {
            "noise": MeterErrors(flow_noise=0.02, temp_noise=0.1),
            "coarse": MeterErrors(temp_step=0.5, flow_step=0.5),
            "gaps": MeterErrors(gaps=((5e5, 6e5), (1e6, 1.4e6))),
        }
        for name, errors in quirks.items():
            done = simulated("as-rated", days=60, errors=errors)
            found = assess(done.installation, done.trace())
            for item in found.checks:
                if item.unsound:  # coarse steps are said, but touch single minutes only
                    self.assertEqual((name, item.affects), ("coarse", (Affects.MOMENTS,)), item)
