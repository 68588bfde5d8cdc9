"""By hand: the sheet of readings."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import floor, log10
from time import time as now
from typing import Literal
from zoneinfo import ZoneInfo

from django.http import HttpRequest
from ninja import Body, Router

from ember.basis.clock import iso_local, wall_clock, zone_named
from ember.basis.codes import ReasonCode
from ember.basis.errors import IntakeError
from ember.basis.quantity import symbol, unit_named
from ember.description.installation import Installation
from ember.description.logged import HandKind, HandSeries
from ember.messages import NotAvailable, Reason, because, not_available
from ember.readings import Doubt, HandSums, Reading, Turn, TypedCells, doubts, hand_sums, read_rows
from ember.reckoning import Reckoning
from server.api.fleet import get_system
from server.api.typed import Text
from server.assessments.cache import renew
from server.assessments.shown import LevelShown, ReckoningShown, reckoning
from server.readings.entries import Written, reading_content, reading_of, write
from server.readings.models import Entry
from server.readings.store import NotThere, StoreError
from server.systems.models import System

router = Router(tags=["by hand"])
BYHAND_MOST_ROWS = 2000  # of one paste


@dataclass(frozen=True)
class SeriesShown:
    """A column of the sheet. energy : counts in a sum."""

    name: str
    kind: str
    keeps: str
    unit: str
    symbol: str
    meter: str | None
    energy: bool


@dataclass(frozen=True)
class DoubtShown:
    """Something to look at in a row. column : a series, or "cop"."""

    column: str
    what: str
    likely: float | None
    turn: str | None


@dataclass(frozen=True)
class CellProblem:
    """A cell that cannot be read. column : "time" or a series."""

    column: str
    what: str


@dataclass(frozen=True)
class RowShown:
    """A row of the sheet. id : null until it is stored. cells, turns : by series; local : the time
    as it is written. sum : since the row before, or of the whole day, month or year."""

    id: int | None
    local: str
    time: float | None
    cells: dict[str, str]
    turns: dict[str, str]
    note: str
    user: str | None
    sum: ReckoningShown | None
    reason: Reason | None
    problems: list[CellProblem]
    doubts: list[DoubtShown]


@dataclass(frozen=True)
class SheetShown:
    """The sheet. level : the widest that its meters give; from_yield : its heat is environmental
    yield + electricity. whole : the sum from the first row to the last."""

    series: list[SeriesShown]
    rows: list[RowShown]
    level: str | None
    level_words: str | None
    level_reason: str | None
    from_yield: bool
    whole: ReckoningShown | None


@dataclass(frozen=True)
class RowTyped:
    """A row as typed. id : of the stored row it changes; null for a new one."""

    id: int | None
    time: str
    cells: dict[str, str]
    turns: dict[str, Literal["new_meter", "rollover"]]
    note: Text


@dataclass(frozen=True)
class SheetTyped:
    """Rows that are new or changed, and keys of rows that go."""

    rows: list[RowTyped]
    gone: list[int]


@dataclass(frozen=True)
class Between:
    """The sums between two rows at every level."""

    levels: list[LevelShown]


# --- the sheet ------------------------------------------------------------------------------


@router.get("/systems/{pk}/sheet", response=SheetShown)
def sheet(request: HttpRequest, pk: int) -> SheetShown:
    """The readings by hand with the sum since each row before."""
    return _sheet(get_system(pk), [])


@router.post("/systems/{pk}/sheet/check", response=SheetShown)
def check(request: HttpRequest, pk: int, typed: Body[SheetTyped]) -> SheetShown:
    """The sheet as it would be with these rows; nothing is stored."""
    system = get_system(pk)
    _few(typed)
    return _sheet(system, typed.rows, typed.gone)


@router.put("/systems/{pk}/sheet", response=SheetShown)
def keep_rows(request: HttpRequest, pk: int, typed: Body[SheetTyped]) -> SheetShown:
    """Stores rows, or none of them where one cannot be read."""
    system = get_system(pk)
    _few(typed)
    installation = system.installation
    zone = zone_named(installation.zone)
    cells = [_cells(row) for row in typed.rows]
    readings, problems = read_rows(cells, installation.by_hand, zone, now())
    if problems:
        first = problems[0]
        raise IntakeError(f"row {first.row + 1}, {first.column}: {first.what}. Nothing was stored.")
    put = [
        Written(row.id, Entry.Kind.READING, int(r.time), None, reading_content(r))
        for row, r in zip(typed.rows, readings, strict=True)
        if r is not None
    ]
    stays = [
        e
        for e in system.entries.filter(kind=Entry.Kind.READING)
        if e.pk not in {*typed.gone, *(row.id for row in typed.rows)}
    ]
    hand_sums(installation, [*map(reading_of, stays), *(r for r in readings if r is not None)])
    write(system, request.user, _words(typed), put, typed.gone)
    renew(system, request.user)
    return _sheet(system, [])


@router.get("/systems/{pk}/sheet/between", response=Between)
def between(request: HttpRequest, pk: int, first: int, last: int) -> Between:
    """The sums between any two stored rows, by their keys."""
    system = get_system(pk)
    entries = {e.pk: reading_of(e) for e in system.entries.filter(kind=Entry.Kind.READING)}
    if first not in entries or last not in entries:
        raise NotThere("A row is no longer there; somebody took it out.")
    one, other = sorted((entries[first], entries[last]), key=lambda r: r.time)
    segments = hand_sums(system.installation, list(entries.values()))
    if segments is None:
        raise StoreError("These rows hold no electricity at two times.")
    start = one.time if one.since is None else one.since
    levels = []
    for level in segments.combinations:
        found = segments.between([(start, other.time)], level)[0]
        shown = None if isinstance(found, NotAvailable) else reckoning(found)
        levels.append(LevelShown(level.value, level.words(), found.reason, shown, None, None))
    return Between(levels)


@router.post("/systems/{pk}/sheet/begin", response=SheetShown)
def begin(request: HttpRequest, pk: int) -> SheetShown:
    """Describes a first sheet: the register of each described meter, and the outdoor air."""
    system = get_system(pk)
    installation = system.installation
    if not installation.by_hand:
        system.put(replace(installation, by_hand=suggested(installation)), request.user)
    return _sheet(system, [])


def suggested(installation: Installation) -> tuple[HandSeries, ...]:
    """Columns for what is most often read: heat, electricity of each meter, outdoor air."""
    heat = [r.name for r in installation.registers] or [c.name for c in installation.circuits]
    series = [HandSeries(f"{n}", HandKind.HEAT, "kWh", meter=n, resolution=1.0) for n in heat]
    series += [
        HandSeries(m.name, HandKind.ELECTRICITY, "kWh", meter=m.name, resolution=0.1)
        for m in installation.electricity
    ]
    outdoor = HandSeries("outdoor", HandKind.OTHER, "degC", channel="outdoor_temp", resolution=0.1)
    return (*series, outdoor)


def _few(typed: SheetTyped) -> None:
    if len(typed.rows) > BYHAND_MOST_ROWS:
        raise IntakeError(
            f"{len(typed.rows):,} rows at once; at most {BYHAND_MOST_ROWS:,} are taken. A "
            "longer table is "
            "a file: save it as CSV and drop it under Files."
        )


def _words(typed: SheetTyped) -> str:
    changed = sum(row.id is not None for row in typed.rows)
    counts = [(len(typed.rows) - changed, "added"), (changed, "changed"), (len(typed.gone), "out")]
    said = [f"{n} reading{'s' * (n > 1)} {what}" for n, what in counts if n]
    return "; ".join(said) or "nothing"


def _cells(row: RowTyped) -> TypedCells:
    turns = {name: Turn(why) for name, why in row.turns.items()}
    return TypedCells(row.time, row.cells, turns, row.note)


def _sheet(system: System, typed: Sequence[RowTyped], gone: Sequence[int] = ()) -> SheetShown:
    """The stored rows with those typed in their place or after them."""
    installation = system.installation
    zone = zone_named(installation.zone)
    series = {one.name: one for one in installation.by_hand}
    drafts = {row.id: row for row in typed if row.id is not None}
    stored = [
        e
        for e in system.entries.filter(kind=Entry.Kind.READING).select_related("user")
        if e.pk not in drafts and e.pk not in gone
    ]
    read, problems = read_rows([_cells(row) for row in typed], installation.by_hand, zone, now())
    both: list[tuple[Reading, int | None, str | None]] = [
        (reading_of(e), e.pk, e.user.get_username() if e.user else None) for e in stored
    ]
    both += [(r, row.id, None) for r, row in zip(read, typed, strict=True) if r is not None]
    both.sort(key=lambda one: one[0].time)
    readings = [one[0] for one in both]
    trouble: NotAvailable | None = None
    try:
        segments = hand_sums(installation, readings)
    except IntakeError as error:
        segments, trouble = None, not_available(ReasonCode.NOT_WORKED_OUT, words=error)
    level = segments.level if segments else None
    sums: list[Reckoning | NotAvailable] = []
    if segments is not None and level is not None:
        sums = segments.since_last(level)
    found = doubts(readings, installation.by_hand, sums)
    place = {id(reading): k for k, reading in enumerate(readings)}
    rows = [
        _row(reading, key, user, zone, series, sums[k] if sums else trouble, _of(found, k))
        for k, (reading, key, user) in enumerate(both)
        if key is not None and key not in drafts
    ]
    for k, row in enumerate(typed):
        reading = read[k]
        bad = [CellProblem(p.column, p.what) for p in problems if p.row == k]
        if reading is None:
            rows.append(
                RowShown(
                    id=row.id,
                    local=row.time,
                    time=None,
                    cells=row.cells,
                    turns=dict(row.turns),
                    note=row.note,
                    user=None,
                    sum=None,
                    reason=None,
                    problems=bad,
                    doubts=[],
                )
            )
            continue
        at = place[id(reading)]
        shown = _row(
            reading, row.id, None, zone, series, sums[at] if sums else trouble, _of(found, at)
        )
        rows.append(replace(shown, local=row.time, cells=row.cells))
    return SheetShown(
        [_series(one) for one in installation.by_hand],
        rows,
        level.value if level else None,
        level.words() if level else None,
        None
        if level
        else str(trouble.reason)
        if trouble
        else _why_no_level(installation, segments),
        segments.from_yield if segments else False,
        _whole(segments),
    )


def _whole(segments: HandSums | None) -> ReckoningShown | None:
    if segments is None or segments.level is None or len(segments.readings) < 2:
        return None
    first = segments.readings[0]
    span = (first.time if first.since is None else first.since, segments.readings[-1].time)
    found = segments.between([span], segments.level)[0]
    return None if isinstance(found, NotAvailable) else reckoning(found)


def _why_no_level(installation: Installation, segments: HandSums | None) -> str | None:
    if not installation.by_hand:
        return None
    if segments is None:
        return "electricity has to be read at two times before there is a sum"
    return "; ".join(
        f"{level.value}: {combination.reason}"
        for level, combination in segments.combinations.items()
    )


def _of(found: list[Doubt], row: int) -> list[DoubtShown]:
    return [
        DoubtShown(d.column, d.what, d.likely, d.turn.value if d.turn else None)
        for d in found
        if d.row == row
    ]


def _digits(value: float, series: HandSeries | None) -> str:
    """A reading with the digits that its display has."""
    if series is None:
        return f"{value:.10g}"
    decimals = max(0, -floor(log10(series.resolution)))
    shown = f"{value:.{decimals}f}"
    return shown if float(shown) == value else f"{value:.10g}"


def _row(
    reading: Reading,
    key: int | None,
    user: str | None,
    zone: ZoneInfo,
    series: dict[str, HandSeries],
    summed: Reckoning | NotAvailable | None,
    found: list[DoubtShown],
) -> RowShown:
    cells = {name: _digits(value, series.get(name)) for name, value in reading.values.items()}
    turns = {name: turn.value for name, turn in reading.turns.items()}
    if reading.since is None:
        local = iso_local(reading.time, zone)
        if reading.time % 60:
            local += f":{int(reading.time % 60):02d}"
    else:
        first = wall_clock(reading.since, zone).date()
        days = round((reading.time - reading.since) / 86_400)
        local = f"{first}" if days == 1 else f"{first:%Y-%m}" if days < 32 else f"{first:%Y}"
    shown = reckoning(summed) if isinstance(summed, Reckoning) else None
    why = summed.reason if summed is not None else None
    if shown is not None and not shown.covered and shown.left_out:
        why = because(ReasonCode.NOT_KNOWN_HERE, reason=shown.left_out[0].reason)
    return RowShown(
        id=key,
        local=local,
        time=reading.time,
        cells=cells,
        turns=turns,
        note=reading.note,
        user=user,
        sum=shown,
        reason=why,
        problems=[],
        doubts=found,
    )


def _series(one: HandSeries) -> SeriesShown:
    unit = symbol(unit_named(one.unit) or one.unit)
    energy = one.kind != HandKind.OTHER
    return SeriesShown(one.name, one.kind.value, one.keeps.value, one.unit, unit, one.meter, energy)
