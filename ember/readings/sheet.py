"""Rows of a sheet as they are typed or pasted, and the readings they mean."""

import re
from calendar import monthrange
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

import numpy as np
import pyarrow as pa

from ember.basis.channels import quantity_of
from ember.basis.clock import DAY, instant_of, wall_clock
from ember.basis.quantity import conversion, symbol, unit_named
from ember.description.logged import HandKind, HandSeries, Keeps
from ember.intake.stamps import Stamps, instants, times_of, written

SHEET_EARLIEST = 946_684_800  # 2000-01-01
SHEET_FIRST_YEAR, SHEET_LAST_YEAR = 1900, 2200
READINGS_SHEET_LARGEST = 1e15  # number in a cell, in whatever unit
_WHOLE = re.compile(r"^(\d{4})(-\d\d)?(-\d\d)?$")
_GROUPED = re.compile(r"^[+-]?\d{1,3}([ \u00a0\u202f'’]\d{3})+([.,]\d+)?$")
_SHEET_CLOCK = re.compile(r"^\d{1,2}:\d{2}(:\d{2})?$")
_DATED = re.compile(r"^(\S+)[ T]\d{1,2}:\d{2}")
_WITH_UNIT = re.compile(r"^([+\-\u2212\d.,'’ \u00a0\u202f]*\d)\s*([^\d\s].*)$")
_PLAIN = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)$")
_THOUSANDS = re.compile(r"^[+-]?\d{1,3}([.,]\d{3})+$")


class Turn(StrEnum):
    """Why a register stands lower than before."""

    NEW_METER = "new_meter"
    ROLLOVER = "rollover"


@dataclass(frozen=True)
class Reading:
    """What was read at one time.

    Attributes
    ----------
    time : float
        when [s]; of a whole day, month or year, its end.
    since : float | None
        its beginning [s], else None.
    values : Mapping[str, float]
        series → as read, in the series' unit.
    turns : Mapping[str, Turn]
        series that stand lower, and why.
    """

    time: float
    values: Mapping[str, float]
    since: float | None = None
    turns: Mapping[str, Turn] = field(default_factory=dict)
    note: str = ""


@dataclass(frozen=True)
class TypedCells:
    """A row as typed.

    Attributes
    ----------
    values : Mapping[str, str]
        series → text, as it stands in the cell.
    """

    time: str
    values: Mapping[str, str]
    turns: Mapping[str, Turn] = field(default_factory=dict)
    note: str = ""


@dataclass(frozen=True)
class Problem:
    """A cell that cannot be read.

    Attributes
    ----------
    row : int
        0-based.
    column : str
        "time" or a series.
    """

    row: int
    column: str
    what: str


def read_rows(
    rows: Sequence[TypedCells], series: Sequence[HandSeries], zone: ZoneInfo, now: float
) -> tuple[list[Reading | None], list[Problem]]:
    """The readings that rows of text mean.

    Parameters
    ----------
    series : Sequence[HandSeries]
        the columns of the sheet.
    zone : ZoneInfo
        of the wall clock by which they were taken.
    now : float
        instant after which a reading lies in the future [s].

    Returns
    -------
    a Reading a row, None where it has a problem; the problems.
    """
    problems: list[Problem] = []
    times = _times([row.time for row in rows], zone, now)
    known = {one.name: one for one in series}
    readings: list[Reading | None] = []
    for k, row in enumerate(rows):
        found: dict[str, float] = {}
        wrong = [_when(times[k], row.time, now)]
        wrong_in = ["time"]
        for name, text in row.values.items():
            if not text.strip():
                continue
            if name not in known:
                value: float | str = "there is no such column; describe it in Set up"
            else:
                value = _value(text, known[name])
            if isinstance(value, str):
                wrong.append(value)
                wrong_in.append(name)
            else:
                found[name] = value
        if wrong == [None] and not found and not row.note.strip():
            wrong, wrong_in = ["nothing is read at this time"], ["time"]
        bad = [Problem(k, c, w) for c, w in zip(wrong_in, wrong, strict=True) if w is not None]
        problems += bad
        when = times[k]
        if bad or when is None:
            readings.append(None)
        else:
            turns = {name: turn for name, turn in row.turns.items() if name in found}
            readings.append(Reading(when[1], found, when[0], turns, row.note.strip()))
    return readings, problems


def number_in(text: str) -> float | None:
    """A number as people write it: 12345.6, 12345,6, 12 345,6, 12'345.6; None if it is none.

    1.234 and 1,234 could be either; they are taken as decimals, never as thousands.
    """
    text = text.strip().replace("\u2212", "-")
    if _GROUPED.match(text):
        text = re.sub(r"[ \u00a0\u202f'’]", "", text)
    elif re.match(r"^[+-]?\d{1,3}(,\d{3})+\.\d+$", text):
        text = text.replace(",", "")
    elif re.match(r"^[+-]?\d{1,3}(\.\d{3})+,\d+$", text):
        text = text.replace(".", "")
    if not _PLAIN.match(text):
        return None
    number = float(text.replace(",", "."))
    return number if abs(number) <= READINGS_SHEET_LARGEST else None


def _value(text: str, series: HandSeries) -> float | str:
    """A cell's number, or what is wrong with it."""
    value = number_in(text)
    parts = _WITH_UNIT.match(text.strip())
    if value is None and parts is not None and unit_named(parts[2].strip()):
        return _value_with_unit(parts[1], parts[2].strip(), series)
    if value is None:
        if _THOUSANDS.match(text.strip()):
            return f"'{text.strip()}' is not clear; write it without signs between the thousands"
        return f"'{text.strip()[:30]}' is no number"
    if series.kind != HandKind.OTHER:
        return "is below zero; a register or a total is not" if value < 0 else value
    quantity = quantity_of(series.channel or "")
    linear = conversion(unit_named(series.unit) or "", quantity.unit)
    assert linear is not None
    held = value * linear[0] + linear[1]
    if quantity.low <= held <= quantity.high:
        return value
    for other in ("degC", "degF", "kPa", "bar", "psi"):
        turned = conversion(other, quantity.unit)
        if turned and other != unit_named(series.unit):
            likely = value * turned[0] + turned[1]
            if quantity.low <= likely <= quantity.high:
                return (
                    f"{text.strip()} {symbol(unit_named(series.unit) or '')} cannot be "
                    f"{quantity.meaning}; was it read in {symbol(other)}?"
                )
    return f"{text.strip()} {series.unit} cannot be {quantity.meaning}"


def _value_with_unit(number: str, unit: str, series: HandSeries) -> float | str:
    """A cell's number with its unit beside it, in the unit of the column."""
    mine, written_as = unit_named(series.unit), unit_named(unit)
    linear = conversion(written_as, mine) if mine and written_as else None
    if linear is None:
        return f"'{unit[:20]}' is not {symbol(mine or series.unit)}, the unit of this column"
    value = _value(number, series) if written_as == mine else number_in(number)
    if isinstance(value, str) or value is None or written_as == mine:
        return value if value is not None else f"'{number[:30]}' is no number"
    return _value(f"{value * linear[0] + linear[1]:.10g}", series)


def _when(when: tuple[float | None, float] | None, text: str, now: float) -> str | None:
    """What is wrong with a time."""
    if when is None:
        shown = text.strip()[:30]
        return (
            f"'{shown}' is no time; write 2026-01-22 07:30, or 2026-01-22, 2026-01 or 2026 for the "
            "total of a whole day, month or year"
            if shown
            else "is empty"
        )
    if when[1] > now + DAY:
        return "lies in the future"
    return "lies before the year 2000" if when[1] < SHEET_EARLIEST else None


def _times(
    texts: Sequence[str], zone: ZoneInfo, now: float
) -> list[tuple[float | None, float] | None]:
    """Beginning, for a whole day, month or year, and instant of each row; None if it is none."""
    texts = _dated(texts, zone, now)
    found: list[tuple[float | None, float] | None] = [_whole(text, zone) for text in texts]
    open_ = [k for k, when in enumerate(found) if when is None and texts[k].strip()]
    cells = [" ".join(texts[k].split()) for k in open_]
    way = written(0, cells, True) if cells else None
    for k, cell in zip(open_, cells, strict=True):
        # One way of writing for all; a row that differs may still be plain by itself.
        for one in (way, written(0, [cell], True)):
            when = _instant(cell, one, zone) if one is not None else None
            if when is not None:
                found[k] = (None, when)
                break
    return found


def _dated(texts: Sequence[str], zone: ZoneInfo, now: float) -> list[str]:
    """The times; a clock alone has the date of the row before, the first one today's."""
    date_before = f"{wall_clock(now, zone):%Y-%m-%d}"
    found = []
    for text in texts:
        if _SHEET_CLOCK.match(text.strip()):
            text = f"{date_before} {text.strip()}"
        elif (dated := _DATED.match(text.strip())) is not None:
            date_before = dated[1]
        found.append(text)
    return found


def _instant(cell: str, way: Stamps, zone: ZoneInfo) -> float | None:
    column = times_of(pa.chunked_array([pa.array([cell])]), way)
    if column.null_count:
        return None
    return float(instants(way, column, zone.key, np.array([1]))[0][0])


def _whole(text: str, zone: ZoneInfo) -> tuple[float | None, float] | None:
    """Beginning and end of a whole day, month or year named by itself."""
    match = _WHOLE.match(text.strip())
    if match is None:
        return None
    year, month, day = (int(part.strip("-")) if part else None for part in match.groups())
    try:
        first = date(year or 1, month or 1, day or 1)
        if day is not None:
            last = first + timedelta(days=1)
        elif month is not None:
            last = first + timedelta(days=monthrange(first.year, first.month)[1])
        else:
            last = date(first.year + 1, 1, 1)
    except (ValueError, OverflowError):  # of the calendar's first or last year
        return None
    if not SHEET_FIRST_YEAR <= first.year <= SHEET_LAST_YEAR:
        return None
    return float(instant_of(first, zone)), float(instant_of(last, zone))


def began(time: float, keeps: Keeps, zone: ZoneInfo) -> float:
    """When the day, month or year began whose total a display shows just before `time` [s]."""
    day = wall_clock(time - 1, zone).date()
    if keeps == Keeps.MONTH:
        day = day.replace(day=1)
    elif keeps == Keeps.YEAR:
        day = day.replace(month=1, day=1)
    return float(instant_of(day, zone))
