"""Which column is which channel: said by the description, or guessed with a reason."""

import re
from collections.abc import Callable
from dataclasses import dataclass

from ember.basis.channels import ELECTRICITY_PRICE, Quantity, quantity_of
from ember.basis.errors import IntakeError
from ember.basis.quantity import compatible_units, symbol, unit_named
from ember.description.installation import Installation, channels_of
from ember.description.logged import Column
from ember.intake.dialect import Dialect
from ember.intake.recognise import Guess, modes_of, recognised
from ember.intake.report import Question
from ember.intake.sample import Sample

_BRACKETED = re.compile(r"[\[(]\s*([^\])]+?)\s*[\])]")


@dataclass(frozen=True, slots=True)
class Mapped:
    """A column with its channel.

    Attributes
    ----------
    unit : str | None
        of the closed list, None where nothing says it.
    needed : bool
        the description reads or names it; else it is a guess that may be left out.
    counts, each_row, modes : float | None
        as in the description's Column.
    """

    column: int
    header: str
    channel: str
    unit: str | None
    reason: str
    needed: bool
    counts: float | None = None
    each_row: bool = False
    modes: tuple[tuple[str, str], ...] = ()


def map_columns(
    dialect: Dialect,
    installation: Installation,
    clock_columns: set[int],
    name: str,
    sample: Callable[[], Sample],
    alone: bool = True,
) -> tuple[list[Mapped], tuple[Question, ...]]:
    """The columns to read, and what only a person can say of the others.

    Parameters
    ----------
    sample : Callable[[], Sample]
        makes the stretches of the log at which the recognition looks.
    alone : bool
        no other log holds the rest.

    Raises
    ------
    IntakeError
        if what the description needs is not there.
    """
    questions: tuple[Question, ...] = ()
    if installation.columns:
        mapped = [_described(dialect, column, name) for column in installation.columns]
        clock = next((m for m in mapped if m.column in clock_columns), None)
        if clock is not None:
            raise IntakeError(
                f"{name}: column '{clock.header}' is the clock of this log and cannot be "
                f"{quantity_of(clock.channel).meaning} as well. Choose another column for it."
            )
    else:
        mapped, questions = _guessed(dialect, installation, clock_columns, sample())
    needed = channels_of(installation)
    of_use = {*needed, ELECTRICITY_PRICE}  # prices come in files of their own
    if not mapped or (alone and not any(m.channel in of_use for m in mapped)):
        wanted = ", ".join(needed)
        raise IntakeError(
            f"{name}: no column was recognised as anything that the description reads ({wanted}) "
            "in the header "
            f"(row {dialect.header_row}: {_shown(dialect.headers)}). Name the columns in the "
            "description under `columns`."
        )
    return mapped, questions


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
        column=places[0],
        header=header,
        channel=channel,
        unit=written,
        reason="said by the description",
        needed=True,
        counts=column.counts,
        each_row=column.each_row,
        modes=column.modes,
    )


def _compatible(unit: str, quantity: Quantity) -> bool:
    return unit in compatible_units(quantity.unit)


# Units that are found anywhere in a header, since no word of the trade is written like them.
_ANYWHERE = ("kwh", "mwh", "wh", "kw", "lpm", "gpm", "gj", "mj", "degc", "degf", "m3h", "btuh")


def _unit_of(dialect: Dialect, column: int) -> tuple[str | None, str]:
    """The unit that header or units row give, and the header without it."""
    header = dialect.headers[column]
    if dialect.units_row is not None:
        unit = unit_named(dialect.units_row[column].strip(" []()"))
        if unit is not None:
            return unit, header
    bracketed = _BRACKETED.search(header)
    if bracketed and (unit := unit_named(bracketed[1])):
        return unit, _BRACKETED.sub(" ", header)
    for separator in ("_", " ", ".", "-", ","):
        words = header.split(separator)
        for count in (2, 1):  # m3_h and °C
            if len(words) > count and (unit := unit_named(separator.join(words[-count:]))):
                return unit, separator.join(words[:-count])
    words = re.split(r"[^A-Za-z0-9]+", header)
    for k, word in enumerate(words):
        if word.lower() in _ANYWHERE:
            return unit_named(word), " ".join(words[:k] + words[k + 1 :]) or header
    return None, header


def _folded(text: str) -> str:
    return " ".join(re.split(r"[^a-z0-9äöüß]+", text.lower())).strip()


def _guessed(
    dialect: Dialect, installation: Installation, clock_columns: set[int], sample: Sample
) -> tuple[list[Mapped], tuple[Question, ...]]:
    """The columns as they are recognised, and what is left to ask."""
    needed = channels_of(installation)
    taken: dict[str, Mapped] = {}
    units = {k: _unit_of(dialect, k) for k in range(len(dialect.headers))}
    guesses, questions = recognised(dialect, sample, units, clock_columns)
    for guess in sorted(guesses, key=lambda g: not g.sure):
        if guess.quantity is None:
            continue
        words = units[guess.column][1]
        channel = _channel(quantity_of(guess.quantity), words, needed, taken)
        if channel is None:
            continue
        taken[channel] = Mapped(
            guess.column,
            guess.header,
            channel,
            guess.unit,
            guess.reason,
            channel in needed,
            modes=_modes(guess, guesses, sample),
        )
    return sorted(taken.values(), key=lambda m: m.column), tuple(questions)


def _modes(guess: Guess, guesses: list[Guess], sample: Sample) -> tuple[tuple[str, str], ...]:
    """Of a column of modes, the state of each word."""
    if guess.quantity != "mode":
        return ()
    return tuple(
        (word, state) for word, (state, _) in modes_of(guess.column, guesses, sample).items()
    )


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
    if quantity.name in needed:
        return None
    return quantity.name if quantity.name not in taken else None
