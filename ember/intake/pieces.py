"""Large logs piece by piece, so that memory does not grow with the file."""

import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from ember.basis.series import Trace
from ember.description.installation import Installation
from ember.intake.read import opened, read_log
from ember.intake.report import IntakeReport, Note
from ember.intake.stamps import Clock

PIECE = 48 << 20  # bytes of a piece; a file of up to two is read at once
OVERLAP = 120  # rows that a piece has of the one before, so that slow channels hold over


def read_pieces(
    path: Path, installation: Installation, now: float | None = None, piece: int | None = None
) -> Iterator[tuple[Trace, IntakeReport]]:
    """A log as `read_log` reads it, in one or several pieces, in the order of the file.

    Only a plain text file whose times name their instants by themselves is cut: a wall clock's
    doubled hour is told by the rows around it. Row numbers are those of the whole file.

    Parameters
    ----------
    piece : int | None
        bytes of a piece, at least; None: PIECE.
    """
    piece = piece or PIECE
    if path.exists() and path.stat().st_size > 2 * piece:
        source, dialect, stamps, per = opened(path, installation.time_column)
        whole = source.what is None and len(source.buffer) == path.stat().st_size and per == 1
        if whole and stamps.clock in (Clock.ZONED, Clock.EPOCH):
            yield from _cut(path, installation, now, piece, dialect.data_row - 1)
            return
    yield read_log(path, installation, now)


def _cut(
    path: Path, installation: Installation, now: float | None, piece: int, above: int
) -> Iterator[tuple[Trace, IntakeReport]]:
    """The file read piece by piece, each with the head of the file.

    Parameters
    ----------
    above : int
        lines above the first reading.
    """
    with tempfile.TemporaryDirectory(prefix="ember-piece-") as folder, path.open("rb") as file:
        part = Path(folder) / path.name
        head = b"".join(file.readline() for _ in range(above))
        before: list[bytes] = []
        done = 0
        while lines := file.readlines(piece):
            left = path.stat().st_size - file.tell()
            if left < piece // 2:  # no small piece at the end
                lines += file.readlines()
            if not lines[-1].endswith(b"\n"):
                lines[-1] += b"\n"
            with part.open("wb") as out:
                out.write(head)
                out.writelines(before)
                out.writelines(lines)
            trace, report = read_log(part, installation, now, done - len(before))
            yield trace, replace(report, rows=report.rows - len(before))
            done += len(lines)
            before = lines[-OVERLAP:]


def joined(reports: Sequence[IntakeReport]) -> IntakeReport:
    """The report of a file from those of its pieces."""
    first = reports[0]
    valid: dict[str, int] = {}
    for report in reports:
        for column in report.columns:
            valid[column.header] = valid.get(column.header, 0) + column.valid
    notes: dict[tuple[str, str], Note] = {}
    for note in (note for report in reports for note in report.notes):
        notes.setdefault((note.treatment, note.text), note)
    return replace(
        first,
        rows=sum(report.rows for report in reports),
        start=min(report.start for report in reports),
        stop=max(report.stop for report in reports),
        columns=tuple(replace(c, valid=valid[c.header]) for c in first.columns),
        notes=tuple(notes.values()),
    )
