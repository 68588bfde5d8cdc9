"""What a power alone says beside a rated table, and how a curve and a room are followed."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.record_analysis import analyse_record
from ember.balance.electricity import power_seen
from ember.basis.periods import Period
from ember.description.house import House, SetCurve
from ember.events.hours import Hours
from ember.operation import operation
from ember.operation.within import Within
from ember.views.control import control_seen
from ember.views.house import warm_ups
from stand_ins.scenario import rated_table, simulate
from stand_ins.varrick import INSTALLATIONS
from tests.core.test_calorimeter import within


def period_of(analysis) -> Period:
    return Period("record", float(analysis.start), float(analysis.stop))


class ByTable(TestCase):
    """The stand-in's own house and table: what the table needs is what the heating took."""

    def seen(self, **house):
        base = within("electricity-only")
        done = base.analysis
        plant = INSTALLATIONS["electricity-only"].plant
        described = replace(
            done.described, rated=rated_table(plant), house=replace(done.described.house, **house)
        )
        return base, power_seen(replace(done, described=described), period_of(done))

    def test_it_meets_what_the_heating_took(self) -> None:
        base, seen = self.seen()
        charges = base.found.charges
        hot = base.used_together(charges.start, charges.stop)
        heating = seen.electricity.value - hot.value
        self.assertLess(abs(seen.by_table.value - heating), seen.by_table.U)
        self.assertIsNone(seen.reason)
        self.assertTrue(any("Hot water is not in it" in note for note in seen.taken))

    def test_what_lacks_is_said(self) -> None:
        _, bare = self.seen(heat_loss_kw=None, floor_area_m2=None)
        self.assertIsNone(bare.by_table)
        self.assertIn("heat loss is not described", str(bare.reason))
        _, nowhere = self.seen(design_outdoor=None)
        self.assertIn("design outdoor temperature", str(nowhere.reason))
        base = within("electricity-only").analysis
        without = replace(base, described=replace(base.described, rated=None))
        self.assertIn("no rated table", str(power_seen(without, period_of(base)).reason))


class SetAndRun(TestCase):
    def control(self, curve: SetCurve | None):
        done = simulate(replace(INSTALLATIONS["one-meter"], days=45, step=120))
        house = replace(done.installation.house, curve=curve)
        analysis = analyse_record(replace(done.installation, house=house), done.trace())
        found = operation(analysis, done.trace())
        return control_seen(Within(analysis, found, period_of(analysis)))

    def test_as_set(self) -> None:
        followed = self.control(None).curve
        room = House().design_indoor
        slope = -followed.slope
        offset = followed.at_zero - room - slope * room
        # A straight line is not quite what is run; the median of what is left sets it right.
        offset += self.control(SetCurve(slope=slope, offset=offset)).above_set.value
        seen = self.control(SetCurve(slope=slope, offset=offset))
        self.assertLess(abs(seen.above_set.value), seen.above_set.U)
        self.assertTrue(any("runs as the curve is set" in one for one in seen.said))
        lower = self.control(SetCurve(slope=slope, offset=offset - 4.0))
        self.assertAlmostEqual(lower.above_set.value, 4.0 + seen.above_set.value, 6)
        self.assertTrue(any("above the curve that is set" in one for one in lower.said))
        self.assertEqual(len(lower.set_curve), 25)

    def test_without_one_nothing_is_said(self) -> None:
        seen = self.control(None)
        self.assertEqual((seen.set_curve, seen.above_set), ([], None))


class Warming(TestCase):
    def test_minutes_a_kelvin(self) -> None:
        """From 16 to 19 °C in three hours of running: an hour a kelvin."""
        base = within()
        n = len(base.found.hours)
        of = {name: np.zeros(n) for name in base.found.hours.of}
        of["room"] = np.full(n, 20.0)
        of["room"][10:14] = [16.0, 17.0, 18.0, 19.0]
        of["on"][11:14] = 3600.0
        found = replace(base.found, hours=Hours(base.found.hours.start, of))
        np.testing.assert_allclose(warm_ups(replace(base, found=found)), [60.0])
        of["hot_water"][11:14] = 3600.0
        self.assertEqual(len(warm_ups(replace(base, found=found))), 0)
