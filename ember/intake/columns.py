"""One column: from the file's unit to the core's, impossible values out."""

from pathlib import Path

import numpy as np
import pyarrow as pa

from ember.channels import Kind, Quantity, quantity_of
from ember.errors import IntakeError
from ember.intake.grid import MESSY
from ember.intake.mapping import Mapped
from ember.intake.report import Note, Treatment, in_words, note
from ember.quantity import conversion, symbol
from ember.trace import Floats, Ints

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


def converted(
    mapped: Mapped, column: pa.ChunkedArray, rows: Ints, path: Path
) -> tuple[Floats, str, list[Note]]:
    """A column's values in the core's unit, without impossible ones; its unit; notes."""
    quantity = quantity_of(mapped.channel)
    values: Floats = column.to_numpy()
    notes: list[Note] = []
    unit = mapped.unit
    if unit is None:
        unit, doubt = _assumed(quantity, values)
        if doubt:
            notes.append(note(Treatment.DOUBTED, f"'{mapped.header}': {doubt}"))
    linear = conversion(unit, quantity.unit)
    assert linear is not None
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


def running_total(values: Floats, times: Ints) -> Floats:
    """Amounts, each since the row before, as a register.

    Parameters
    ----------
    values : array, (n,)  Amounts, in order of time. times : array, (n,)  Instants [s].

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
    values : array, (n,)  Its readings in order of time [J]. rows : array, (n,)  Row numbers.
    """
    at = np.flatnonzero(np.isfinite(values))
    down = np.flatnonzero(np.diff(values[at]) < 0)
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
