"""Files of a few bytes that ask for all the memory or time there is: refused, and nothing falls."""

import io
import json
import tempfile
import threading
import tracemalloc
import unittest
import zipfile
from pathlib import Path

import pyarrow as pa
from pyarrow import ipc, parquet

from ember.basis.errors import IntakeError
from ember.intake.dialect import load
from ember.unpacked import Limits, limited, unpacked
from ember.unpacked.formats import FORMATS_MOST_CELLS, json_text, kind_of

WORKBOOK = """<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"
 xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships">
<sheets><sheet name="Log" sheetId="1" r:id="rId1"/></sheets></workbook>"""
RELATIONS = """<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
<Relationship Id="rId1" Target="{target}"
 Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/{kind}"/>
</Relationships>"""
TYPES = """<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
<Default Extension="rels"
 ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
<Default Extension="xml" ContentType="application/xml"/></Types>"""


class Hostile(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def refused(self, path: Path) -> str:
        with self.assertRaises(IntakeError) as refused:
            load(path)
        said = str(refused.exception)
        self.assertTrue(said.startswith(path.name), said)
        return said

    def sheet(self, cells: str, dimension: str = "") -> Path:
        """An XLSX file by hand (ECMA-376), without what a library would put into it."""
        path = self.folder / "log.xlsx"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("[Content_Types].xml", TYPES)
            top = RELATIONS.format(target="xl/workbook.xml", kind="officeDocument")
            archive.writestr("_rels/.rels", top)
            archive.writestr("xl/workbook.xml", WORKBOOK)
            sheet = RELATIONS.format(target="worksheets/sheet1.xml", kind="worksheet")
            archive.writestr("xl/_rels/workbook.xml.rels", sheet)
            archive.writestr(
                "xl/worksheets/sheet1.xml",
                '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
                f"{dimension}<sheetData>{cells}</sheetData></worksheet>",
            )
        return path

    def test_two_cells_at_the_ends_of_a_sheet(self) -> None:
        ends = (
            '<row r="1"><c r="A1"><v>1</v></c></row>'
            '<row r="1048576"><c r="XFD1048576"><v>1</v></c></row>'
        )
        said = self.refused(self.sheet(ends, '<dimension ref="A1:XFD1048576"/>'))
        self.assertIn("1,048,576 × 16,384 cells", said)
        # A file need not say its dimension, nor the truth: then the limit of the process holds.
        for dimension in ("", '<dimension ref="A1:B2"/>'):
            said = self.refused(self.sheet(ends, dimension))
            self.assertRegex(said, "cells far outside the table|cells; at most")

    def test_a_sparse_sheet_of_a_hundred_million_cells(self) -> None:
        cells = "".join(
            f'<row r="{r}"><c r="CV{r}"><v>1</v></c></row>' for r in range(1, 1_000_001, 5000)
        )
        said = self.refused(self.sheet(f'<row r="1"><c r="A1"><v>1</v></c></row>{cells}'))
        self.assertRegex(said, "cells far outside the table|at most")

    def test_a_sheet_within_the_limits_is_read_with_its_rows_where_they_are(self) -> None:
        cells = (
            '<row r="3"><c r="B3" t="inlineStr"><is><t>time</t></is></c></row>'
            '<row r="4"><c r="B4"><v>1</v></c><c r="C4"><v>2.5</v></c></row>'
        )
        source = load(self.sheet(cells))
        self.assertEqual(source.buffer.to_pybytes(), b",,\n,,\n,time,\n,1.0,2.5\n")

    def test_a_workbook_with_a_password_or_a_damaged_part(self) -> None:
        path = self.sheet('<row r="1"><c r="A1"><v>1</v></c></row>')
        content = bytearray(path.read_bytes())
        for at in range(len(content)):  # each entry says that it is encrypted (APPNOTE 4.4.4)
            if content[at : at + 4] in (b"PK\x03\x04", b"PK\x01\x02"):
                content[at + (6 if content[at + 2] == 3 else 8)] |= 1
        path.write_bytes(content)
        self.assertIn("password", self.refused(path))

    def test_json_whose_objects_have_ever_other_keys(self) -> None:
        path = self.folder / "log.json"
        path.write_text("\n".join(json.dumps({f"k{n}": n}) for n in range(20_000)))
        self.assertIn("more than 500 different keys", self.refused(path))

    def test_json_that_is_odd(self) -> None:
        for text in (
            "[{}]",
            "[]",
            "{}\n{}",
            "[1, 2]",
            '[{"a": [1]}]',
            '{"a": {"b": 1}}',
            "[" * 50_000,
            '{"a": ' * 50_000,
            '[{"time": ' + "1" * 5000 + "}]",
            '{"time": ' + "1" * 5000 + "}",
            '{"a": 1}\n{"a": ',
        ):
            with self.subTest(text[:20]):
                out = io.BytesIO()
                with self.assertRaisesRegex(IntakeError, "log.json"):
                    json_text(text.encode(), "log.json", out)

    def test_a_parquet_file_that_unpacks_to_gigabytes(self) -> None:
        path = self.folder / "log.parquet"
        table = pa.table({"t": pa.array(["x" * 1000]).take(pa.array([0] * 1_000_000))})
        parquet.write_table(table, path, compression="zstd")
        self.assertLess(path.stat().st_size, 1 << 20)
        self.assertRegex(self.refused(path), "512 MB|1024 MB")

    def test_an_arrow_stream_that_breaks_off_and_one_of_thousands_of_columns(self) -> None:
        path = self.folder / "log.arrow"
        table = pa.table({f"c{k}": [1.0] for k in range(3000)})
        with ipc.new_file(path, table.schema) as writer:
            writer.write_table(table)
        self.assertIn("3,000 columns", self.refused(path))
        path.write_bytes(path.read_bytes()[:5000])
        self.assertIn("cannot be read", self.refused(path))

    def test_what_takes_too_long_or_is_no_longer_waited_for_is_ended(self) -> None:
        path = self.folder / "log.json"
        path.write_text("\n".join('{"a": 1}' for _ in range(2_000_000)))
        with limited(Limits(seconds=0.5)), self.assertRaisesRegex(IntakeError, "longer than"):
            unpacked(path, "json")
        gone = threading.Event()
        threading.Timer(0.5, gone.set).start()
        with limited(Limits(abandoned=gone.is_set)), self.assertRaisesRegex(IntakeError, "nobody"):
            unpacked(path, "json")

    def test_it_does_not_lie_in_the_memory_of_who_asks(self) -> None:
        path = self.folder / "log.json"
        path.write_text("\n".join(json.dumps({"time": k, "power": 1.5}) for k in range(300_000)))
        tracemalloc.start()
        source = unpacked(path, "json")
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        self.assertGreater(len(source.buffer), 3_000_000)
        self.assertLess(most, 1_000_000)
        self.assertIs(unpacked(path, "json"), source)  # asked for again, it is not made anew

    def test_what_a_file_is(self) -> None:
        for head, kind in (
            (b"PK\x03\x04", "spreadsheet"),
            (b"PAR1", "parquet"),
            (b"\x1f\x8b\x08", "gzip"),
            (b' \r\n[{"a"', "json"),
            (b"\xef\xbb\xbf{\n", "json"),
            (b"time,power", None),
        ):
            self.assertEqual(kind_of(head), kind)
        self.assertGreaterEqual(
            FORMATS_MOST_CELLS, 365 * 1440 * 12
        )  # a year of minutes in twelve columns
