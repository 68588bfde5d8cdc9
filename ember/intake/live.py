"""What a logger sends while it runs: batches of readings, late and out of order as they come."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import Any

import numpy as np
import orjson

from ember.basis.channels import Kind, quantity_of
from ember.basis.errors import DescriptionError, IntakeError
from ember.basis.quantity import conversion, unit_named
from ember.basis.series import Floats, Trace
from ember.description.logged import Column
from ember.intake.grid import GRID_STEPS, Placement, to_grid

LIVE_EARLIEST = 946_684_800  # 2000-01-01
AHEAD = 86_400  # a reading further in the future is refused [s]
LIVE_MOST_READINGS = 10_000  # of one batch
MOST_BYTES = 1 << 20
LONGEST_KEY = 64  # characters of a batch's own key
LONGEST_NAME = 80  # of a reading's

Sample = tuple[float, str, float]  # instant [s], name, value


@dataclass(frozen=True)
class Refusal:
    """A reading that was not taken.

    Attributes
    ----------
    place : int
        row of the batch, from 1.
    """

    place: int
    why: str


@dataclass(frozen=True)
class SentBatch:
    """A batch as it was understood.

    Attributes
    ----------
    key : str | None
        the logger's own for it
    sent : float | None
        by its clock [s].
    """

    key: str | None
    sent: float | None
    readings: list[Sample]
    refused: list[Refusal]


def read_batch(body: bytes, as_json: bool, now: float) -> SentBatch:
    """The readings in a body.

    Parameters
    ----------
    as_json : bool
        {"readings": [{"time": …, "flow_temp": 35.2, …}, …]}, with "batch" and "sent" where the
        logger knows them; else lines of time, name and value.
    now : float
        instant by our clock [s].

    Raises
    ------
    IntakeError
        where it is neither; a single reading that cannot be is refused by itself.
    """
    if len(body) > MOST_BYTES:
        raise IntakeError(f"the batch is larger than {MOST_BYTES >> 20} MB; send it in parts.")
    sent = _of_json(body, now) if as_json else _of_lines(body, now)
    if len(sent.readings) + len(sent.refused) > LIVE_MOST_READINGS:
        raise IntakeError(
            f"more than {LIVE_MOST_READINGS:,} readings in a batch; send it in parts."
        )
    return sent


def _of_json(body: bytes, now: float) -> SentBatch:
    try:
        found = orjson.loads(body)
    except orjson.JSONDecodeError as error:
        raise IntakeError(f"the batch is no JSON: {error}.") from error
    rows = found.get("readings") if isinstance(found, dict) else None
    if not isinstance(rows, list):
        raise IntakeError('the batch has no list under "readings".')
    readings: list[Sample] = []
    refused: list[Refusal] = []
    for k, row in enumerate(rows, 1):
        when = _instant(row.get("time"), now) if isinstance(row, dict) else "is no object"
        if isinstance(when, str):
            refused.append(Refusal(k, when))
            continue
        for name, value in row.items():
            if name == "time" or value is None:
                continue
            if len(name) > LONGEST_NAME:
                refused.append(Refusal(k, f"{name[:40]}… is longer than {LONGEST_NAME} characters"))
            elif isinstance(value, bool | int | float) and isfinite(value):
                readings.append((when, name, float(value)))
            else:
                refused.append(Refusal(k, f"{name[:40]} is {str(value)[:20]!r}, no number"))
    key, sent = found.get("batch"), found.get("sent")
    stamp = _instant(sent, now + 10 * 365 * 86_400) if sent is not None else None
    return SentBatch(_key(key), None if isinstance(stamp, str) else stamp, readings, refused)


def _key(key: Any) -> str | None:
    """A batch's own key as text. Raises IntakeError for one that is none."""
    if key is None:
        return None
    if not isinstance(key, str | int) or len(str(key)) > LONGEST_KEY or not str(key).strip():
        raise IntakeError(
            f'"batch" must be a text or a whole number of 1 to {LONGEST_KEY} characters, another '
            "for each batch."
        )
    return str(key)


def _of_lines(body: bytes, now: float) -> SentBatch:
    try:
        text = body.decode()
    except UnicodeDecodeError as error:
        raise IntakeError(f"the lines are no UTF-8 text, from byte {error.start}.") from error
    readings: list[Sample] = []
    refused: list[Refusal] = []
    for k, line in enumerate(text.splitlines(), 1):
        words = line.split()
        if not words:
            continue
        if len(words) != 3:
            refused.append(Refusal(k, "a line is: time, name, value"))
            continue
        when = _instant(words[0], now)
        try:
            value = float(words[2])
        except ValueError:
            value = float("nan")
        if isinstance(when, str):
            refused.append(Refusal(k, when))
        elif len(words[1]) > LONGEST_NAME:
            refused.append(Refusal(k, f"{words[1][:40]}… is longer than {LONGEST_NAME} characters"))
        elif not isfinite(value):
            refused.append(Refusal(k, f"{words[1][:40]} is {words[2][:20]!r}, no number"))
        else:
            readings.append((when, words[1], value))
    return SentBatch(None, None, readings, refused)


def _instant(stamp: Any, now: float) -> float | str:
    """An instant, or what is wrong with it. Without an offset a time is UTC."""
    try:
        when = float(stamp)
    except (TypeError, ValueError):
        try:
            parsed = datetime.fromisoformat(str(stamp))
        except ValueError:
            return f"{str(stamp)[:30]!r} is no time"
        zoned = parsed if parsed.tzinfo else parsed.fromisoformat(f"{parsed.isoformat()}+00:00")
        when = zoned.timestamp()
    if when > 1e11:  # milliseconds
        when /= 1000
    if when > now + AHEAD:
        return f"{str(stamp)[:30]} lies in the future; is the logger's clock right?"
    return when if when >= LIVE_EARLIEST else f"{str(stamp)[:30]} lies before the year 2000"


def usual_step(times: Sequence[float]) -> int:
    """The step of a grid for readings at these instants: the usual distance between them."""
    apart = np.diff(np.unique(np.asarray(times)))
    if not len(apart):
        return 60
    usual = float(np.median(apart))
    return int(GRID_STEPS[np.argmin(np.abs(GRID_STEPS - usual))])


def known_as(names: Iterable[str], columns: Sequence[Column]) -> dict[str, Column]:
    """What each name that is sent stands for: as described, or a channel by its own name, in the
    core's unit. Names that are neither are left out."""
    described = {column.header: column for column in columns}
    found = {}
    for name in names:
        if name in described:
            found[name] = described[name]
            continue
        try:
            quantity = quantity_of(name)
        except DescriptionError:
            continue
        found[name] = Column(name, name, quantity.unit)
    return found


def on_grid(
    readings: Sequence[Sample], columns: Sequence[Column], start: int, stop: int, step: int
) -> Trace:
    """Readings, late and out of order, on the grid from start to stop [s].

    Each channel by itself: a level is the mean of what was read in a cell, held for up to 1.5 of
    its own intervals; a register's reading stands at the nearest beginning of a cell. Impossible
    values are unknown. Of two at one time the later one sent counts.
    """
    names = {name for _, name, _ in readings}
    known = known_as(names, columns)
    n = (stop - start) // step
    by_channel: dict[str, dict[float, float]] = {}
    for when, name, value in readings:
        column = known.get(name)
        if column is None or not start <= when < stop:
            continue
        held = _held(column, value)
        if held is not None:
            by_channel.setdefault(column.channel, {})[when] = held
    channels: dict[str, Floats] = {}
    native: dict[str, float] = {}
    for channel, found in by_channel.items():
        order = sorted(found)
        times = np.array(order)
        values = np.array([found[t] for t in order])
        cell = ((times - start) // step).astype(np.int64)
        edge = np.minimum(np.rint((times - start) / step).astype(np.int64), n - 1)
        placement = Placement(start, step, n, np.arange(len(times)), cell, edge)
        channels[channel], native[channel], _ = to_grid(values, channel, placement)
    return Trace(start, step, channels, native)


def _held(column: Column, value: float) -> float | None:
    """A value in the core's unit; None if it is impossible."""
    quantity = quantity_of(column.channel)
    unit = unit_named(column.unit) if column.unit else None
    linear = conversion(unit or quantity.unit, quantity.unit)
    if linear is None:
        return None
    if quantity.kind == Kind.COUNTER and column.counts:
        value *= column.counts
    held = linear[0] * value + linear[1]
    return held if quantity.low <= held <= quantity.high else None
