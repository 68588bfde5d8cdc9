"""A maker's table from a file, as it stands: what is doubtful is refused, not guessed."""

from pathlib import Path

from pydantic import ValidationError

from ember.basis.errors import TableError
from ember.description.installation import RatedTable, TableKind
from ember.rated.sheet import read_sheet


def read_table(path: Path, kind: TableKind = TableKind.WATER) -> RatedTable:
    """The rated table in a CSV file. Raises TableError."""
    return table_with_doubts(path, kind)[0]


def table_with_doubts(
    path: Path, kind: TableKind = TableKind.WATER
) -> tuple[RatedTable, tuple[str, ...]]:
    """The rated table in a CSV file, and what is doubtful in it, in words. Raises TableError."""
    try:
        text = path.read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise TableError(f"{path.name}: the rated table cannot be read: {error}.") from error
    said = tuple(
        f"{path.name}, {d.sentence}{f' {d.remedy}' if d.remedy else ''}"
        for d in read_sheet(text, kind).doubts
        if not d.grave
    )
    return table_from_csv(text, path.name, kind), said


def table_from_csv(text: str, name: str, kind: TableKind = TableKind.WATER) -> RatedTable:
    """A rated table from CSV text.

    One row for each point; columns outdoor, flow, capacity, and cop or input, each with its
    unit in the header (`capacity [kW]`, `outdoor_f`). Lines that begin with # are comments; one
    that says `# includes defrost: no` marks a table without them, else it is taken to include
    them (EN 14511 practice, from memory).

    Raises TableError naming the row, with the reading that would make sense of it where there is
    one.
    """
    sheet = read_sheet(text, kind)
    grave = next((d for d in sheet.doubts if d.grave), None)
    if grave is not None:
        remedy = f" {grave.remedy}" if grave.remedy else ""
        between = ", " if len(grave.rows) == 1 else ": "
        raise TableError(f"{name}{between}{grave.sentence}{remedy}")
    try:
        return RatedTable(
            points=sheet.points,
            kind=kind,
            includes_defrost=True if sheet.includes_defrost is None else sheet.includes_defrost,
        )
    except ValidationError as error:
        raise TableError(f"{name}: {error.errors()[0]['msg']}; a table has 2 points.") from error
