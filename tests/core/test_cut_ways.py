"""A brushed span of a record with every way of measuring equals an assessment of that span."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from ember.assessment.assess import assess
from ember.assessment.cached import from_bytes, to_bytes
from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import figures
from ember.basis.clock import zone_named
from ember.basis.periods import Period
from ember.basis.series import Trace
from ember.corrections.applied import corrected
from ember.description.installation import (
    ClockShift,
    Consumer,
    Factor,
    FixedPower,
    Installation,
    Offset,
    ReportedHeat,
    Rule,
    RunsWith,
)
from stand_ins.meters import MeterErrors
from stand_ins.scenario import Simulated
from tests.core.helpers import simulated

DAYS = 12
AROUND = 2 * 86_400


def record() -> Simulated:
    """Coarse steps, a tank, the controller's own heat beside."""
    return simulated("as-rated", DAYS, 120, errors=MeterErrors(temp_step=0.5, reported=1.1))


def described(done: Simulated, corrections=()) -> Installation:
    base = done.installation
    pump = FixedPower("pump by display", (Consumer.DISTRIBUTION_PUMP,), 45.0, RunsWith.PUMP)
    return replace(
        base,
        electricity=tuple(m for m in base.electricity if m.name != "pump meter"),
        fixed=(pump,),
        reported=(ReportedHeat("controller"),),
        corrections=tuple(corrections),
    )


CORRECTIONS = (
    Offset(channel="flow_temp", add=-0.2, U=0.1, reason="at rest"),
    Factor(channel="power:unit", factor=1.05, U=0.02, reason="a turn of the clamp"),
    Rule(channel="outdoor_temp", below=4.0, reason="too cold for the test"),
    ClockShift(channels=("tank_temp",), seconds=600, reason="another logger"),
)


class Cut(TestCase):
    def around(self, trace: Trace, instant: float) -> Trace:
        return trace.between(instant - AROUND, instant + AROUND)

    def same(self, corrections) -> None:
        done = record()
        installation, trace = described(done, corrections), done.trace()
        whole = analyse_record(installation, trace)
        start = trace.start + 3 * 86_400 + 7 * 3600 + 34 * 60
        stop = trace.start + 8 * 86_400 + 18 * 3600 + 22 * 60
        cut = whole
        for instant in (start, stop):
            cut = cut.cut(self.around(trace, instant), [instant])
        mine = figures(cut, [Period("", float(start), float(stop))])[0]
        fresh = assess(installation, trace, start, stop).total
        self.assertEqual(len(mine.reckonings), len(fresh.reckonings))
        for one, other in zip(mine.reckonings, fresh.reckonings, strict=True):
            self.assertAlmostEqual(one.cop.value, other.cop.value, 9)
            self.assertAlmostEqual(one.cop.U, other.cop.U, 9)
            self.assertAlmostEqual(one.standby.value, other.standby.value, 9)
            self.assertEqual(one.left_out, other.left_out)

    def test_with_a_fixed_power_a_tank_coarse_steps_and_a_controller(self) -> None:
        self.same(())

    def test_with_corrections_of_many_kinds(self) -> None:
        self.same(CORRECTIONS)

    def test_a_kept_survey_comes_back_the_same(self) -> None:
        done = record()
        made = analyse_record(described(done, CORRECTIONS), done.trace())
        back = from_bytes(to_bytes(made))
        self.assertEqual(back.described, made.described)
        self.assertEqual(back.facts.checks, made.facts.checks)
        self.assertEqual(back.facts.combinations, made.facts.combinations)
        for name, values in made.segments.sums.items():
            np.testing.assert_array_equal(back.segments.sums[name], values, name)

    def test_a_part_is_corrected_as_the_whole(self) -> None:
        done = record()
        trace, zone = done.trace(), zone_named(done.installation.zone)
        installation = described(done, CORRECTIONS)
        whole = corrected(installation, trace, zone).trace
        first = trace.start + 4 * 86_400
        part = corrected(installation, trace.between(first, first + 86_400), zone).trace
        inside = whole.between(first + 3600, first + 82_800)
        for channel, values in part.between(first + 3600, first + 82_800).channels.items():
            np.testing.assert_array_equal(values, inside[channel], channel)

    def test_rounding_shows_in_the_budget_and_shrinks_with_time(self) -> None:
        done = record()
        installation, trace = described(done), done.trace()

        def share(days: int) -> float:
            found = assess(installation, trace, trace.start, trace.start + days * 86_400).main
            parts = {p.source: abs(p.u) for p in found.heat.budget}
            return parts["heat meter: steps of the temperatures"] / found.heat.value

        self.assertLess(share(12), 0.5 * share(1))
