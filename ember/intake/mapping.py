"""Which column is which channel: said by the description, or guessed with a reason."""

import re
from dataclasses import dataclass

from ember.channels import QUANTITIES, Kind, Quantity, quantity_of
from ember.errors import IntakeError
from ember.installation import Installation, channels_of
from ember.intake.dialect import Dialect
from ember.logged import Column
from ember.quantity import compatible_units, symbol, unit_named

_BRACKETED = re.compile(r"[\[(]\s*([^\])]+?)\s*[\])]")


@dataclass(frozen=True, slots=True)
class Mapped:
    """A column with its channel. unit : of the closed list, None where nothing says it.

    needed : the description reads or names it; else it is a guess that may be left out.
    counts, each_row : as in the description's Column.
    """

    column: int
    header: str
    channel: str
    unit: str | None
    reason: str
    needed: bool
    counts: float | None = None
    each_row: bool = False


def map_columns(
    dialect: Dialect, installation: Installation, clock_columns: set[int], name: str
) -> list[Mapped]:
    """The columns to read. Raises IntakeError if what the description needs is not there."""
    if installation.columns:
        mapped = [_described(dialect, column, name) for column in installation.columns]
        clock = next((m for m in mapped if m.column in clock_columns), None)
        if clock is not None:
            raise IntakeError(
                f"{name}: column '{clock.header}' is the clock of this log and cannot be "
                f"{quantity_of(clock.channel).meaning} as well. Choose another column for it."
            )
    else:
        mapped = _guessed(dialect, installation, clock_columns)
    needed = channels_of(installation)
    if not any(m.channel in needed for m in mapped):
        wanted = ", ".join(needed)
        raise IntakeError(
            f"{name}: no column was recognised as anything that the description reads ({wanted}) "
            "in the header "
            f"(row {dialect.header_row}: {_shown(dialect.headers)}). Name the columns in the "
            "description under `columns`."
        )
    return mapped


def _shown(headers: tuple[str, ...]) -> str:
    text = ", ".join(headers)
    return text if len(text) <= 120 else text[:117] + "…"


def _described(dialect: Dialect, column: Column, name: str) -> Mapped:
    header, channel, unit = column.header, column.channel, column.unit
    places = [k for k, text in enumerate(dialect.headers) if text == header]
    if len(places) != 1:
        many = "is not in" if not places else "stands more than once in"
        raise IntakeError(
            f"{name}: column '{header}' of the description {many} the header "
            f"(row {dialect.header_row}: {_shown(dialect.headers)})."
        )
    written = unit_named(unit) if unit else _unit_of(dialect, places[0])[0]
    quantity = quantity_of(channel)
    if written is not None and not _compatible(written, quantity):
        raise IntakeError(
            f"{name}: column '{header}' is in {symbol(written)}, which cannot be "
            f"{quantity.meaning}. Correct the column's unit or channel in the description."
        )
    return Mapped(
        places[0], header, channel, written, "said by the description", True, column.counts,
        column.each_row,
    )  # fmt: skip


def _compatible(unit: str, quantity: Quantity) -> bool:
    return unit in compatible_units(quantity.unit)


def _unit_of(dialect: Dialect, column: int) -> tuple[str | None, str]:
    """The unit that header or units row give, and the header without it, folded."""
    header = dialect.headers[column]
    if dialect.units_row is not None:
        unit = unit_named(dialect.units_row[column].strip(" []()"))
        return unit, _folded(header)
    bracketed = _BRACKETED.search(header)
    if bracketed and (unit := unit_named(bracketed[1])):
        return unit, _folded(_BRACKETED.sub(" ", header))
    for separator in ("_", " "):
        words = header.split(separator)
        for count in (2, 1):  # m3_h and °C
            if len(words) > count and (unit := unit_named(separator.join(words[-count:]))):
                return unit, _folded(separator.join(words[:-count]))
    return None, _folded(header)


def _folded(text: str) -> str:
    return " ".join(re.split(r"[^a-z0-9äöüß]+", text.lower())).strip()


def _guessed(dialect: Dialect, installation: Installation, clock_columns: set[int]) -> list[Mapped]:
    needed = channels_of(installation)
    taken: dict[str, Mapped] = {}
    for column, header in enumerate(dialect.headers):
        if column in clock_columns:
            continue
        unit, words = _unit_of(dialect, column)
        quantity, matched = _best(words, unit)
        if quantity is None:
            continue
        channel = _channel(quantity, words, needed, taken)
        if channel is None:
            continue
        reason = f"the header says '{matched}'" + (f" and {symbol(unit)}" if unit else "")
        taken[channel] = Mapped(column, header, channel, unit, reason, channel in needed)
    return sorted(taken.values(), key=lambda m: m.column)


def _best(words: str, unit: str | None) -> tuple[Quantity | None, str]:
    """The quantity whose words fit a header best, among those that can have its unit."""
    best: tuple[int, Quantity | None, str] = (0, None, "")
    for quantity in QUANTITIES.values():
        if unit is not None and not _compatible(unit, quantity):
            continue
        if unit is not None and quantity.kind == Kind.FLAG:
            continue
        for alternative in quantity.words.split("|"):
            if alternative.startswith("!") and unit is None:
                continue
            parts = alternative.lstrip("!").split()
            if all(re.search(rf"(^| ){re.escape(part)}", words) for part in parts):
                score = sum(len(part) for part in parts)
                if score > best[0]:
                    best = (score, quantity, alternative.lstrip("!"))
    return best[1], best[2]


def _channel(
    quantity: Quantity, words: str, needed: tuple[str, ...], taken: dict[str, Mapped]
) -> str | None:
    """The channel of that quantity a column is for; None if it is free for none."""
    open_ones = [c for c in needed if quantity_of(c) is quantity and c not in taken]
    for channel in open_ones:
        label = _folded(channel.partition(":")[2])
        if label and label in words:
            return channel
    if len([c for c in needed if quantity_of(c) is quantity]) == 1 and open_ones:
        return open_ones[0]
    if quantity.name in needed or quantity.kind == Kind.COUNTER or quantity.name == "power":
        return None
    return quantity.name if quantity.name not in taken else None
