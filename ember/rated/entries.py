"""Rows of a rated table as they are read, how they are read, and what is doubtful in them."""

from collections.abc import Mapping
from dataclasses import dataclass

from ember.basis.errors import TableError
from ember.basis.quantity import conversion, unit_named
from ember.description.installation import RatedPoint, TableKind

TARGET = {"outdoor": "degC", "flow": "degC", "capacity": "kW", "input": "kW", "airflow": "m3_per_h"}


@dataclass(frozen=True)
class TableEntry:
    """One row as read, in °C and kW; None where the cell is empty or no number.

    Attributes
    ----------
    row : int
        as counted in the sheet, from 1.
    unread : Mapping[str, str]
        column → cell that is no number.
    """

    row: int
    outdoor: float | None
    flow: float | None
    capacity_kw: float | None
    input_kw: float | None
    cop: float | None
    speed: str
    airflow_m3h: float | None
    unread: Mapping[str, str]


@dataclass(frozen=True)
class TableReading:
    """How a sheet is to be read, beside what its header says.

    Attributes
    ----------
    units : Mapping[str, str]
        column → unit of the closed list.
    swapped : bool
        outdoor and flow exchanged.
    cop_over : float
        by which the COP column is divided.
    """

    units: Mapping[str, str]
    swapped: bool = False
    cop_over: float = 1.0

    def __post_init__(self) -> None:
        """Raises TableError for a reading that is none."""
        if not 0.01 <= self.cop_over <= 100:
            raise TableError("rated: a COP is divided by a number from 0.01 to 100.")
        for column, unit in self.units.items():
            known = unit_named(unit)
            if column not in TARGET or known is None or conversion(known, TARGET[column]) is None:
                raise TableError(f"rated: '{column[:40]}' cannot be read in '{unit[:40]}'.")


AS_WRITTEN = TableReading({})


@dataclass(frozen=True)
class TableDoubt:
    """Something odd.

    Attributes
    ----------
    kind : str
        stable name
    rows : tuple[int, ...]
        where
    grave : bool
        it cannot be used so.
    remedy : str | None
        in words
    reading : TableReading | None
        with which the sheet makes sense, None where nothing is offered.
    """

    kind: str
    sentence: str
    rows: tuple[int, ...]
    grave: bool
    remedy: str | None
    reading: TableReading | None


@dataclass(frozen=True)
class TableSheet:
    """A sheet as read.

    Attributes
    ----------
    units : dict[str, str]
        of each column, as taken
    assumed : tuple[str, ...]
        columns whose unit nobody said.
    points : tuple[RatedPoint, ...]
        usable rows
    left_out : tuple[int, ...]
        rows that cannot be, without which the rest serves.
    includes_defrost : bool | None
        as a remark says, None where none does.
    """

    kind: TableKind
    entries: tuple[TableEntry, ...]
    points: tuple[RatedPoint, ...]
    units: dict[str, str]
    assumed: tuple[str, ...]
    doubts: tuple[TableDoubt, ...]
    left_out: tuple[int, ...]
    includes_defrost: bool | None


def cop_of(entry: TableEntry) -> float | None:
    """The COP of a row, as given or from its input."""
    if entry.cop is not None:
        return entry.cop
    if entry.capacity_kw is None or not entry.input_kw:
        return None
    return entry.capacity_kw / entry.input_kw
