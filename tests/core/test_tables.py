"""The same readings as CSV, spreadsheet, Parquet, Arrow and JSON lines are the same trace."""

import gzip
import json
import zipfile
from datetime import datetime, timedelta
from pathlib import Path
from tempfile import mkdtemp
from unittest import TestCase

import numpy as np
import pyarrow as pa
import xlsxwriter
from hypothesis import given
from hypothesis import settings as examples
from hypothesis import strategies as st
from pyarrow import parquet

from ember.basis.errors import IntakeError
from ember.basis.series import Trace
from ember.intake import IntakeReport, read_log
from tests.core.helpers import installation

START = datetime(2026, 1, 5)
N = 240
HEADERS = ["Time", "Flow temp [°C]", "Return temp [°C]", "Flow rate [L/min]", "Power unit [W]"]


def rows() -> list[list[object]]:
    values = np.random.default_rng(7)
    return [
        [
            START + timedelta(minutes=k),
            round(35 + 3 * float(values.random()), 2),
            round(30 + 3 * float(values.random()), 2),
            round(18 + float(values.random()), 2),
            float(round(1800 + 300 * values.random())),
        ]
        for k in range(N)
    ]


class Case(TestCase):
    def setUp(self) -> None:
        self.folder = Path(mkdtemp())
        self.rows = rows()
        self.csv, _ = self.read("log.csv", self.as_text(lambda t: [t.isoformat(" ")], HEADERS))

    def as_text(self, stamp, headers, separator=",") -> bytes:
        lines = [separator.join(headers)]
        lines += [separator.join(map(str, [*stamp(r[0]), *r[1:]])) for r in self.rows]
        return "\n".join(lines).encode()

    def read(self, name: str, content: bytes | None = None) -> tuple[Trace, IntakeReport]:
        path = self.folder / name
        if content is not None:
            path.write_bytes(content)
        return read_log(path, installation())

    def same(self, trace: Trace) -> None:
        self.assertEqual((trace.start, trace.step, len(trace)), (self.csv.start, 60, N))
        self.assertEqual(set(trace.channels), set(self.csv.channels))
        for channel, values in self.csv.channels.items():
            np.testing.assert_allclose(trace[channel], values, rtol=1e-12, err_msg=channel)

    def refused(self, name: str, content: bytes | None, *words: str) -> None:
        with self.assertRaises(IntakeError) as caught:
            self.read(name, content)
        for word in (name, *words):
            self.assertIn(word, str(caught.exception))


class Spreadsheets(Case):
    def sheet(
        self, name: str, above: int = 0, as_serial: bool = False, split: bool = False
    ) -> Path:
        path = self.folder / name
        segments = xlsxwriter.Workbook(path)
        segments.add_worksheet("Notes").write(0, 0, "made by hand")
        sheet = segments.add_worksheet("Readings")
        stamp = segments.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
        day, clock = (segments.add_format({"num_format": f}) for f in ("yyyy-mm-dd", "hh:mm:ss"))
        for k in range(above):
            sheet.write(k, 0, f"Logger 7, line {k}")
        headers = ["Date", "Time", *HEADERS[1:]] if split else HEADERS
        sheet.write_row(above, 0, headers)
        for k, row in enumerate(self.rows, above + 1):
            when: datetime = row[0]
            if split:
                sheet.write_datetime(k, 0, datetime(when.year, when.month, when.day), day)
                sheet.write_datetime(k, 1, when.time(), clock)
                sheet.write_row(k, 2, row[1:])
                continue
            if as_serial:
                sheet.write_number(k, 0, (when - datetime(1899, 12, 30)) / timedelta(days=1))
            else:
                sheet.write_datetime(k, 0, when, stamp)
            sheet.write_row(k, 1, row[1:])
        segments.close()
        return path

    def test_the_fullest_sheet_is_read(self) -> None:
        self.sheet("log.xlsx")
        trace, report = self.read("log.xlsx")
        self.same(trace)
        self.assertIn("sheet 'Readings' of a spreadsheet (1 other not read)", report.dialect)

    def test_rows_above_the_header(self) -> None:
        self.sheet("log.xlsx", above=4)
        trace, report = self.read("log.xlsx")
        self.same(trace)
        self.assertIn("4 rows above the header", report.dialect)

    def test_days_counted_as_numbers(self) -> None:
        """1899-12-30 is day 0 (ECMA-376, 18.17.4, from memory)."""
        self.sheet("log.xlsx", as_serial=True)
        trace, report = self.read("log.xlsx")
        self.same(trace)
        self.assertIn("days as a spreadsheet counts", report.clock)

    def test_date_and_time_apart(self) -> None:
        self.sheet("log.xlsx", split=True)
        self.same(self.read("log.xlsx")[0])

    def test_row_numbers_are_those_of_the_sheet(self) -> None:
        self.rows[41][1] = 241.0
        self.sheet("log.xlsx")
        _, report = self.read("log.xlsx")
        note = next(n for n in report.notes if n.count == 1 and "241" in n.text)
        self.assertEqual(note.rows, (43,))

    def test_an_open_document_sheet(self) -> None:
        def cell(value: object) -> str:
            if isinstance(value, datetime):
                return (
                    '<table:table-cell office:value-type="date" '
                    f'office:date-value="{value.isoformat()}"><text:p>x</text:p></table:table-cell>'
                )
            if isinstance(value, float):
                return (
                    f'<table:table-cell office:value-type="float" office:value="{value}">'
                    f"<text:p>{value}</text:p></table:table-cell>"
                )
            return (
                '<table:table-cell office:value-type="string">'
                f"<text:p>{value}</text:p></table:table-cell>"
            )

        lines = [HEADERS, *self.rows]
        body = "".join(
            f"<table:table-row>{''.join(map(cell, line))}</table:table-row>" for line in lines
        )
        content = (
            '<?xml version="1.0"?><office:document-content '
            'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
            'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
            'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body>'
            f'<office:spreadsheet><table:table table:name="Log">{body}</table:table>'
            "</office:spreadsheet></office:body></office:document-content>"
        )
        with zipfile.ZipFile(self.folder / "log.ods", "w") as archive:
            archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
            archive.writestr("content.xml", content)
            archive.writestr(
                "META-INF/manifest.xml",
                '<?xml version="1.0"?><manifest:manifest xmlns:manifest='
                '"urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>',
            )
        self.same(self.read("log.ods")[0])

    def test_a_line_break_within_a_cell_shifts_no_row(self) -> None:
        path = self.folder / "notes.xlsx"
        segments = xlsxwriter.Workbook(path)
        sheet = segments.add_worksheet()
        sheet.write_row(0, 0, [*HEADERS, "Note"])
        for k, row in enumerate(self.rows, 1):
            sheet.write_row(k, 0, [str(row[0]), *row[1:], "two\nlines" if k == 9 else ""])
        sheet.write(50, 1, 241.0)
        segments.close()
        trace, report = self.read("notes.xlsx")
        self.assertEqual(len(trace), N)
        self.assertTrue(any(n.rows == (51,) for n in report.notes))

    def test_what_is_no_spreadsheet(self) -> None:
        with zipfile.ZipFile(self.folder / "pack.zip", "w") as archive:
            archive.writestr("log.csv", "x")
        self.refused("pack.zip", None, "zip archive", "Unpack it")
        self.refused("broken.xlsx", b"PK\x03\x04" + bytes(200), "damaged")
        empty = xlsxwriter.Workbook(self.folder / "empty.xlsx")
        empty.add_worksheet()
        empty.close()
        self.refused("empty.xlsx", None, "holds anything")

    def test_a_bomb_is_not_unpacked(self) -> None:
        with zipfile.ZipFile(
            self.folder / "bomb.xlsx", "w", zipfile.ZIP_DEFLATED, compresslevel=9
        ) as archive:
            archive.writestr("xl/workbook.xml", "x")
            with archive.open("xl/worksheets/sheet1.xml", "w") as file:
                for _ in range(150):
                    file.write(bytes(1 << 20))
        self.assertLess((self.folder / "bomb.xlsx").stat().st_size, 1 << 20)
        self.refused("bomb.xlsx", None, "would unpack to")

    def test_a_gzip_bomb(self) -> None:
        self.refused("bomb.csv.gz", gzip.compress(bytes(130 << 20), 9), "not read")


class Columnar(Case):
    def table(self, zone: str | None = None) -> pa.Table:
        times = pa.array([row[0] for row in self.rows], pa.timestamp("us", zone))
        columns = {HEADERS[0]: times}
        columns |= {h: pa.array([r[k] for r in self.rows]) for k, h in enumerate(HEADERS) if k}
        return pa.table(columns)

    def test_parquet(self) -> None:
        for zone in (None, "UTC"):
            parquet.write_table(self.table(zone), self.folder / "log.parquet")
            trace, report = self.read("log.parquet")
            self.same(trace)
            self.assertEqual(report.dialect, "Parquet")

    def test_arrow_file_and_stream(self) -> None:
        table = self.table()
        for name, opened in (("a.arrow", pa.ipc.new_file), ("b.arrows", pa.ipc.new_stream)):
            with opened(self.folder / name, table.schema) as writer:
                writer.write_table(table)
            self.same(self.read(name)[0])

    def test_dictionaries_and_flags(self) -> None:
        table = self.table()
        on = pa.array([k % 7 == 0 for k in range(N)])
        table = table.append_column("Defrost on", on)
        parquet.write_table(table, self.folder / "log.parquet")
        trace, _ = self.read("log.parquet")
        self.assertEqual(int(np.nansum(trace["defrost_on"])), sum(k % 7 == 0 for k in range(N)))

    def test_what_cannot_be_read(self) -> None:
        nested = pa.table({"time": ["2026-01-05T00:00:00Z"], "list": [[1, 2]]})
        parquet.write_table(nested, self.folder / "nested.parquet")
        self.refused("nested.parquet", None, "'list' holds lists")
        self.refused("broken.parquet", b"PAR1" + bytes(50), "Parquet file cannot be read")
        self.refused("broken.arrow", b"ARROW1" + bytes(50), "Arrow file cannot be read")


class Json(Case):
    def records(self) -> list[dict[str, object]]:
        return [{**dict(zip(HEADERS, r, strict=True)), "Time": str(r[0])} for r in self.rows]

    def test_lines_and_list(self) -> None:
        lines = "\n".join(json.dumps(record) for record in self.records())
        self.same(self.read("log.jsonl", lines.encode())[0])
        self.same(self.read("log.json", json.dumps(self.records()).encode())[0])
        self.same(self.read("pretty.json", json.dumps(self.records(), indent=1).encode())[0])

    def test_a_field_that_comes_later_and_a_null(self) -> None:
        records = self.records()
        records[5]["Flow temp [°C]"] = None
        for record in records[100:]:
            record["Outdoor temp [°C]"] = 3.5
        trace, _ = self.read("log.jsonl", "\n".join(map(json.dumps, records)).encode())
        self.assertEqual(int(np.isfinite(trace["outdoor_temp"]).sum()), N - 100)

    def test_what_cannot_be_read(self) -> None:
        self.refused("bad.jsonl", b'{"time": 1}\n{"time": \n', "row 2")
        self.refused("bad.json", b'[{"time": 1},\n {"a"]', "row 2")
        self.refused("nested.jsonl", b'{"time": 1, "flow": {"t": 3}}\n', "'flow' holds")
        self.refused("list.json", b"[ 1, 2, 3 ]", "no list of objects")


class Clocks(Case):
    @examples(max_examples=25)
    @given(
        st.sampled_from(["%Y-%m-%d", "%d.%m.%Y", "%m/%d/%Y", "%d/%m/%Y", "%Y/%m/%d"]),
        st.sampled_from(["%H:%M:%S", "%H:%M", "%I:%M:%S %p"]),
        st.sampled_from([";", "\t", ","]),
        st.booleans(),
    )
    def test_date_and_time_apart_in_any_writing(self, date, clock, separator, swapped) -> None:
        names = ["Uhrzeit", "Datum"] if swapped else ["Date", "Time"]

        def stamp(when: datetime) -> list[str]:
            both = [when.strftime(date), when.strftime(clock)]
            return both[::-1] if swapped else both

        self.rows = [[r[0] + timedelta(days=20), *r[1:]] for r in rows()]
        content = self.as_text(stamp, [*names, *HEADERS[1:]], separator)
        trace, _ = self.read("apart.csv", content)
        self.assertEqual(trace.start, self.csv.start + 20 * 86_400)
        np.testing.assert_allclose(trace["flow_temp"], self.csv["flow_temp"])

    def test_a_header_that_says_utc_is_believed(self) -> None:
        local = installation(zone="CET")
        for header, shift in (("Time", 3600), ("Time UTC", 0), ("time (utc)", 0), ("gmt time", 0)):
            path = self.folder / "utc.csv"
            path.write_bytes(self.as_text(lambda t: [t.isoformat(" ")], [header, *HEADERS[1:]]))
            trace, report = read_log(path, local)
            self.assertEqual(trace.start, self.csv.start - shift, header)
            self.assertIn("UTC" if not shift else "CET", report.clock)

    def test_a_row_without_its_time_of_day_is_left_out_and_named(self) -> None:
        lines = (
            self.as_text(
                lambda t: [f"{t:%Y-%m-%d}", f"{t:%H:%M:%S}"], ["Date", "Time", *HEADERS[1:]]
            )
            .decode()
            .splitlines()
        )
        cells = lines[50].split(",")
        cells[1] = "late"
        lines[50] = ",".join(cells)
        _, report = self.read("apart.csv", "\n".join(lines).encode())
        self.assertTrue(any(n.rows == (51,) and "late" in n.text for n in report.notes))
