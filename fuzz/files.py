"""Files that nobody would export, for every reader: refused with a sentence, or read."""

import csv
import io
import json
import resource
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pyarrow as pa
import xlsxwriter
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from hypothesis import strategies as st
from pyarrow import ipc, parquet

from ember.basis.errors import EmberError
from ember.description.as_json import installation_from_json, installation_to_json
from ember.description.installation import Installation
from ember.intake import read_log
from ember.intake.live import read_batch
from ember.proposal.trial import tried
from ember.rated.sheet import read_sheet
from ember.unpacked import Limits, limited
from server.archives.contents import opened

SLOWEST = 10.0  # a file may take [s]
MOST_MEMORY = 1000.0  # [MB]
NOW = 1_790_000_000.0
NAMES = (
    "time", "date", "Zeit", "timestamp [UTC]", "flow temp [°C]", "return temp [°C]", "power [W]",
    "heat [kWh]", "outdoor", "Vorlauf", "mode", "", "time", "x" * 200, "=1+1", "°C", "flow_rate",
)  # fmt: skip
STAMPS = (
    "2026-01-01 00:00", "2026-01-01T00:01:00Z", "01/02/2026 00:02", "2026-03-29 02:30", "45000.5",
    "1767225600", "99999999999999999999", "-1", "24:00", "31.02.2026 10:00", "0000-00-00",
)  # fmt: skip
CELLS = (
    "", "20.5", "20,5", "-3", "1e308", "-1e308", "nan", "inf", "on", "off", "error", "1" * 400,
    "0x10", "١٢", "\x00", "a\nb", '"', "−5", "1.234.567,8", "5 kW", "true",
)  # fmt: skip

ODD: tuple[Any, ...] = (
    None, 0, -1, 1, 1e-9, 1e9, 1e308, 5e-324, 10**30, "", "x", "x" * 10_000, "CET", "energy:x",
    "flow_temp", True, [], {}, "many", 40.0, 0.99,
)  # fmt: skip


@dataclass
class Result:
    """What came of it, by reader."""

    read: Counter[str] = field(default_factory=Counter)
    refused: Counter[str] = field(default_factory=Counter)
    slowest: float = 0.0
    slowest_of: str = ""
    failures: list[str] = field(default_factory=list)

    def most_memory(self) -> float:
        """Of this process and of those that unpacked [MB]."""
        who = (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
        return max(resource.getrusage(one).ru_maxrss for one in who) / 1024


def tables() -> st.SearchStrategy[list[list[str]]]:
    """Tables as a logger in trouble might write them."""
    width = st.integers(1, 6)

    def rows(n: int) -> st.SearchStrategy[list[list[str]]]:
        header = st.lists(st.sampled_from(NAMES), min_size=n, max_size=n)
        cell = st.one_of(st.sampled_from(CELLS), st.floats(width=32).map(str), st.text(max_size=8))
        row = st.tuples(st.sampled_from(STAMPS), st.lists(cell, min_size=n - 1, max_size=n)).map(
            lambda pair: [pair[0], *pair[1]]
        )
        return st.tuples(header, st.lists(row, max_size=12)).map(lambda pair: [pair[0], *pair[1]])

    return st.one_of(width.flatmap(rows), _nearly())


def _nearly() -> st.SearchStrategy[list[list[str]]]:
    """A log that is one, but for some cells."""
    odd = st.lists(
        st.tuples(st.integers(0, 119), st.integers(0, 4), st.sampled_from((*CELLS, *STAMPS))),
        max_size=5,
    )

    def table(changes: list[tuple[int, int, str]]) -> list[list[str]]:
        rows = [
            [
                f"2026-01-01T0{k // 60}:{k % 60:02d}:00Z",
                f"{35 + k % 4}",
                "30.5",
                "18",
                f"{1500 + k}",
            ]
            for k in range(120)
        ]
        for row, column, cell in changes:
            rows[row][column] = cell
        return [["time", "flow temp [°C]", "return temp [°C]", "flow [l/min]", "power [W]"], *rows]

    return odd.map(table)


def _csv(table: list[list[str]], separator: str = ",") -> bytes:
    text = io.StringIO()
    csv.writer(text, delimiter=separator, escapechar="\\").writerows(table)
    return text.getvalue().encode("utf-8", "surrogatepass")


def _xlsx(table: list[list[str]]) -> bytes:
    sink = io.BytesIO()
    options = {"strings_to_formulas": False, "strings_to_urls": False, "nan_inf_to_errors": True}
    with xlsxwriter.Workbook(sink, options) as book:
        sheet = book.add_worksheet()
        for k, row in enumerate(table):
            for j, cell in enumerate(row):
                sheet.write_string(k * 3, j * 2, cell[:1000].replace("\x00", ""))
    return sink.getvalue()


def _ods(table: list[list[str]]) -> bytes:
    cells = "".join(
        "<table:table-row>"
        + "".join(
            f"<table:table-cell office:value-type='string'><text:p>{_plain(cell)}</text:p>"
            "</table:table-cell>"
            for cell in row
        )
        + "</table:table-row>"
        for row in table
    )
    sink = io.BytesIO()
    with zipfile.ZipFile(sink, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr(
            "content.xml",
            '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:'
            '1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
            'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body>'
            f'<office:spreadsheet><table:table table:name="Log">{cells}</table:table>'
            "</office:spreadsheet></office:body></office:document-content>",
        )
    return sink.getvalue()


def _plain(text: str) -> str:
    kept = "".join(c for c in text if c.isprintable() and c not in "<>&")
    return kept.encode("utf-8", "replace").decode()


def _arrow_table(table: list[list[str]]) -> pa.Table:
    width = len(table[0])
    columns: dict[str, list[Any]] = {f"{name}{k}": [] for k, name in enumerate(table[0])}
    for row in table[1:]:
        padded = [*row, *[""] * width][:width]
        for values, cell in zip(columns.values(), padded, strict=True):
            values.append(cell.encode("utf-8", "replace").decode())
    return pa.table({name: pa.array(values, pa.string()) for name, values in columns.items()})


def _parquet(table: list[list[str]]) -> bytes:
    sink = io.BytesIO()
    parquet.write_table(_arrow_table(table), sink)
    return sink.getvalue()


def _arrow(table: list[list[str]]) -> bytes:
    sink = io.BytesIO()
    made = _arrow_table(table)
    with ipc.new_file(sink, made.schema) as writer:
        writer.write_table(made)
    return sink.getvalue()


def _json(table: list[list[str]]) -> bytes:
    records = [dict(zip(table[0], row, strict=False)) for row in table[1:]]
    return "\n".join(json.dumps(record) for record in records).encode()


def _epw(table: list[list[str]]) -> bytes:
    return b"LOCATION,a,b,c,d,1,52,13,1,34\n" * 8 + _csv(table)


WRITERS: dict[str, Callable[[list[list[str]]], bytes]] = {
    "csv": _csv, "semicolon.csv": lambda table: _csv(table, ";"), "xlsx": _xlsx, "ods": _ods,
    "parquet": _parquet, "arrow": _arrow, "json": _json, "epw": _epw,
}  # fmt: skip


@dataclass(frozen=True)
class Damage:
    """How bytes are damaged: cut off, some of them other ones."""

    share: float
    places: tuple[tuple[float, int], ...]

    def of(self, content: bytes) -> bytes:
        """The damaged bytes."""
        made = bytearray(content[: int(len(content) * self.share)])
        for place, value in self.places:
            if made:
                made[int(place * (len(made) - 1))] = value
        return bytes(made)


def damages() -> st.SearchStrategy[Damage]:
    """None, most of the time."""
    place = st.tuples(st.floats(0, 1), st.integers(0, 255))
    share = st.one_of(st.just(1.0), st.floats(0, 1))
    return st.one_of(
        st.just(Damage(1.0, ())),
        st.builds(Damage, share, st.lists(place, max_size=4).map(tuple)),
    )


def attack(
    described: Installation, archive: Path, examples: int, chance: int, every_format: bool = True
) -> Result:
    """Writes and reads so many files of each kind.

    Parameters
    ----------
    described : the system whose logs they could be. archive : one that is whole, to be damaged.
    chance : seed of the run. every_format : those too that are unpacked in a process of their own.
    """
    found = Result()
    with tempfile.TemporaryDirectory() as folder:
        for ending, write in WRITERS.items():
            if every_format or "csv" in ending or ending == "epw":
                path = Path(folder) / f"log.{ending}"
                _repeat(
                    st.tuples(tables(), damages()),
                    examples,
                    chance,
                    lambda drawn, path=path, write=write, ending=ending: _one(
                        ending, found, lambda: _read(path, drawn[1].of(write(drawn[0])), described)
                    ),
                )
        copy = Path(folder) / "all.zip"
        whole = archive.read_bytes()
        _repeat(
            damages(),
            examples,
            chance,
            lambda drawn: _one("archive", found, lambda: _archive(copy, drawn.of(whole))),
        )
    _repeat(
        st.lists(st.tuples(st.integers(0, 10**6), st.sampled_from(ODD)), min_size=1, max_size=2),
        10 * examples,
        chance,
        lambda changes: _one("description", found, lambda: _described(described, changes)),
    )
    _repeat(
        tables(),
        examples,
        chance,
        lambda drawn: _one(
            "rated sheet", found, lambda: read_sheet(_csv(drawn, "\t").decode("utf-8", "replace"))
        ),
    )
    _repeat(
        st.one_of(st.binary(max_size=200), _batches()),
        examples,
        chance,
        lambda body: _one("ingest, MQTT", found, lambda: _batch(body)),
    )
    return found


def _batches() -> st.SearchStrategy[bytes]:
    value = st.one_of(st.none(), st.floats(), st.integers(), st.text(max_size=5), st.booleans())
    row = st.dictionaries(st.sampled_from(("time", "flow_temp", "x" * 90, "")), value, max_size=4)
    batch = st.fixed_dictionaries(
        {
            "readings": st.one_of(st.lists(row, max_size=5), value),
            "batch": value,
            "sent": value,
        }
    )
    return batch.map(lambda content: json.dumps(content).encode())


def _batch(body: bytes) -> None:
    for as_json in (True, False):
        read_batch(body, as_json, NOW)


def _read(path: Path, content: bytes, described: Installation) -> None:
    path.write_bytes(content)
    read_log(path, described)


def _archive(path: Path, content: bytes) -> None:
    path.write_bytes(content)
    opened(path, path.name)


def _described(described: Installation, changes: list[tuple[int, Any]]) -> None:
    """A description with odd values in some of its places, if it is one, on trial."""
    value = json.loads(installation_to_json(described))
    for place, odd in changes:
        places = list(_places(value))
        holder, key = places[place % len(places)]
        holder[key] = holder[key] * 3000 if odd == "many" and isinstance(holder[key], list) else odd
    tried(installation_from_json(json.dumps(value)))


def _places(value: Any) -> Iterator[tuple[Any, Any]]:
    items = value.items() if isinstance(value, dict) else enumerate(value)
    for key, one in list(items):
        yield value, key
        if isinstance(one, dict | list):
            yield from _places(one)


def _repeat(drawn: st.SearchStrategy[Any], examples: int, chance: int, one: Any) -> None:
    @seed(chance)
    @settings(
        max_examples=examples,
        database=None,
        deadline=None,
        verbosity=Verbosity.quiet,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    @given(drawn)
    def many(content: Any) -> None:
        one(content)

    many()


def _one(kind: str, found: Result, read: Callable[[], Any]) -> None:
    began = time.monotonic()
    try:
        with limited(Limits(SLOWEST)):
            read()
        found.read[kind] += 1
    except EmberError:
        found.refused[kind] += 1
    except Exception as error:  # what a user would see as a fault of the program
        found.failures.append(f"{kind}: {type(error).__name__}: {str(error)[:300]}")
    took = time.monotonic() - began
    if took > found.slowest:
        found.slowest, found.slowest_of = took, kind
    if took > SLOWEST + 1:
        found.failures.append(f"{kind}: {took:.1f} s")
