"""Clocks against zoneinfo and pandas; daylight saving."""

from datetime import date, datetime
from unittest import TestCase
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
from hypothesis import given
from hypothesis import strategies as st

from ember.basis.calendar import latest_year, months, whole
from ember.basis.clock import (
    instant_of,
    iso_local,
    local_days,
    local_from_utc,
    utc_from_local,
    zone_named,
)
from ember.basis.errors import DescriptionError

ZONES = ("UTC", "WET", "CET", "EST5EDT", "Etc/GMT-3")


class AgainstZoneinfo(TestCase):
    @given(st.sampled_from(ZONES), st.integers(1_500_000_000, 1_900_000_000))
    def test_local_time_is_zoneinfos(self, name, start) -> None:
        zone = ZoneInfo(name)
        instants = start + np.arange(0, 400 * 86400, 86400 * 7 + 3600)
        mine = local_from_utc(instants, zone)
        for instant, local in zip(instants.tolist(), mine.tolist(), strict=True):
            wall = datetime.fromtimestamp(instant, zone).replace(tzinfo=None)
            self.assertEqual(datetime(1970, 1, 1) + pd.Timedelta(seconds=local), wall)

    @given(
        st.sampled_from(ZONES),
        st.integers(1_500_000_000, 1_900_000_000),
        st.sampled_from([60, 300, 900, 1800, 3600]),
    )
    def test_round_trip_over_both_changes(self, name, start, step) -> None:
        """A wall clock read back in its order of rows gives the same instants, doubled hour
        included."""
        zone = ZoneInfo(name)
        start = start // 3600 * 3600
        instants = start + np.arange(0, 370 * 86400, step)
        back, _, missing = utc_from_local(local_from_utc(instants, zone), zone)
        np.testing.assert_array_equal(back, instants)
        self.assertEqual(len(missing), 0)

    def test_against_pandas_with_inferred_doubled_hour(self) -> None:
        """pandas' tz_localize(ambiguous='infer') as reference."""
        local = pd.date_range("2025-10-25 22:00", "2025-10-26 02:59", freq="15min")
        local = local.append(pd.date_range("2025-10-26 02:00", "2025-10-26 06:00", freq="15min"))
        reference = local.tz_localize("CET", ambiguous="infer").as_unit("s").asi8
        seconds = local.as_unit("s").asi8
        mine, doubled, _ = utc_from_local(seconds, ZoneInfo("CET"))
        np.testing.assert_array_equal(mine, reference)
        self.assertEqual(len(doubled), 8)

    def test_the_hour_that_is_left_out_is_reported(self) -> None:
        local = pd.date_range("2026-03-29 01:00", "2026-03-29 04:00", freq="30min")
        mine, _, missing = utc_from_local(local.as_unit("s").asi8, ZoneInfo("CET"))
        self.assertEqual(missing.tolist(), [2, 3])
        self.assertTrue((np.diff(mine)[:3] == 1800).all())


class Days(TestCase):
    def test_days_of_23_and_25_hours(self) -> None:
        zone = ZoneInfo("WET")
        for day, hours in (
            (date(2026, 3, 29), 23),
            (date(2025, 10, 26), 25),
            (date(2026, 1, 1), 24),
        ):
            start = instant_of(day, zone)
            days, edges = local_days(start, start + 3600, zone)
            self.assertEqual(days, [day])
            self.assertEqual(int(np.diff(edges)[0]), hours * 3600)

    def test_months_are_local_and_cut_to_the_record(self) -> None:
        zone = ZoneInfo("CET")
        start, stop = instant_of(date(2025, 10, 15), zone), instant_of(date(2026, 2, 3), zone)
        found = months(start, stop, zone)
        self.assertEqual(
            [p.name for p in found], ["2025-10", "2025-11", "2025-12", "2026-01", "2026-02"]
        )
        self.assertEqual((found[0].start, found[-1].stop), (start, stop))
        self.assertEqual(iso_local(found[1].start, zone), "2025-11-01 00:00")
        self.assertEqual(sum(p.stop - p.start for p in found), stop - start)

    def test_a_year_is_named_only_from_a_year(self) -> None:
        zone = ZoneInfo("CET")
        first = instant_of(date(2025, 1, 1), zone)
        for last, name, latest in (
            (date(2025, 7, 1), "record", False),
            (date(2025, 12, 20), "year", False),
            (date(2026, 3, 1), "record", True),
        ):
            stop = instant_of(last, zone)
            self.assertEqual(whole(first, stop).name, name)
            self.assertEqual(latest_year(first, stop, zone) is not None, latest)

    def test_the_latest_year_from_a_leap_day(self) -> None:
        zone = ZoneInfo("UTC")
        found = latest_year(
            instant_of(date(2022, 1, 1), zone), instant_of(date(2024, 2, 29), zone), zone
        )
        self.assertEqual(iso_local(found.start, zone), "2023-02-28 00:00")

    def test_an_unknown_zone_is_refused(self) -> None:
        for name in ("Mars", "", "../etc"):
            with self.assertRaises(DescriptionError):
                zone_named(name)
