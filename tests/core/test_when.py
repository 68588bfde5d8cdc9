"""Times as people write them."""

import tempfile
from datetime import datetime, timedelta
from pathlib import Path
from unittest import TestCase

import numpy as np
import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.intake import read_log, when
from tests.core.helpers import installation

NOW = datetime(2026, 3, 1).timestamp()
# One instant, 1 November 2024, 00:01; ISO 8601 apart these are conventions, common practice.
WRITTEN = (
    "01.11.2024 00:01:00", "01. 11. 2024 00:01", "1.11.24 0.01", "01.11.2024-00:01",
    "2024年11月1日 0時01分", "2024/11/01 上午12:01", "2024. 11. 1. 오전 12:01",
    "11/01/2024 12:01 AM", "11/1/24 12:01:00 a.m.", "Nov 1, 2024 12:01 AM", "1-Nov-2024 00:01",
    "Fri 01.11.2024 00:01", "1 nov. 2024 00:01:00", "20241101000100", "20241101 0001",
    "2024-11-01 00.01.00", "01/11/2024 à 00h01", "2024-11-01, 00:01:00",
    "Friday, 1 November 2024 00:01", "2024-11-01 00:01:00.000",
)  # fmt: skip
SHAPES = (
    "%d.%m.%Y %H:%M", "%m/%d/%Y %I:%M %p", "%Y年%m月%d日 %H時%M分", "%d-%m-%y %H.%M.%S",
    "%d. %m. %Y %H:%M:%S", "%Y%m%d%H%M%S", "%b %d, %Y %I:%M:%S %p", "%d/%m/%Y-%H:%M",
)  # fmt: skip


class Reading(TestCase):
    def test_one_instant_in_many_ways(self) -> None:
        wanted = datetime(2024, 11, 1, 0, 1)
        for text in WRITTEN:
            column = pa.chunked_array([pa.array([text])])
            read = {
                str(np.datetime64(int(when.seconds(column, order)[0]), "s"))
                for order in when.fitting([text])
            }
            self.assertIn(wanted.isoformat(), read, text)

    def test_an_offset_is_taken_off(self) -> None:
        text = "01.11.2024 00:01:00 +01:00"
        self.assertTrue(when.zoned([text]))
        found = when.seconds(pa.chunked_array([pa.array([text])]), "dmy")[0]
        self.assertEqual(str(np.datetime64(int(found), "s")), "2024-10-31T23:01:00")

    def test_what_is_no_time_is_none(self) -> None:
        for text in ("35.2", "31.02.2024 10:00", "2024-13-01 10:00", "10:61", "hello 1 2 3", "25"):
            column = pa.chunked_array([pa.array([text])])
            self.assertTrue(
                all(np.isnan(when.seconds(column, o)[0]) for o in when.WHEN_ORDERS), text
            )

    @settings(max_examples=25, deadline=None)
    @given(st.sampled_from(SHAPES), st.datetimes(datetime(2020, 1, 13), datetime(2029, 12, 1)))
    def test_a_week_of_any_shape(self, shape: str, begin: datetime) -> None:
        begin = begin.replace(second=0, microsecond=0)
        times = [begin + timedelta(hours=5 * k) for k in range(34)]
        cells = [t.strftime(shape) for t in times]
        order = when.fitting(cells)[0]  # day and month are settled by the week being short
        found = when.seconds(pa.chunked_array([pa.array(cells)]), order)
        wanted = [(t - datetime(1970, 1, 1)).total_seconds() for t in times]
        np.testing.assert_array_equal(found, wanted)


class Logs(TestCase):
    def read(self, lines: list[str]):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text("\n".join(lines), encoding="utf-8")
            return read_log(path, installation(zone="UTC"), NOW)

    def test_logs_in_every_shape_give_the_same_grid(self) -> None:
        times = [datetime(2025, 11, 20) + timedelta(minutes=k) for k in range(300)]
        for shape in SHAPES:
            lines = ["when;flow_temp_c;return_temp_c;flow_rate_lpm;power_unit_w"]
            lines += [f"{t.strftime(shape)};35.0;30.0;20.0;2000" for t in times]
            trace, _ = self.read(lines)
            self.assertEqual((trace.start, len(trace)), (1_763_596_800, 300), shape)

    def test_date_and_time_apart_under_any_header(self) -> None:
        lines = ["A;B;flow_temp_c;return_temp_c;flow_rate_lpm;power_unit_w"]
        lines += [f"20.11.2025;{k // 60}.{k % 60:02}.00;35;30;20;2000" for k in range(300)]
        trace, _ = self.read(lines)
        self.assertEqual((trace.start, len(trace)), (1_763_596_800, 300))

    def test_days_of_a_spreadsheet_without_a_word(self) -> None:
        lines = ["x;flow_temp_c;return_temp_c;flow_rate_lpm;power_unit_w"]
        lines += [f"{45981 + k / 1440:.8f};35;30;20;2000" for k in range(300)]
        trace, report = self.read(lines)
        self.assertEqual((trace.start, len(trace)), (1_763_596_800, 300))
        self.assertIn("spreadsheet", report.clock)
