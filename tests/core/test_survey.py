"""One pass, then sums: a survey answers as a fresh assessment of the same span does."""

from dataclasses import replace
from datetime import datetime
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import settings as examples
from hypothesis import strategies as st

from ember.assessment.assess import answer, assess
from ember.assessment.cached import from_bytes, to_bytes
from ember.assessment.record_analysis import RecordAnalysis, analyse_record
from ember.balance.days import DayKind, days
from ember.balance.sums import compared_between, figures
from ember.basis.periods import Period
from ember.basis.series import Trace
from ember.description.installation import ElectricityMeter, Exclusion
from ember.views.curves import by_hours, conditions, curves, over_weather, quotient
from ember.views.standing import standing
from stand_ins.scenario import rated_table
from tests.core.helpers import START, UNIT, installation, simulated, steady

DAY = 86_400


def analysis(key: str, days: int = 20, **changes) -> tuple[RecordAnalysis, Trace]:
    done = simulated(key, days=days)
    described = replace(done.installation, rated=rated_table(done.scenario.plant), **changes)
    trace = done.trace()
    return analyse_record(described, trace), trace


class AnySpan(TestCase):
    """The sum of a brushed span is that of an assessment of the same span, to the last digit."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.analysis, cls.trace = analysis("as-rated")

    @examples(max_examples=12)
    @given(st.integers(0, 20 * 1440 - 30), st.integers(5, 4000))
    def test_cut_anywhere(self, first: int, length: int) -> None:
        start = self.trace.start + 60 * first
        stop = min(start + 60 * length, self.trace.stop)
        segments = self.analysis
        for instant in (start, stop):
            segments = segments.cut(
                self.trace.between(instant - 2 * DAY, instant + 2 * DAY), [instant]
            )
        period = Period("brushed", start, stop)
        mine = figures(segments, [period])[0]
        theirs = assess(self.analysis.installation, self.trace, start, stop)
        for one, other in zip(mine.reckonings, theirs.total.reckonings, strict=True):
            self.assertAlmostEqual(one.electricity.value, other.electricity.value, 9)
            self.assertAlmostEqual(one.heat.value, other.heat.value, 9)
            self.assertAlmostEqual(one.electricity.U, other.electricity.U, 9)
            self.assertEqual(one.covered, other.covered)
        self.assertAlmostEqual(mine.cost.total.value, theirs.total.cost.total.value, 9)
        compared = compared_between(segments, period).comparison
        if theirs.comparison is not None:
            self.assertAlmostEqual(compared.ratio.value, theirs.comparison.ratio.value, 9)

    def test_cutting_changes_nothing_elsewhere(self) -> None:
        instant = self.trace.start + 7 * DAY + 61 * 60 + 60
        part = self.trace.between(instant - DAY, instant + DAY)
        cut = self.analysis.cut(part, [instant])
        self.assertEqual(len(cut.segments.state), len(self.analysis.segments.state) + 1)
        for name, values in self.analysis.segments.sums.items():
            self.assertAlmostEqual(
                np.nansum(values), np.nansum(cut.segments.sums[name]), delta=1e-3
            )

    def test_readings_of_another_record_are_refused(self) -> None:
        instant = self.trace.start + 7 * DAY + 90
        part = self.trace.between(instant - DAY, instant + DAY)
        warmer = part.with_channels({"power:unit": part["power:unit"] * 1.01})
        with self.assertRaises(LookupError):
            self.analysis.cut(warmer, [instant])

    def test_a_register_unread_for_days_needs_more_than_the_days_around(self) -> None:
        described = installation(
            electricity=(ElectricityMeter("unit meter", "energy:unit", UNIT),),
        )
        base = steady(24 * 8)
        reading = np.full(len(base), np.nan)
        reading[[0, 60, 120, 8 * 1440 - 60, 8 * 1440 - 1]] = np.array([0, 2, 4, 300, 302]) * 3.6e6
        channels = {k: v for k, v in base.channels.items() if k != "power:unit"}
        trace = Trace(base.start, 60, {**channels, "energy:unit": reading}, {"energy:unit": 3600.0})
        segments = analyse_record(described, trace)
        instant = START + 4 * DAY + 20 * 60
        with self.assertRaises(LookupError):
            segments.cut(trace.between(instant - DAY, instant + DAY), [instant])
        whole = segments.cut(trace, [instant])
        self.assertEqual(len(whole.segments.state), len(segments.segments.state) + 1)


class CachedResults(TestCase):
    """What is kept answers as what was made."""

    def test_round_trip(self) -> None:
        for key in ("as-rated", "air", "swapped"):
            made, _ = analysis(key)
            again = from_bytes(to_bytes(made))
            self.assertEqual(answer(again), answer(made))
            self.assertEqual(days(again), days(made))

    def test_small(self) -> None:
        made, trace = analysis("as-rated")
        self.assertLess(len(to_bytes(made)), 0.4 * len(trace) * len(trace.channels))

    def test_anything_else_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            from_bytes(b"no stream at all")


class Days(TestCase):
    """The bars of the season ribbon."""

    def test_days_add_up_to_the_record(self) -> None:
        made, _ = analysis("as-rated")
        whole = answer(made).total.reckonings[-1]
        found = days(made)
        self.assertAlmostEqual(sum(d.electricity.value for d in found), whole.electricity.value, 6)
        self.assertAlmostEqual(sum(d.heat.value for d in found), whole.heat.value, 6)
        defrosts = sum(d.defrosts for d in found)
        self.assertEqual(defrosts, answer(made).running.defrosts)

    def test_a_healthy_unit_has_no_day_below_rated(self) -> None:
        made, _ = analysis("as-rated", days=60)
        kinds = {day.kind for day in days(made)}
        self.assertNotIn(DayKind.BELOW_RATED, kinds)
        self.assertIn(DayKind.AS_RATED, kinds)

    def test_twenty_per_cent_below_shows_on_most_days(self) -> None:
        made, _ = analysis("below-rated", days=60)
        bad = [d for d in days(made) if d.kind in (DayKind.BELOW_RATED, DayKind.WATCH)]
        judged = [d for d in days(made) if d.ratio is not None]
        self.assertGreater(len(bad), 0.9 * len(judged))

    def test_swapped_sensors_colour_no_day(self) -> None:
        made, _ = analysis("swapped")
        for day in days(made):
            self.assertEqual(day.kind, DayKind.NOT_COMPARED)
            self.assertIsNone(day.cop)
            self.assertIsNone(day.defrosts)

    def test_gaps_and_exclusions_are_named(self) -> None:
        base = steady(24 * 4)
        power = base["power:unit"].copy()
        power[1440:2880] = np.nan
        trace = base.with_channels({"power:unit": power})
        reason = Exclusion(datetime(2026, 1, 3), datetime(2026, 1, 4), "pump test")
        found = days(analyse_record(installation(corrections=(reason,)), trace))
        kinds = [day.kind for day in found]
        self.assertEqual(kinds[1:3], [DayKind.NO_DATA, DayKind.LEFT_OUT])


class Curves(TestCase):
    """What charts draw agrees with the sums."""

    def test_bands_add_up_to_what_is_compared(self) -> None:
        made, _ = analysis("as-rated", days=60)
        period = Period("all", made.start, made.stop)
        bins, hours = over_weather(made, period)
        whole = compared_between(made, period).measured
        self.assertAlmostEqual(
            sum(b.comparison.measured.heat.value for b in bins), whole.heat.value, 6
        )
        self.assertAlmostEqual(
            sum(b.comparison.hours for b in bins), whole.covered / 3600, delta=1e-6
        )
        self.assertGreater(len(hours), 100)
        self.assertTrue(all(b.low < b.high for b in bins))

    def test_power_and_heat_against_the_sum(self) -> None:
        made, trace = analysis("as-rated")
        walked = made.walked(made.like(trace), made.states())
        drawn = curves(made, walked)
        whole = answer(made).total.reckonings[-1]
        self.assertAlmostEqual(np.nansum(drawn.heat) * 60 / 3.6e6, whole.heat.value, 6)
        self.assertAlmostEqual(np.nansum(drawn.power) * 60 / 3.6e6, whole.electricity.value, 6)

    def test_no_heat_is_drawn_where_none_may_be_stated(self) -> None:
        made, trace = analysis("swapped")
        walked = made.walked(made.like(trace), made.states())
        self.assertIsNone(curves(made, walked).heat)
        measured, rated = by_hours(made, [made.start, made.start + DAY])
        self.assertTrue(np.isnan(measured).all() and np.isnan(rated).all())

    def test_conditions_by_hand(self) -> None:
        made = analyse_record(installation(), steady(4))
        found = conditions(made, Period("all", made.start, made.stop))
        self.assertAlmostEqual(found.outdoor.value, 2.0)
        self.assertAlmostEqual(found.flow.value, 35.0)
        # GUM 4.3.7: a limit of ±1 K, rectangular, k = 2.
        self.assertAlmostEqual(found.outdoor.U, 2 / 3**0.5)

    def test_quotient_by_hand(self) -> None:
        found = quotient(np.array([6.0, 3.0, 1.0]), np.array([2.0, 1.0, 0.0]), 2, 0.5)
        np.testing.assert_array_equal(found, [3.0, np.nan])


class Stand(TestCase):
    """The fleet's row."""

    def test_a_unit_a_fifth_below_would_gain_a_fifth_of_what_is_compared(self) -> None:
        made, _ = analysis("below-rated", days=60)
        found = standing(made)
        self.assertGreater(found.expected.value, found.spf.cop.value * 1.08)
        self.assertLess(found.expected.value, found.spf.cop.value * 1.25)

    def test_expected_by_hand(self) -> None:
        made, _ = analysis("below-rated", days=60)
        compared = compared_between(made, Period("all", made.start, made.stop))
        spf = standing(made).spf
        used = compared.measured.electricity.value
        saved = used * (1 - compared.comparison.ratio.value)
        by_hand = spf.heat.value / (spf.electricity.value - saved)
        self.assertAlmostEqual(standing(made).expected.value, by_hand, 9)

    def test_words_for_the_metering(self) -> None:
        words = standing(analysis("swapped")[0]).metering_words
        self.assertEqual(words, "no COP, electricity yes")
        self.assertRegex(standing(analysis("as-rated")[0]).metering_words, r"± \d+%")
