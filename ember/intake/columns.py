"""One column: from the file's unit to the core's, impossible values out."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from ember.basis.channels import Kind, Quantity, quantity_of
from ember.basis.errors import IntakeError
from ember.basis.quantity import conversion, symbol
from ember.basis.registers import falls as set_back
from ember.basis.series import Bools, Floats, Ints
from ember.intake.grid import MESSY
from ember.intake.mapping import Mapped
from ember.intake.report import Note, Treatment, in_words, note

# What a column without a unit is taken to be: (largest value up to which, unit), common practice.
_ASSUMED: dict[str, tuple[tuple[float, str], ...]] = {
    "power": ((60.0, "kW"), (np.inf, "watt")),
    "flow_rate": (
        (0.005, "m3_per_s"),
        (5.0, "m3_per_h"),
        (150.0, "L_per_min"),
        (np.inf, "L_per_h"),
    ),
    "energy": ((np.inf, "kWh"),),
    "heat_energy": ((np.inf, "kWh"),),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Cleaned:
    """A column without what stands for no reading.

    Attributes
    ----------
    found : frozenset[float]
        the numbers that do.
    ends : tuple[float, float]
        within which all readings lie, NaN without any.
    """

    values: Floats
    notes: list[Note]
    found: frozenset[float]
    ends: tuple[float, float]


def converted(
    mapped: Mapped,
    column: Cleaned,
    rows: Ints,
    path: Path,
    markers: frozenset[float] = frozenset(),
) -> tuple[Floats, str, list[Note]]:
    """A column's values in the core's unit, without impossible ones; its unit; notes.

    Parameters
    ----------
    markers : frozenset[float]
        numbers that stand for no reading elsewhere in the file.
    """
    quantity = quantity_of(mapped.channel)
    values = column.values
    notes: list[Note] = []
    unit = mapped.unit
    if unit is None:
        unit, doubt = _assumed(quantity, values)
        if doubt:
            notes.append(note(Treatment.DOUBTED, f"'{mapped.header}': {doubt}"))
    linear = conversion(unit, quantity.unit)
    assert linear is not None
    values, found = _without(column, quantity, mapped.header, rows, markers)
    notes += found
    if mapped.counts is not None:
        values = values * mapped.counts
        text = f"'{mapped.header}': one pulse is {mapped.counts:g} {symbol(unit)}."
        notes.append(note(Treatment.CONVERTED, text))
    raw = values
    if linear != (1.0, 0.0):
        values = values * linear[0]
        if linear[1]:
            values += linear[1]
        notes.append(
            note(
                Treatment.CONVERTED,
                f"'{mapped.header}': {symbol(unit)} to {symbol(quantity.unit)}.",
            )
        )
    ends = [end * (mapped.counts or 1.0) * linear[0] + linear[1] for end in column.ends]
    if quantity.low <= ends[0] and ends[1] <= quantity.high:
        return values, unit, notes
    outside = values < quantity.low
    outside |= values > quantity.high
    count = int(np.count_nonzero(outside))
    if not count:
        return values, unit, notes
    first = int(np.flatnonzero(outside)[0])
    what = f"'{mapped.header}' is {raw[first]:g} {symbol(unit)}{_hint(quantity, raw[outside])}"
    if count > MESSY * max(1, int(np.count_nonzero(np.isfinite(values)))):
        if not mapped.needed:
            text = f"{what}, which cannot be {quantity.meaning}; not needed, the column is unused."
            notes.append(note(Treatment.LEFT_OUT, text))
            return np.full(len(values), np.nan), unit, notes
        raise IntakeError(
            f"{path.name}: {in_words(rows[outside])}: {what}. That cannot be "
            f"{quantity.meaning}; correct the column's channel or unit in the description."
        )
    text = f"{{rows}}: {what}; impossible for {quantity.meaning}."
    notes.append(note(Treatment.LEFT_OUT, text, rows[outside]))
    return np.where(outside, np.nan, values), unit, notes


# What loggers write where there is no reading, common practice.
MARKERS = (999.0, 9999.0, 99999.0, 999.9, 99.9, -999.0, -9999.0, -99.0, -99.9, -999.9, -127.0,
           327.67, 3276.7, 32767.0, -32768.0, -327.68, -3276.8, 65535.0, 6553.5, 655.35, 8888.0,
           1e6, -1e6)  # fmt: skip
MARKED = frozenset(MARKERS)
LONE = 0.05  # of the readings, at most, that are a marker known from other columns
POWER_UP = 85.0  # what a digital probe reads that has just been switched on [degC]
COLUMNS_APART = 10.0  # from both neighbours, that it is that [K]


def cleaned(values: Floats, quantity: Quantity, header: str, rows: Ints) -> Cleaned:
    """A column without what stands for no reading by itself; see `_dropped`."""
    ends = _ends(values)
    kept, notes, found = _dropped(values, ends, quantity, header, rows)
    told = frozenset() if quantity.kind == Kind.COUNTER else frozenset(found)
    return Cleaned(kept, notes, told, ends)


def _ends(values: Floats) -> tuple[float, float]:
    """The least and the greatest of the known, NaN without any."""
    if not len(values):
        return np.nan, np.nan
    low, high = float(values.min()), float(values.max())
    if np.isnan(low):
        return float(np.fmin.reduce(values)), float(np.fmax.reduce(values))
    return low, high


def _without(
    column: Cleaned, quantity: Quantity, header: str, rows: Ints, elsewhere: frozenset[float]
) -> tuple[Floats, list[Note]]:
    """The same without what stands for no reading in other columns of the file: here such numbers
    are believed to where they stand alone."""
    values, notes = column.values, list(column.notes)
    if quantity.kind == Kind.COUNTER:
        return values, notes
    for marker in elsewhere - column.found:
        alone = values == marker
        if not alone.any():
            continue
        alone[1:] &= ~(values[:-1] == marker)
        if 0 < alone.sum() <= LONE * len(values):
            values = np.where(alone, np.nan, values)
            text = f"{{rows}}: '{header}' is {marker:g}, which stands for no reading in this file."
            notes.append(note(Treatment.LEFT_OUT, text, rows[alone]))
    return values, notes


def _dropped(
    values: Floats, ends: tuple[float, float], quantity: Quantity, header: str, rows: Ints
) -> tuple[Floats, list[Note], set[float]]:
    """A column without what stands for no reading: numbers of that kind far from all others, a
    probe's 85 °C alone, a register's lone zero. As the file has them, before any unit."""
    notes: list[Note] = []
    gone: set[float] = set()
    counter = quantity.kind == Kind.COUNTER
    if not (set(ends) & MARKED or (counter and ends[0] == 0.0) or ends[1] >= POWER_UP):
        return values, notes, gone  # nothing among them could stand for no reading
    known = values[np.isfinite(values)]
    if len(known) < 3:
        return values, notes, gone
    drop = np.zeros(0, np.bool_)
    for _ in range(3):
        hit = [m for m in (float(np.nanmax(values)), float(np.nanmin(values))) if m in MARKERS]
        if counter and float(np.nanmin(values)) == 0.0:
            hit.append(0.0)
        found = None
        for marker in hit:
            mask = values == marker
            others = values[~mask & np.isfinite(values)]
            if len(others) < 0.3 * len(known):
                continue
            if counter:
                mask &= _dropouts(values, mask)
                if not mask.any():
                    continue
            else:
                low, high = np.percentile(others[:: max(1, len(others) // 20_000)], [0.1, 99.9])
                width = max(high - low, 1.0)
                if low - width < marker < high + width:
                    continue
            found = marker, mask
            break
        if found is None:
            break
        marker, drop = found
        gone.add(marker)
        values = np.where(drop, np.nan, values)
        text = f"{{rows}}: '{header}' is {marker:g}, which stands for no reading."
        notes.append(note(Treatment.LEFT_OUT, text, rows[drop]))
    if quantity.unit == "degC" and quantity.kind == Kind.LEVEL and np.nanmax(values) >= POWER_UP:
        alone = values == POWER_UP
        before, after = np.roll(values, 1), np.roll(values, -1)
        with np.errstate(invalid="ignore"):
            alone &= (np.abs(before - values) >= COLUMNS_APART) & (
                np.abs(after - values) >= COLUMNS_APART
            )
        if alone.any():
            values = np.where(alone, np.nan, values)
            text = f"{{rows}}: '{header}' is 85 alone, which a probe reads as it is switched on."
            notes.append(note(Treatment.LEFT_OUT, text, rows[alone]))
    return values, notes, gone


def _dropouts(values: Floats, mask: Bools) -> Bools:
    """Readings of a register that are gone at the next other one: it goes on from where it was."""
    result: Bools = np.zeros(len(values), np.bool_)
    good = np.flatnonzero(~mask & np.isfinite(values))
    at = np.flatnonzero(mask)
    k = np.searchsorted(good, at)
    inside = (k > 0) & (k < len(good))
    before, after = good[np.maximum(k - 1, 0)], good[np.minimum(k, len(good) - 1)]
    usual = abs(values[after] - values[before])
    fine = inside & (values[after] >= values[before])
    fine &= np.abs(values[before] - values[at]) > 10 * usual + 1.0
    result[at[fine]] = True
    return result


SMOOTHED = 40.0  # steps of a volume register over which its flow is taken


def flow_by_volume(volume: Floats, step: int) -> Floats:
    """Volume flow from what a register counts.

    Parameters
    ----------
    volume : array, (n,)
        Its reading at the beginning of each cell [m3].
    step : int
        of a cell [s].

    Returns
    -------
    array, (n,)  [m3/s]; NaN where it was not read, or fell.
    """
    n = len(volume)
    result = np.full(n, np.nan)
    at = np.flatnonzero(np.isfinite(volume))
    if len(at) < 3:
        return result
    readings = volume[at]
    moved = np.flatnonzero(np.diff(readings, prepend=readings[0] - 1, append=readings[-1] + 1) != 0)
    knots = np.unique(np.concatenate([moved[moved < len(at)], [0, len(at) - 1]]))
    rise = np.diff(readings[knots])
    apart = np.diff(at[knots]) * float(step)
    rate = np.where(rise < 0, np.nan, rise / apart)
    cells = np.arange(at[0], at[-1])
    place = np.searchsorted(at[knots], cells, side="right") - 1
    result[cells] = rate[np.minimum(place, len(rate) - 1)]
    gaps = np.diff(at)
    wide = np.flatnonzero(gaps > 3 * max(1.0, float(np.median(gaps))))
    for k in wide.tolist():
        result[at[k] : at[k + 1]] = np.nan
    positive = rise[rise > 0]
    if not len(positive):
        return result
    usual = float(np.nanmedian(result[result > 0])) if (result > 0).any() else 0.0
    finest = float(np.min(positive[:: max(1, len(positive) // 50_000)]))
    half = int(SMOOTHED * finest / max(usual * step, 1e-12) / 2)
    if half < 1 or half > 30:
        return result
    flowing = result > 0.3 * usual
    total = np.concatenate([[0.0], np.cumsum(np.where(flowing, result, 0.0))])
    count = np.concatenate([[0], np.cumsum(flowing)])
    index = np.arange(n)
    first, last = np.maximum(index - half, 0), np.minimum(index + half + 1, n)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = (total[last] - total[first]) / (count[last] - count[first])
    result[flowing] = mean[flowing]
    return result


def mode_flags(mapped: Mapped, column: pa.ChunkedArray) -> tuple[dict[str, Floats], Note]:
    """A column of modes as flags, one for each state but heating and off that its words have."""
    encoded = pc.fill_null(pc.utf8_trim_whitespace(column), "").combine_chunks().dictionary_encode()
    states = dict(mapped.modes)
    words = encoded.dictionary.to_pylist()
    each = [states.get(word, states.get(_plain(word), "")) for word in words]
    codes = encoded.indices.to_numpy()
    known = np.array([bool(state) for state in each] or [False])[codes]
    flags: dict[str, Floats] = {}
    for state in ("hot_water", "defrost", "cooling"):
        if state not in states.values():
            continue
        values = np.array([float(one == state) for one in each])[codes]
        flags[f"{state}_on"] = np.where(known, values, np.nan)
    said = ", ".join(f"'{word}' {state.replace('_', ' ')}" for word, state in mapped.modes[:8])
    text = f"'{mapped.header}': modes taken as {said}. Confirm it, or correct it, in the columns."
    return flags, note(Treatment.DOUBTED, text)


def _plain(word: str) -> str:
    """A code without a decimal point: 3.0 is 3."""
    return word[:-2] if word.endswith(".0") else word


def running_total(values: Floats, times: Ints) -> Floats:
    """Amounts, each since the row before, as a register.

    Parameters
    ----------
    values : array, (n,)
        Amounts, in order of time.
    times : array, (n,)
        Instants [s].

    Returns
    -------
    array, (n,)  Its reading at each row. Where an amount is unknown, or a row is missing, it falls,
        so that nothing is counted over that stretch (see metering.register).
    """
    known = np.isfinite(values)
    apart = np.diff(times, prepend=times[0])
    usual = float(np.median(apart[1:])) if len(times) > 1 else 0.0
    broken = ~known | (apart > 1.5 * usual)
    rise = np.where(broken, -1.0, values)
    rise[0] = 0.0
    base = float(np.count_nonzero(broken)) + 1.0  # so that it never falls below zero
    total: Floats = base + np.cumsum(rise)
    return total


def falls(mapped: Mapped, values: Floats, rows: Ints) -> Note | None:
    """What is to be said of a register that falls.

    Parameters
    ----------
    values : array, (n,)
        Its readings in order of time [J].
    rows : array, (n,)
        Row numbers.
    """
    at = np.flatnonzero(np.isfinite(values))
    down = np.flatnonzero(set_back(values[at], mapped.channel.startswith("heat_energy")))
    if not len(down):
        return None
    before, after = values[at[down[0]]], values[at[down[0] + 1]]
    text = (
        f"{{rows}}: the register '{mapped.header}' falls, first from {before / 3.6e6:,.1f} to "
        f"{after / 3.6e6:,.1f} kWh: set back, rolled over, or a new meter. It is split there; what "
        "passed between the two readings is not counted."
    )
    return note(Treatment.DOUBTED, text, rows[at[down + 1]])


def _assumed(quantity: Quantity, values: Floats) -> tuple[str, str | None]:
    if quantity.kind == Kind.FLAG:
        return quantity.unit, None
    if quantity.name not in _ASSUMED:
        return quantity.unit, f"no unit in the header; taken as {symbol(quantity.unit)}."
    top = float(np.nanmax(values)) if np.isfinite(values).any() else 0.0
    unit = next(unit for limit, unit in _ASSUMED[quantity.name] if top <= limit)
    return unit, f"no unit in the header; taken as {symbol(unit)} (largest value {top:g})."


def _hint(quantity: Quantity, values: Floats) -> str:
    """A likely unit for values that cannot be, as a question."""
    for unit in ("degF", "kelvin", "watt", "L_per_h"):
        linear = conversion(unit, quantity.unit)
        if linear is None:
            continue
        likely = values * linear[0] + linear[1]
        if unit != quantity.unit and ((likely >= quantity.low) & (likely <= quantity.high)).all():
            return f"; is the column in {symbol(unit)}?"
    return ""
