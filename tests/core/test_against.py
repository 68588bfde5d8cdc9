"""Measured against the table over conditions and time, and capacity, by the stand-ins' truth."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np

from ember.assessment.record_analysis import analyse_record
from ember.balance.days import DayKind, kind_of
from ember.balance.sums import compared_between, ratios_of
from ember.basis.codes import SourceCode
from ember.basis.periods import Period
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.comparison.capacity import capacity_seen
from ember.comparison.drift import day_ratios, drift
from ember.comparison.matched import matched_hours
from ember.comparison.parts import grid, parts
from ember.comparison.site import site
from ember.description.thresholds import Thresholds
from ember.messages import Source
from ember.operation import operation
from ember.operation.within import Within
from ember.views.runs import runs_seen
from stand_ins.scenario import Simulated, simulate
from stand_ins.troubles import described_anew, house, with_backup
from validation.trust import described

SEED = 745
DAYS = 150


@cache
def seen(**plant) -> tuple[Simulated, Within]:
    """A house whose plant is changed, and the whole of its record."""
    base = house(SEED, DAYS)
    if plant.pop("backup", 0.0):
        base = with_backup(base)
    scenario = described_anew(replace(base, plant=base.plant._replace(**plant)))
    healthy = base.plant._replace(capacity=scenario.plant.capacity)
    done = simulate(scenario)
    analysis = analyse_record(described(replace(scenario, plant=healthy), done), done.trace())
    period = Period("record", float(analysis.start), float(analysis.stop))
    return done, Within(analysis, operation(analysis, done.trace()), period)


class Shape(TestCase):
    def test_the_grid_adds_up_to_the_whole(self) -> None:
        _, within = seen()
        analysis, period = within.analysis, within.period
        same = matched_hours(analysis, period)
        cells = grid(analysis, period, same, analysis.installation.unit.capacity_kw * 1000)
        every = [c for c in cells if c.load == 0]
        whole = compared_between(analysis, period).comparison
        hours = sum(c.hours for c in every)
        self.assertLessEqual(hours, whole.hours)
        self.assertGreater(hours, 0.97 * whole.hours)  # hours with too little are left out
        self.assertAlmostEqual(sum(c.hours for c in cells if c.load > 0), hours, 6)
        mean = sum(c.ratio.value * c.hours for c in every) / hours
        self.assertAlmostEqual(mean, whole.ratio.value, delta=0.03)

    def test_a_cell_is_judged_with_all_of_its_U(self) -> None:
        """GUM 7.2.3: the interval value ± U is what is claimed, not the value."""
        limits = Thresholds(below_rated=0.9)
        for value, U, kind in (
            (0.80, 0.05, DayKind.BELOW_RATED),
            (0.87, 0.05, DayKind.WATCH),
            (0.95, 0.05, DayKind.AS_RATED),
            (1.04, 0.05, DayKind.AS_RATED),
            (1.10, 0.05, DayKind.BETTER),
        ):
            u = UncertaintyComponent(Source(SourceCode.ELECTRICITY_METER), U / 2)
            self.assertEqual(kind_of(Estimate(value, "ratio", (u,)), limits), kind)
        self.assertEqual(kind_of(None, limits), DayKind.NOT_COMPARED)
        _, within = seen()
        same = matched_hours(within.analysis, within.period)
        limit = within.analysis.installation.thresholds.below_rated
        for cell in grid(within.analysis, within.period, same, None):
            self.assertEqual(cell.open, abs(cell.ratio.value - limit) < cell.ratio.U)

    def test_a_healthy_unit_is_even(self) -> None:
        _, within = seen()
        size = within.analysis.installation.unit.capacity_kw * 1000
        same = matched_hours(within.analysis, within.period)
        found = parts(within.analysis, within.period, same, size)
        for part in (found.frost, found.small_load):
            self.assertGreater(part.ratio.value, 0.92)

    def test_what_meters_share_cancels_in_a_part(self) -> None:
        _, within = seen()
        same = matched_hours(within.analysis, within.period)
        part = parts(within.analysis, within.period, same, None).frost
        self.assertLess(part.ratio.U, 0.35 * part.inside.ratio.U)

    def test_a_frosted_coil_shows_in_the_frost_band_alone(self) -> None:
        _, within = seen(frost_cost=0.6)
        same = matched_hours(within.analysis, within.period)
        size = within.analysis.installation.unit.capacity_kw * 1000
        found = parts(within.analysis, within.period, same, size)
        self.assertLess(found.frost.ratio.value, 0.92)
        self.assertLess(found.frost.alone, -3 * found.frost.alone_se)


class Days(TestCase):
    def test_days_are_those_of_the_whole(self) -> None:
        _, within = seen()
        found = day_ratios(within)
        self.assertGreater(len(found), 0.7 * DAYS)
        whole = compared_between(within.analysis, within.period).comparison.ratio.value
        self.assertAlmostEqual(float(np.median([d.ratio for d in found])), whole, delta=0.03)

    def test_the_date_on_which_something_broke(self) -> None:
        """The truth: day 80, a fifth worse."""
        done, within = seen(cop_factor=0.8, fault_since=80 * 86400.0)
        change = drift(day_ratios(within)).change
        self.assertTrue(change.sure)
        self.assertAlmostEqual(change.step, -0.2, delta=0.02)
        truth = done.start + 80 * 86400
        self.assertLessEqual(change.first, truth + 86400)
        self.assertGreaterEqual(change.last, truth - 86400)

    def test_nothing_broke(self) -> None:
        _, within = seen()
        change = drift(day_ratios(within)).change
        self.assertLess(abs(change.step), 0.03)


class Runs(TestCase):
    def test_each_run_has_its_ratio(self) -> None:
        _, within = seen()
        rows = runs_seen(within, order="length", descending=True, count=20).rows
        ratios = [r.ratio.value for r in rows if r.ratio is not None]
        self.assertGreater(len(ratios), 10)
        self.assertAlmostEqual(float(np.median(ratios)), 1.0, delta=0.1)

    def test_one_group_is_the_whole(self) -> None:
        _, within = seen()
        segments = within.analysis.segments
        (ratio,) = ratios_of(within.analysis, np.zeros(len(segments.state), np.int64), 1, 0.0)
        whole = compared_between(within.analysis, within.period).comparison.ratio
        self.assertAlmostEqual(ratio.value, whole.value, 12)
        self.assertAlmostEqual(ratio.U, whole.U, 12)


class Capacity(TestCase):
    def test_the_house_by_its_days(self) -> None:
        """Slope of the energy signature against the simulated heat loss; gains lower its zero."""
        done, within = seen()
        found = capacity_seen(within)
        self.assertAlmostEqual(found.slope / done.scenario.plant.heat_loss, 1.0, delta=0.2)
        self.assertGreater(found.rated_design, found.at_design)
        (cold, most), (mild, least) = found.need
        self.assertAlmostEqual(most, found.slope * (found.zero - cold) / 1000, 9)
        self.assertEqual([mild, least], [found.zero, 0.0])
        self.assertGreaterEqual(most, found.at_design)
        self.assertLess(found.balance, -8.0)
        self.assertIsNone(found.over_rated)  # never at its limit

    def test_a_weak_unit_at_its_limit(self) -> None:
        """The truth: 55 % of the rated capacity."""
        _, within = seen(strength=0.55, backup=1.0)
        found = capacity_seen(within)
        self.assertGreater(found.limit_hours, 20)
        self.assertAlmostEqual(found.over_rated.value, 0.55, delta=0.08)
        self.assertAlmostEqual(found.charges_over_rated, 0.55, delta=0.1)


class Site(TestCase):
    def test_the_expected_spf_of_this_site(self) -> None:
        """A healthy unit makes what is expected, less its starts and defrosts."""
        _, within = seen()
        found = site(within)
        self.assertAlmostEqual(found.spf_measured / found.spf, 0.96, delta=0.06)
        self.assertEqual(found.assumed_share, 0.0)

    def test_a_weak_one_does_not(self) -> None:
        _, within = seen(cop_factor=0.75)
        found, healthy = site(within), site(seen()[1])
        ratio = found.spf_measured / found.spf / (healthy.spf_measured / healthy.spf)
        self.assertAlmostEqual(ratio, 0.75, delta=0.04)

    def test_without_a_table_it_says_why(self) -> None:
        _, within = seen()
        analysis = replace(
            within.analysis, described=replace(within.analysis.described, rated=None)
        )
        self.assertEqual(
            str(site(replace(within, analysis=analysis)).reason), "no rated table is given"
        )
