"""The stretches about a change: local days on either side of it, also where the clocks change."""

from datetime import date
from unittest import TestCase

from ember.assessment.assess import assessed
from ember.basis.clock import DAY, HOUR, instant_of, zone_named
from ember.basis.errors import EmberError
from ember.views.change_seen import (
    CHANGE_LONGEST,
    change_seen,
    change_summary,
    stretches,
)
from tests.core.helpers import simulated

FIRST = date(2025, 10, 1)  # of the record, in a zone whose clocks go back on 26 October


class Stretches(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        done = simulated("as-rated", days=60, first_day=FIRST)
        _, cls.within = assessed(done.installation, done.trace())
        cls.analysis = cls.within.analysis
        cls.zone = zone_named(done.installation.zone)

    def test_they_touch_at_the_beginning_of_its_day(self) -> None:
        found = stretches(self.analysis, date(2025, 11, 1), days=10)
        self.assertEqual(found.before.stop, instant_of(date(2025, 11, 1), self.zone))
        self.assertEqual(found.after.start, found.before.stop)
        # Ten local days before it hold the night that has an hour more.
        self.assertEqual(found.before.stop - found.before.start, 10 * DAY + HOUR)
        self.assertEqual(found.after.stop - found.after.start, 10 * DAY)
        self.assertEqual(len(found.ends), 5)  # of three stretches, one end shared

    def test_days_left_out_after_it(self) -> None:
        found = stretches(self.analysis, date(2025, 11, 1), days=10, skip=4)
        self.assertEqual(found.after.start - found.before.stop, 4 * DAY)
        self.assertEqual(found.after.stop - found.after.start, 10 * DAY)

    def test_no_more_than_there_is(self) -> None:
        found = stretches(self.analysis, date(2025, 10, 20), days=10**9)
        self.assertEqual(
            (found.before.start, found.after.stop), (self.analysis.start, self.analysis.stop)
        )
        self.assertEqual(found.year.stop - found.year.start, 60 * DAY)

    def test_where_there_is_no_day_on_one_side(self) -> None:
        for at, more, side in (
            (date(2025, 10, 1), {}, "before"),
            (date(1, 1, 1), {}, "before"),
            (date(2025, 12, 1), {}, "after"),
            (date(9999, 12, 31), {}, "after"),
            (date(2025, 11, 20), {"skip": 10**9}, "after"),
        ):
            with self.assertRaisesRegex(EmberError, f"no whole day {side}.*2025-10-01") as raised:
                stretches(self.analysis, at, **more)
            self.assertEqual(raised.exception.where, "at")

    def test_a_day_at_least_and_a_year_at_most(self) -> None:
        one = stretches(self.analysis, date(2025, 11, 20), days=-3)
        self.assertEqual(one.before.stop - one.before.start, DAY)
        far = stretches(self.analysis, date(2025, 11, 20), days=CHANGE_LONGEST + 100)
        self.assertEqual(far, stretches(self.analysis, date(2025, 11, 20), days=CHANGE_LONGEST))

    def test_what_goes_out_is_what_was_seen(self) -> None:
        at = date(2025, 11, 1)
        about = stretches(self.analysis, at)
        seen = change_seen(self.analysis, self.within.found.hours, about, 250.0)
        told = change_summary(seen, at)
        self.assertEqual(
            (told.at, told.before, told.after), ("2025-11-01", about.before, about.after)
        )
        for name in ("electricity", "heat"):
            one, reason = getattr(told, name), getattr(told, f"{name}_reason")
            self.assertEqual(one is None, reason is not None)
            self.assertEqual(one is None, getattr(seen.compared, name) is not one)
        self.assertEqual(told.alike, tuple(seen.alike))
        self.assertEqual(told.cost, 250.0)
