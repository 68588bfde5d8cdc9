"""From irregular stamps to one regular grid."""

from dataclasses import dataclass

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.clock import Seconds
from ember.basis.errors import IntakeError
from ember.basis.series import Floats, Ints
from ember.intake.onchange import OnChange, grid_step, held
from ember.intake.report import Note, Treatment, note

GRID_STEPS = np.array([5, 10, 15, 20, 30, 60, 120, 180, 300, 600, 900, 1200, 1800, 3600])
MAX_CELLS = 40_000_000
GRID_LONGEST = 26 * 3600.0  # from row to row of a log: a day, at a change of clocks too [s]
HOLD = 1.5  # intervals for which a level stays known after its last reading
BLOCKS = 0.01  # of the rows that go back, where a logger sends whole blocks again
MESSY = 0.10  # share of repeated or backward times above which a file is not trusted


@dataclass(frozen=True)
class Placement:
    """Where the rows of a file go.

    Attributes
    ----------
    order : Ints | None
        rows kept, in time order; None: all, as they are.
    cell : Ints | None
        cell of each kept row, None where row k is cell k.
    edge : Ints | None
        nearest beginning of a cell.
    change : tuple[OnChange, Seconds] | None
        how a log is held that is written on change, and the times of the kept rows [s]; None for
        one that comes by the clock.
    """

    start: int
    step: int
    n: int
    order: Ints | None
    cell: Ints | None
    edge: Ints | None
    change: tuple[OnChange, Seconds] | None = None


def place_held(stamps: Seconds, how: OnChange, name: str) -> tuple[Placement, list[Note]]:
    """The grid of a log written on change.

    Parameters
    ----------
    stamps : Seconds
        array, (n,)  Instants of the rows [s].
    """
    order = np.argsort(stamps, kind="stable")
    kept = stamps[order]
    step = grid_step(kept)
    start = int(kept[0]) // step * step
    n = (int(kept[-1]) - start) // step + 1
    _limit(n, step, name)
    told = how.told or "none was found, so half an hour is taken"
    text = (
        "Written on change: each value is held until its next, at most "
        f"{how.heartbeat / 60:.0f} min while nothing at all is written "
        f"({told}); longer silences are gaps."
    )
    said = note(Treatment.CONVERTED if how.told else Treatment.DOUBTED, text)
    return Placement(start, step, n, order, None, None, (how, kept)), [said]


def _limit(n: int, step: int, name: str) -> None:
    if n > MAX_CELLS:
        raise IntakeError(
            f"{name}: the times run over {n * step / 86400 / 365:.0f} years at steps of {step} s. "
            "Is there a wrong date in the file?"
        )


def place(stamps: Seconds, rows: Ints, name: str, per: int = 1) -> tuple[Placement, list[Note]]:
    """The grid that fits a file's times.

    Parameters
    ----------
    stamps : array, (n,)
        Instants of the rows [s].
    rows : array, (n,)
        Row numbers in the file.
    per : int
        rows from one reading of a channel to its next, in a table made of a long one.

    Raises
    ------
    IntakeError
        where the times make no series.
    """
    if len(stamps) < 2:
        raise IntakeError(f"{name}: there is only one usable row; a log needs at least two.")
    gaps = np.diff(stamps)
    if gaps[0] > 0 and bool((gaps == gaps[0]).all()) and gaps[0] in GRID_STEPS:
        start = int(stamps[0])
        if start % int(gaps[0]) == 0:
            return Placement(start, int(gaps[0]), len(stamps), None, None, None), []
    order, notes = _ordered(stamps, gaps, rows, name)
    kept = stamps if order is None else stamps[order]
    gaps = np.diff(kept)
    if not len(gaps):
        raise IntakeError(f"{name}: all rows have the same time.")
    step = _step(
        float(np.median(gaps)) if per == 1 else float(np.median(kept[per:] - kept[:-per])), name
    )
    start = int(kept[0]) // step * step
    cell = (kept - start) // step
    n = int(cell[-1]) + 1
    _limit(n, step, name)
    edge = np.minimum((kept - start + step // 2) // step, n - 1)
    return Placement(start, step, n, order, cell, edge), notes


def _ordered(stamps: Seconds, gaps: Ints, rows: Ints, name: str) -> tuple[Ints | None, list[Note]]:
    """The rows to keep, in order of time, each time once."""
    notes: list[Note] = []
    back, same = int((gaps < 0).sum()), int((gaps == 0).sum())
    if not back and not same:
        return None, notes
    order = np.arange(len(stamps))
    if back > 0.9 * len(gaps):
        order = order[::-1]
        notes.append(note(Treatment.CONVERTED, "The newest row stands first; read from the end."))
    elif back > MESSY * len(gaps):
        at = int(rows[1:][gaps < 0][0])
        raise IntakeError(
            f"{name}: the times go backwards in {back:,} of {len(gaps):,} steps, first in row "
            f"{at:,}. Sort the file by time, or split it if several loggers were put together."
        )
    elif back:
        text = "{rows}: out of order; sorted by time."
        notes.append(note(Treatment.CONVERTED, text, rows[1:][gaps < 0]))
    order = order[np.argsort(stamps[order], kind="stable")]
    repeated = np.flatnonzero(np.diff(stamps[order]) == 0)
    again = same <= MESSY * len(stamps) and back <= BLOCKS * len(stamps)
    if len(repeated) > MESSY * len(stamps) and not again:
        at = int(rows[order[repeated[0] + 1]])
        raise IntakeError(
            f"{name}: {len(repeated):,} of {len(stamps):,} rows repeat a time, first row {at:,}. "
            "A log has one row for each time; or one for each reading, with a column that names "
            "what was read and one for its value."
        )
    if len(repeated):
        text = "{rows}: the time of another row again; the later row was kept."
        notes.append(note(Treatment.LEFT_OUT, text, np.sort(rows[order[repeated]])))
        order = np.delete(order, repeated)
    return order, notes


def _step(median: float, name: str) -> int:
    nearest = int(GRID_STEPS[np.argmin(np.abs(GRID_STEPS - median))])
    if median > GRID_LONGEST:
        raise IntakeError(
            f"{name}: the rows are {median / 86_400:.1f} days apart. A log has at least one row a "
            "day; put readings that lie further apart into the sheet of readings by hand."
        )
    if median > 1.5 * GRID_STEPS[-1]:  # held from row to row, on a grid of hours
        return int(GRID_STEPS[-1])
    return nearest if abs(nearest - median) <= 0.1 * median else max(1, round(median))


def to_grid(values: Floats, channel: str, placement: Placement) -> tuple[Floats, float, int]:
    """One channel on the grid.

    Levels, rates and flags: the mean of what was read in a cell. A channel slower than the grid
    is held for up to 1.5 of its own intervals; else only a single cell between two is bridged.
    Counters: the reading nearest to the beginning of a cell.

    Returns
    -------
    array, (placement.n,); the channel's own interval [s]; the number of cells held.
    """
    counter = quantity_of(channel).kind == Kind.COUNTER
    if placement.order is not None:
        values = values[placement.order]
    if placement.change is not None:
        how, times = placement.change
        grid, long = held(times, values, how, placement.start, placement.step, placement.n, counter)
        return grid, float(placement.step), round(long / placement.step)
    if placement.cell is None or placement.edge is None:
        grid = values
    elif counter:
        grid = np.full(placement.n, np.nan)
        known = np.isfinite(values)
        grid[placement.edge[known]] = values[known]
    else:
        grid = _means(values, placement.cell, placement.n)
    if placement.cell is None and not bool(np.isnan(grid).any()):
        return grid, float(placement.step), 0
    at = np.flatnonzero(np.isfinite(grid))
    spacing = float(np.median(np.diff(at))) if len(at) > 1 else 1.0
    native = spacing * placement.step
    if counter:
        return grid, native, 0
    return _held(grid, at, spacing, native)


def _means(values: Floats, cell: Ints, n: int) -> Floats:
    known = np.isfinite(values)
    at = cell[known]
    count = np.bincount(at, minlength=n)
    total = np.bincount(at, weights=values[known], minlength=n)
    with np.errstate(invalid="ignore"):
        means: Floats = total / count
    return means


def _held(grid: Floats, at: Ints, spacing: float, native: float) -> tuple[Floats, float, int]:
    """A channel with each reading kept until the next, or until it is too old."""
    if not len(at):
        return grid, native, 0
    last = np.zeros(len(grid), np.int64)
    last[at] = at
    last = np.maximum.accumulate(last)
    missing = np.isnan(grid) & (np.arange(len(grid)) > at[0])
    if spacing > 1:
        fill = missing & (np.arange(len(grid)) - last < HOLD * spacing + 1e-9)
    else:  # a reading that jitter put into the neighbouring cell
        fill = np.zeros(len(grid), np.bool_)
        fill[1:-1] = missing[1:-1] & ~missing[:-2] & ~missing[2:]
    held = grid.copy()
    held[fill] = grid[last[fill]]
    return held, native, int(fill.sum())
