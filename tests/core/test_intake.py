"""Log files: dialects, units, clocks, and what is said of every loss."""

import gzip
import tempfile
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import TestCase, mock

import numpy as np
import pandas as pd
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.assessment.assess import assess
from ember.basis.errors import IntakeError
from ember.description.installation import ElectricityMeter
from ember.description.logged import Column
from ember.intake import Treatment, read_log
from ember.intake.dialect import Dialect
from ember.intake.mapping import _unit_of
from ember.intake.recognise import recognised
from ember.intake.sample import Sample
from stand_ins.dialects import DIALECTS, write_log
from tests.core.helpers import UNIT, installation, simulated

NOW = 1_790_000_000  # 2026-09-21, after every reading in these files
HEADER = "time,flow_temp_c,return_temp_c,flow_rate_lpm,power_unit_w,outdoor_temp_c"


def rows(n=200, start="2026-01-10T00:00:00Z", step="60s"):
    """A plain log of n rows."""
    times = pd.date_range(start, periods=n, freq=step).strftime("%Y-%m-%dT%H:%M:%SZ")
    return [f"{t},35.0,30.0,20.0,2000,2.5" for t in times]


class Files(TestCase):
    """Reads text as a file."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def path(self, content: str | bytes, name: str = "log.csv") -> Path:
        path = self.folder / name
        path.write_bytes(content.encode() if isinstance(content, str) else content)
        return path

    def read(self, content, described=None, name="log.csv"):
        return read_log(self.path(content, name), described or installation(), NOW)

    def refusal(self, content, described=None, name="log.csv") -> str:
        with self.assertRaises(IntakeError) as caught:
            self.read(content, described, name)
        text = str(caught.exception)
        self.assertTrue(text.startswith(name), text)
        self.assertNotIn("Traceback", text)
        return text


class Plain(Files):
    def test_values_arrive_in_the_cores_units(self) -> None:
        trace, report = self.read("\n".join([HEADER, *rows()]))
        self.assertEqual((trace.step, len(trace)), (60, 200))
        self.assertEqual(trace.start, 1_768_003_200)
        self.assertAlmostEqual(float(trace["flow_rate"][0]), 20 / 60000)
        self.assertEqual(float(trace["power:unit"][0]), 2000.0)
        self.assertEqual(report.rows, 200)
        reasons = {c.channel: c.reason for c in report.columns}
        self.assertEqual(reasons["flow_rate"], "the header says 'flow rate' and L/min")

    def test_a_described_mapping_goes_before_any_guess(self) -> None:
        described = installation(
            columns=(
                Column("A", "flow_temp", "°F"),
                Column("B", "return_temp", "°F"),
                Column("C", "flow_rate", "gpm"),
                Column("D", "power:unit", "kW"),
            ),
            time_column="T",
        )
        lines = [f"2026-01-10T00:{m:02}:00Z,95,86,5.283,2" for m in range(10)]
        trace, report = self.read("\n".join(["T,A,B,C,D", *lines]), described)
        np.testing.assert_allclose(trace["flow_temp"], 35.0)
        np.testing.assert_allclose(trace["flow_rate"], 20 / 60000, rtol=1e-3)
        np.testing.assert_allclose(trace["power:unit"], 2000.0)
        self.assertEqual(str(report.columns[0].reason), "said by the description")

    def test_gaps_stay_gaps(self) -> None:
        lines = rows()
        trace, _ = self.read("\n".join([HEADER, *lines[:50], *lines[110:]]))
        self.assertEqual(int(np.isnan(trace["flow_temp"]).sum()), 60)

    def test_a_slow_channel_holds_and_says_so(self) -> None:
        lines = [
            line if k % 5 == 0 else line.rsplit(",", 1)[0] + "," for k, line in enumerate(rows())
        ]
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(trace.native_of("outdoor_temp"), 300.0)
        self.assertTrue(np.isfinite(trace["outdoor_temp"]).all())
        self.assertTrue(
            any(
                "hold the reading before them: 'outdoor_temp_c' 160" in n.text for n in report.notes
            )
        )

    def test_jitter_lands_on_the_grid(self) -> None:
        rng = np.random.default_rng(1)
        stamps = 1_768_003_200 + np.arange(300) * 60 + rng.integers(-8, 9, 300)
        lines = [f"{t},35,30,20,2000,2" for t in stamps]
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(trace.step, 60)
        self.assertTrue(np.isfinite(trace["flow_temp"]).mean() > 0.99)
        self.assertIn("UTC", report.clock)

    def test_column_order_changes_nothing(self) -> None:
        lines = rows()
        turned = [",".join([p[0], *p[1:][::-1]]) for p in (line.split(",") for line in lines)]
        header = ",".join([HEADER.split(",")[0], *HEADER.split(",")[1:][::-1]])
        one, _ = self.read("\n".join([HEADER, *lines]))
        other, _ = self.read("\n".join([header, *turned]))
        for channel in one.channels:
            np.testing.assert_array_equal(one[channel], other[channel])

    def test_how_the_file_is_cut_into_blocks_changes_nothing(self) -> None:
        path = self.path("\n".join([HEADER, *rows(3000)]))
        whole, _ = read_log(path, installation(), NOW)
        for block in (1 << 10, 7919, 1 << 16):
            with mock.patch("ember.intake.read.READ_BLOCK", block):
                cut, _ = read_log(path, installation(), NOW)
            for channel in whole.channels:
                np.testing.assert_array_equal(whole[channel], cut[channel])

    def test_newest_first(self) -> None:
        one, _ = self.read("\n".join([HEADER, *rows()]))
        other, report = self.read("\n".join([HEADER, *rows()[::-1]]))
        self.assertEqual((one.start, len(one)), (other.start, len(other)))
        self.assertTrue(any("newest row" in n.text for n in report.notes))

    def test_utf16_preamble_units_row_and_quotes(self) -> None:
        lines = [
            "Export of logger 7",
            "",
            '"Zeit";"Vorlauf";"Rücklauf";"Durchfluss";"Power"',
            '"";"°C";"°C";"m³/h";"kW"',
        ]
        lines += [f'"10.01.2026 00:{m:02}";"35,5";"30,0";"1,2";"2,0"' for m in range(30)]
        described = installation(zone="CET")
        trace, report = self.read("\r\n".join(lines).encode("utf-16"), described)
        self.assertEqual(trace.start, 1_767_999_600)
        np.testing.assert_allclose(trace["flow_temp"], 35.5)
        np.testing.assert_allclose(trace["power:unit"], 2000.0)
        self.assertIn("semicolon-separated, decimal comma", report.dialect)

    def test_windows_1252(self) -> None:
        text = "\n".join([HEADER.replace("flow_temp_c", "Rücklauf [°C]"), *rows()])
        text = text.replace(",return_temp_c,", ",Flow temp [°C],")
        trace, report = self.read(text.encode("cp1252"))
        self.assertIn("Windows-1252", report.dialect)
        np.testing.assert_allclose(trace["return_temp"], 35.0)


class Dialects(Files):
    """The same readings in every dialect, gzipped or not, whatever the order of the columns."""

    def test_dialect_changes_nothing(self) -> None:
        # Over the end of summer time, so that local clocks show an hour twice.
        done = simulated("as-rated", days=40, first_day=date(2025, 10, 1), step=300)
        traces, assessments = {}, {}
        for name in DIALECTS:
            path = self.folder / f"{name}.csv{'.gz' if name == 'telemetry' else ''}"
            order = list(done.columns)[::-1] if name == "american" else None
            write_log(done, path, name, order)
            traces[name], report = read_log(path, done.installation, NOW)
            self.assertEqual(report.rows, len(done.stamps), name)
            assessments[name] = assess(done.installation, traces[name])
        reference = done.trace()
        for name, trace in traces.items():
            self.assertEqual(
                (trace.start, trace.step, len(trace)), (reference.start, 300, len(reference)), name
            )
            for channel in ("flow_temp", "flow_rate", "power:unit", "heat_energy"):
                np.testing.assert_allclose(
                    trace[channel], reference[channel], rtol=2e-3, atol=1e-9, err_msg=name
                )
            one, other = assessments[name].main, assessments["plain"].main
            self.assertAlmostEqual(one.cop.value / other.cop.value, 1.0, places=3)


class Numbers(Files):
    @settings(max_examples=15)
    @given(st.floats(-30, 60).map(lambda v: round(v, 2)), st.booleans())
    def test_decimal_signs(self, value, comma) -> None:
        text = f"{value:.2f}".replace(".", "," if comma else ".")
        separator = ";" if comma else ","
        lines = [
            separator.join([f"2026-01-10T00:{m:02}:00Z", text, "30", "20", "2000", "2"])
            for m in range(20)
        ]
        trace, _ = self.read("\n".join([HEADER.replace(",", separator), *lines]))
        np.testing.assert_allclose(trace["flow_temp"], value, atol=1e-9)

    def test_missing_units_are_doubted(self) -> None:
        header = "time,flow temp,return temp,flow rate,power,outdoor"
        trace, report = self.read("\n".join([header, *rows()]))
        doubts = [n.text for n in report.notes if n.treatment == Treatment.DOUBTED]
        self.assertIn("'power': no unit in the header; taken as W (largest value 2000).", doubts)
        self.assertIn(
            "'flow rate': no unit in the header; taken as L/min (largest value 20).", doubts
        )
        self.assertEqual(float(trace["power:unit"][0]), 2000.0)

    def test_unreadable_cells_are_left_out_by_row(self) -> None:
        lines = rows()
        lines[6] = lines[6].replace("35.0", "oops")
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(trace["flow_temp"][6], trace["flow_temp"][5])  # bridged, and said
        (left,) = [n for n in report.notes if n.treatment == Treatment.LEFT_OUT]
        self.assertEqual(left.rows, (8,))
        self.assertIn("Row 8: 'flow_temp_c' is 'oops'", left.text)

    def test_impossible_values_are_left_out_by_row_with_a_question(self) -> None:
        lines = rows()
        lines[10] = lines[10].replace("30.0", "141")
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(trace["return_temp"][10], trace["return_temp"][9])  # bridged, and said
        (left,) = [n for n in report.notes if n.treatment == Treatment.LEFT_OUT]
        self.assertIn("Row 12: 'return_temp_c' is 141 °C; is the column in °F?", left.text)

    def test_words_for_on_and_off(self) -> None:
        lines = [f"{row},{'ON' if k < 50 else 'off'}" for k, row in enumerate(rows())]
        trace, _ = self.read("\n".join([HEADER + ",defrost", *lines]))
        np.testing.assert_array_equal(trace["defrost_on"], np.arange(200) < 50)

    def test_the_word_for_no_reading(self) -> None:
        lines = rows()
        for k, word in enumerate(("NaN", "n/a", "unavailable", "-", "")):
            lines[k] = lines[k].replace("35.0", word)
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(int(np.isnan(trace["flow_temp"]).sum()), 5)
        self.assertFalse([n for n in report.notes if n.treatment == Treatment.LEFT_OUT])

    def test_a_short_row_and_a_blank_one(self) -> None:
        lines = rows()
        lines[20] = "2026-01-10T00:20:00Z,35.0"
        lines.insert(30, "")
        trace, report = self.read("\n".join([HEADER, *lines]))
        (left,) = [n for n in report.notes if n.treatment == Treatment.LEFT_OUT]
        self.assertEqual(left.rows, (22,))
        self.assertEqual(report.rows, 199)
        # One lost reading between two is bridged, and said.
        self.assertEqual(float(trace["flow_temp"][20]), 35.0)
        self.assertTrue(any("'flow_temp_c' 1" in n.text for n in report.notes))

    def test_rows_after_a_bad_one_keep_their_numbers(self) -> None:
        lines = rows()
        lines[20] = "2026-01-10T00:20:00Z,35.0"
        lines[50] = lines[50].replace("35.0", "999")
        _, report = self.read("\n".join([HEADER, *lines]))
        numbers = {n.rows for n in report.notes if n.treatment == Treatment.LEFT_OUT}
        self.assertEqual(numbers, {(22,), (52,)})


class Times(Files):
    def test_repeated_and_disordered_times_are_mended_and_said(self) -> None:
        lines = rows()
        lines[40], lines[41] = lines[41], lines[40]
        lines[100] = lines[99]
        trace, report = self.read("\n".join([HEADER, *lines]))
        texts = " ".join(n.text for n in report.notes)
        self.assertIn("Row 43: out of order; sorted by time.", texts)
        self.assertIn("the time of another row again", texts)
        self.assertEqual(len(trace), 200)

    def test_day_and_month_are_told_by_days_above_twelve(self) -> None:
        for pattern in ("%d/%m/%Y %H:%M", "%m/%d/%Y %H:%M", "%d.%m.%Y %H:%M:%S"):
            times = pd.date_range("2026-01-10", periods=400, freq="1h").strftime(pattern)
            lines = [f"{t},35.0,30.0,20.0,2000,2.5" for t in times]
            trace, _ = self.read("\n".join([HEADER, *lines]))
            self.assertEqual(trace.start, 1_768_003_200, pattern)

    def test_newest_first_over_the_doubled_hour(self) -> None:
        instants = pd.date_range("2025-10-25T20:00Z", periods=72, freq="10min")
        walls = instants.tz_convert("CET").strftime("%d.%m.%Y %H:%M")
        lines = [f"{t},35.0,30.0,20.0,{1000 + k},2.5" for k, t in enumerate(walls)][::-1]
        trace, _ = self.read("\n".join([HEADER, *lines]), installation(zone="CET"))
        self.assertEqual(trace.start, int(instants[0].timestamp()))
        np.testing.assert_array_equal(trace["power:unit"], 1000 + np.arange(72))

    def test_epochs(self) -> None:
        for scale in (1, 1000):
            lines = [f"{(1_768_003_200 + 60 * k) * scale},35,30,20,2000,2" for k in range(100)]
            trace, _ = self.read("\n".join([HEADER, *lines]))
            self.assertEqual((trace.start, trace.step), (1_768_003_200, 60))

    def test_offsets(self) -> None:
        lines = [line.replace("Z", "+02:00") for line in rows()]
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(trace.start, 1_768_003_200 - 7200)
        self.assertEqual(report.clock, "ISO 8601 with offset")

    def test_times_that_no_clock_shows_are_left_out(self) -> None:
        lines = rows()
        for k, wrong in enumerate(("T00:95:00Z", "T25:00:00Z", "T00:03:61Z", "T00:04:00")):
            lines[k] = "2026-01-10" + wrong + lines[k][20:]
        _, report = self.read("\n".join([HEADER, *lines]))
        (left,) = [
            n for n in report.notes if n.treatment == Treatment.LEFT_OUT and "no time" in n.text
        ]
        self.assertEqual((left.rows, report.rows), ((2, 3, 4, 5), 196))

    def test_a_few_impossible_dates_are_left_out(self) -> None:
        lines = rows()
        lines[3] = lines[3].replace("2026-01-10", "2062-01-10")
        lines[4] = lines[4].replace("2026-01-10", "1970-01-10")
        trace, report = self.read("\n".join([HEADER, *lines]))
        self.assertEqual(len(trace), 200)
        texts = " ".join(n.text for n in report.notes)
        self.assertIn("Rows 5 and 6: the time lies in the future (2062-01-10", texts)


class Broken(Files):
    """Each a sentence that says what, where and what to do."""

    def test_sentences(self) -> None:
        lines = rows()
        wide = ",".join(["time", *(f"c{k}" for k in range(1000))])
        cases = {
            "the file is empty": "",
            "a PNG picture": b"\x89PNG\r\n\x1a\n" + bytes(200),
            "a binary file": b"MZ" + bytes(range(256)),
            "1,001 columns": "\n".join([wide, *[",".join(["1"] * 1001)] * 3]),
            "no separator divides": "\n".join([HEADER, *lines[:20]]).replace(",", " "),
            "no time was found": "\n".join(
                [HEADER, *[f"x{k},35.0,30.0,20.0,2000,2.5" for k in range(50)]]
            ),
            "lies in the future": "\n".join([HEADER, *rows(start="2062-01-10T00:00:00Z")]),
            "before the year 2000": "\n".join([HEADER, *rows(start="1970-01-10T00:00:00Z")]),
            "no header stands above": "\n".join(lines),
            "no row with readings": HEADER + "\na,b,c,d,e,f\n",
            "has a usable number": "\n".join(
                [HEADER, *[f"{line.split(',')[0]},NaN,NaN,NaN,NaN,NaN" for line in lines]]
            ),
            "is in °F?": "\n".join([HEADER, *[x.replace("35.0", "141") for x in lines]]).replace(
                "is the column in °F?", "is in °F?"
            ),
            "rows repeat a time": "\n".join([HEADER, *[lines[0]] * 200]),
            "no column was recognised as anything": "\n".join(
                ["time,velocity,colour", *[f"{line.split(',')[0]},1,2" for line in lines]]
            ),
            "days apart": "\n".join([HEADER, *rows(20, step="48h")]),
            "only one usable row": "\n".join([HEADER, lines[0]]),
        }
        for words, content in cases.items():
            with self.subTest(words):
                text = self.refusal(content)
                if words == "is in °F?":
                    self.assertIn("is the column in °F?", text)
                else:
                    self.assertIn(words, text)
                self.assertTrue(text.endswith((".", "?")), text)

    def test_mixed_separators(self) -> None:
        lines = rows()
        mixed = [x.replace(",", ";") if k % 3 == 0 else x for k, x in enumerate(lines)]
        text = self.refusal("\n".join([HEADER, *mixed]))
        self.assertIn("Rows 2, 5, 8, 11, 14 and 62 more have another number of fields", text)

    def test_shuffled_times(self) -> None:
        lines = rows()
        np.random.default_rng(3).shuffle(lines)
        self.assertIn("the times go backwards", self.refusal("\n".join([HEADER, *lines])))

    def test_a_truncated_gzip(self) -> None:
        whole = gzip.compress("\n".join([HEADER, *rows(5000)]).encode())
        text = self.refusal(whole[: len(whole) // 2], name="log.csv.gz")
        self.assertIn("breaks off before its end", text)

    def test_a_wrong_encoding(self) -> None:
        text = self.refusal(b"\xff\xfe" + b"time,a\n2026,1\nx")
        self.assertIn("says it is UTF-16 and is not", text)

    def test_no_such_file_and_a_folder(self) -> None:
        for path in (self.folder / "none.csv", self.folder):
            with self.assertRaisesRegex(IntakeError, "cannot be read"):
                read_log(path, installation(), NOW)

    def test_a_described_column_that_is_not_there(self) -> None:
        described = installation(columns=(Column("P", "power:unit", "kW"),))
        text = self.refusal("\n".join([HEADER, *rows()]), described)
        self.assertIn("column 'P' of the description is not in the header (row 1", text)

    def test_a_column_of_another_kind(self) -> None:
        described = installation(columns=(Column("flow_temp_c", "power:unit"),))
        text = self.refusal("\n".join([HEADER, *rows()]), described)
        self.assertIn("is in °C, which cannot be electric power", text)


NOTHING = Sample(np.empty(0), np.empty(0, np.int64), {}, {})


def _sheet(headers):
    """A dialect with these headers and no readings."""
    return Dialect("UTF-8", ",", ".", headers, None, 1, 2, (), None)


class Guessing(TestCase):
    def test_headers_of_the_trade(self) -> None:
        for header, quantity in (
            ("Flow [°C]", "flow_temp"),
            ("Flow (L/min)", "flow_rate"),
            ("T_return", "return_temp"),
            ("Supply temp_f", "flow_temp"),
            ("Outside temperature °C", "outdoor_temp"),
            ("Heat meter kWh", "heat_energy"),
            ("Compressor", "compressor_on"),
            ("Rücklauf [°C]", "return_temp"),
            ("Leaving water temp (°F)", "flow_temp"),
            ("Relative humidity %", "outdoor_humidity"),
            ("Electric power kW", "power"),
            ("Energy import kWh", "energy"),
            ("DHW valve", "hot_water_on"),
        ):
            unit, words = _unit_of(_sheet((header,)), 0)
            found = recognised(_sheet((header,)), NOTHING, {0: (unit, words)}, set())[0][0]
            self.assertEqual(found.quantity, quantity, header)

    def test_a_log_without_electricity_is_read_and_says_so(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text("\n".join([HEADER.replace("power_unit_w", "velocity"), *rows()]))
            trace, report = read_log(path, installation(), NOW)
        self.assertIn("flow_temp", trace)
        self.assertTrue(any("recognised as electricity" in n.text for n in report.notes))

    def test_a_guess_that_fails_costs_its_column_not_the_file(self) -> None:
        header = f"{HEADER},compressor,valve,tank_temp_c"
        lines = [f"{row},{40 + k % 50},maybe,{'ON'}" for k, row in enumerate(rows())]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text("\n".join([header, *lines]))
            trace, report = read_log(path, installation(), NOW)
        for channel in ("compressor_on", "hot_water_on", "tank_temp"):
            self.assertNotIn(channel, trace)
        unused = [n.text for n in report.notes if "the column is unused" in n.text]
        self.assertEqual(len(unused), 3)

    def test_several_power_columns_go_to_their_meters(self) -> None:
        done = simulated("as-rated", days=2)
        meters = {m.channel for m in done.installation.electricity}
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            write_log(done, path)
            trace, _ = read_log(path, done.installation, NOW)
        self.assertLessEqual(meters, set(trace.channels))

    def test_a_register_is_not_taken_for_the_power(self) -> None:
        described = installation(electricity=(ElectricityMeter("unit meter", "energy:unit", UNIT),))
        described = replace(described, corrections=())
        lines = ["time,flow_temp_c,return_temp_c,flow_rate_lpm,power_w,energy_kwh"]
        lines += [f"2026-01-10T00:{m:02}:00Z,35,30,20,2000,{100 + m / 30:.3f}" for m in range(50)]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text("\n".join(lines))
            trace, report = read_log(path, described, NOW)
        self.assertIn("energy:unit", trace)
        named = {c.header: c.channel for c in report.columns}
        self.assertEqual(named["power_w"], "power")  # recognised, beside the register in use
