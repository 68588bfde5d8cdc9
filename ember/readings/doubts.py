"""What is doubtful about a reading, seen against those before it.

All limits are common practice. A doubt never keeps a reading out; it asks.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import log10
from statistics import median

from ember.description.logged import HandKind, HandSeries, Keeps
from ember.messages import NotAvailable
from ember.readings.sheet import Reading, Turn
from ember.reckoning import Reckoning

SUDDEN = 6.0  # times the usual rise an hour, above which a rise is sudden
STEEP = 1.8  # times the usual, above which a rise may be the cause of a fall after it
MOST_COP = 7.0  # over hours or more, beyond any unit
LEAST_COP = 0.9  # less than a resistance heater
DOUBTS_START_UP = 3600.0  # over which a start may well give less [s]
DOUBTS_NEAR = 0.5  # of the usual rise, within which a corrected digit is believed


@dataclass(frozen=True)
class Doubt:
    """Something to look at.

    Attributes
    ----------
    row : int
        of the readings.
    column : str
        a series, or "cop".
    likely : float | None
        what was perhaps meant, in the unit of the series.
    turn : Turn | None
        or why it stands lower.
    """

    row: int
    column: str
    what: str
    likely: float | None = None
    turn: Turn | None = None


def doubts(
    readings: Sequence[Reading],
    series: Sequence[HandSeries],
    since_last: Sequence[Reckoning | NotAvailable] = (),
) -> list[Doubt]:
    """The doubts about a sheet, in order of time.

    Parameters
    ----------
    readings : Sequence[Reading]
        in order of time.
    since_last : Sequence[Reckoning | NotAvailable]
        of each reading the Reckoning since the one before it, or why there is none.
    """
    found = []
    for one in series:
        if one.kind != HandKind.OTHER and one.keeps == Keeps.REGISTER:
            found += _of_register(readings, one)
    for k, reckoning in enumerate(since_last):
        if isinstance(reckoning, Reckoning) and reckoning.cop is not None:
            what = _of_cop(reckoning)
            if what:
                found.append(Doubt(k, "cop", what))
    return sorted(found, key=lambda doubt: doubt.row)


def _of_cop(reckoning: Reckoning) -> str | None:
    cop = reckoning.cop
    assert cop is not None
    if cop.value - cop.U > MOST_COP:
        return (
            f"COP {cop.value:.1f} since the reading before: beyond any unit. A wrong digit, "
            "another unit (MWh, GJ), or a meter that lacks part of the electricity?"
        )
    if cop.value + cop.U < LEAST_COP and reckoning.covered >= DOUBTS_START_UP:
        return (
            f"COP {cop.value:.2f} since the reading before: less than a resistance heater gives. "
            "A wrong digit, other loads on the meter, or heat that is not metered?"
        )
    return None


def _of_register(readings: Sequence[Reading], series: HandSeries) -> list[Doubt]:
    found = []
    rates: list[float] = []
    last: tuple[float, float] | None = None
    steep = False
    for k, reading in enumerate(readings):
        value = reading.values.get(series.name)
        if value is None:
            continue
        turn = reading.turns.get(series.name)
        if last is not None and turn is None:
            hours = (reading.time - last[0]) / 3600
            rise = value - last[1]
            usual = median(rates) * hours if len(rates) >= 2 else None
            doubt = _doubt(k, series, value, last[1], usual)
            if doubt is not None and rise < 0 and doubt.turn is None and steep:
                other = f"{doubt.what} Or was {last[1]:g} before it wrong?"
                doubt = replace(doubt, what=other)
            steep = usual is not None and rise > STEEP * usual
            if doubt is not None:
                found.append(doubt)
            elif rise >= 0 and hours > 0:
                rates.append(rise / hours)
            if doubt is not None and rise < 0:
                continue  # the next one is seen against the last that was sound
        last = (reading.time, value)
    return found


def _doubt(
    row: int, series: HandSeries, value: float, before: float, usual: float | None
) -> Doubt | None:
    rise = value - before
    unit = series.unit
    likely = _likely(value, before, usual, series.resolution)
    meant = f" Was it {likely:g}?" if likely is not None else ""
    if rise < 0:
        limit = 10.0**series.digits if series.digits else 10 ** (int(log10(max(before, 1))) + 1)
        if before > 0.9 * limit and value < 0.1 * limit:
            what = f"{value:g} after {before:g} {unit}: did the register roll over at {limit:g}?"
            return Doubt(row, series.name, what, None, Turn.ROLLOVER)
        what = f"{value:g} {unit} is less than {before:g} before, and a register does not fall."
        turn = Turn.NEW_METER if value < 0.5 * before else None
        hint = meant or (" Was the meter changed or set back?" if turn else "")
        return Doubt(row, series.name, what + hint, likely, turn if likely is None else None)
    if usual is not None and rise > SUDDEN * usual + 2 * series.resolution:
        times = f"{rise / usual:,.0f} times the usual" if usual > 0 else "where it stood still"
        what = f"{value:g} {unit} is a rise of {rise:g} in this time, {times}.{meant}"
        return Doubt(row, series.name, what, likely)
    return None


def _likely(value: float, before: float, usual: float | None, resolution: float) -> float | None:
    """The reading with one slip of the pen mended that comes nearest to the usual rise."""
    if usual is None:
        return None
    expected, room = before + usual, DOUBTS_NEAR * usual + 2 * resolution
    fitting = [v for v in _slips(value) if v >= before and abs(v - expected) <= room]
    return min(fitting, key=lambda v: abs(v - expected)) if fitting else None


def _slips(value: float) -> list[float]:
    """What a reading may be with one slip: the point, two digits turned, one digit wrong."""
    text = f"{value:.10g}"
    found = [value * factor for factor in (0.001, 0.01, 0.1, 10.0, 100.0, 1000.0)]
    places = [k for k, sign in enumerate(text) if sign.isdigit()]
    for a, b in pairwise(places):
        turned = list(text)
        turned[a], turned[b] = turned[b], turned[a]
        found.append(float("".join(turned)))
    for place in places:
        found += [float(text[:place] + digit + text[place + 1 :]) for digit in "0123456789"]
    return [v for v in found if v != value]
