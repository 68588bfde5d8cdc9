"""Which column of a log is what: by what its header says and by what its readings do.

The words of a header propose (`lexicon`); the readings agree or not: a register rises, the integral
of a power is a register, flow and return part while the unit runs, a room hardly changes. A guess
on which both agree is sure; one on which they do not is no guess but a question.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ember.basis.channels import QUANTITIES
from ember.basis.quantity import compatible_units, conversion, symbol
from ember.basis.series import Bools, Floats
from ember.intake.dialect import Dialect
from ember.intake.lexicon import Says, concepts, weak
from ember.intake.modes import proposed, speaks_of_modes
from ember.intake.report import Choice, Question
from ember.intake.sample import Sample

# All common practice:
FALLS = 0.02  # share of falls among the changes of a register, above which it is none
RECOGNISE_NET = 0.35  # of what it rises that a register of net heat may fall back
LEAST_STRETCHES = 4  # of the sample that show a relation
RECOGNISE_ROOM = (12.0, 30.0)  # [degC] between which a room's temperature lies
ROOM_SPREAD = 6.0  # between its 5th and 95th percentile, at most [K]
PARTED = 1.0  # by which flow and return part while the unit runs, at least [K]
RECOGNISE_LEAST_POWER = 50.0  # that a power which falls below zero must reach to be one [W]
NO_WATER = (-60.0, 260.0)  # no temperature of a plant, in °F neither
RECOGNISE_FAHRENHEIT = 50.0  # a room's median that must be in °F

TEMPERATURES = ("flow_temp", "return_temp", "outdoor_temp", "room_temp", "tank_temp")
_DIMENSIONS = {
    "temperature": "degC", "power": "watt", "energy": "joule", "flow": "m3_per_s", "volume": "m3",
    "share": "percent", "pressure": "pascal", "speed": "hertz", "difference": "kelvin",
    "radiation": "watt_per_m2",
    "price": "per_kWh",
}  # fmt: skip


@dataclass(frozen=True)
class Guess:
    """What a column is taken for.

    Attributes
    ----------
    quantity : str | None
        None where it is left open or for nothing.
    sure : bool
        the words and the readings agree.
    unit : str | None
        of the closed list.
    word : str
        of the header that says it.
    choices : tuple[str, ...]
        quantities it may be.
    """

    column: int
    header: str
    quantity: str | None
    unit: str | None
    sure: bool
    reason: str
    word: str = ""
    choices: tuple[str, ...] = ()


def recognised(
    dialect: Dialect, sample: Sample, units: Mapping[int, tuple[str | None, str]], clock: set[int]
) -> tuple[list[Guess], list[Question]]:
    """What each column is, and what must be asked.

    Parameters
    ----------
    units : Mapping[int, tuple[str | None, str]]
        column → its unit by header or units row, and its header without it.
    clock : set[int]
        columns that hold the time.

    Source: words and relations of the trade, common practice.
    """
    guesses: list[Guess] = []
    for column, header in enumerate(dialect.headers):
        if column in clock:
            continue
        unit, words = units[column]
        guesses.append(_by_words(column, header, unit, words, sample))
    guesses = _by_readings(guesses, sample)
    return guesses, [q for q in (_question(g, guesses, sample) for g in guesses) if q is not None]


# --- words


def _by_words(column: int, header: str, unit: str | None, words: str, sample: Sample) -> Guess:
    said = concepts(words)
    if column in sample.texts:
        return _of_text(column, header, unit, said, sample.texts[column])
    values = sample.numbers.get(column, np.empty(0))
    dimension = _dimension(unit)
    found, word = _quantity(said, dimension)
    if Says.MODE in said and dimension is None and not found and _codes(values):
        return Guess(column, header, "mode", None, True, f"the header says '{said[Says.MODE]}'")
    by = f"the header says '{word}'" if word else ""
    if unit and by:
        by += f" and {symbol(unit)}"
    if found is None:
        return Guess(column, header, None, unit, False, by or "the header says nothing of it")
    sure = bool(word) and not (weak(word) and dimension is None)
    return Guess(column, header, found, unit, sure, by, word)


def _of_text(
    column: int, header: str, unit: str | None, said: Mapping[Says, str], cells: Sequence[str]
) -> Guess:
    distinct = sorted({cell for cell in cells if cell})
    flag, word = _flag(said)
    switch = {"on", "off", "true", "false", "yes", "no", "open", "closed", "0", "1"}
    if flag and unit is None and distinct and {d.lower() for d in distinct} <= switch:
        return Guess(column, header, flag, None, True, f"the header says '{word}'")
    if distinct and len(distinct) <= 40 and (Says.MODE in said or speaks_of_modes(distinct)):
        reason = f"its words: {', '.join(distinct[:6])}"
        return Guess(column, header, "mode", None, True, reason)
    quantity, word = _quantity(said, _dimension(unit))
    if quantity is not None:  # numbers by its name that cannot be read are said later on
        return Guess(column, header, quantity, unit, True, f"the header says '{word}'")
    return Guess(column, header, None, None, False, "words that are no modes")


def _codes(values: Floats) -> bool:
    known = values[np.isfinite(values)]
    distinct = np.unique(known)
    return bool(len(distinct)) and len(distinct) <= 20 and bool((distinct == distinct // 1).all())


def _dimension(unit: str | None) -> str | None:
    if unit is None:
        return None
    for name, base in _DIMENSIONS.items():
        if unit == base or unit in compatible_units(base):
            return name
    return None


def _flag(said: Mapping[Says, str]) -> tuple[str | None, str]:
    for says, channel in (
        (Says.DEFROST, "defrost_on"),
        (Says.COOLING, "cooling_on"),
        (Says.TANK, "hot_water_on"),
        (Says.COMPRESSOR, "compressor_on"),
        (Says.VALVE, "hot_water_on"),
    ):
        if says in said:
            return channel, said[says]
    return None, ""


def _quantity(said: Mapping[Says, str], dimension: str | None) -> tuple[str | None, str]:
    """The quantity that words and dimension mean, and the word that says so."""
    if {Says.SET, Says.COST, Says.COP} & set(said) and dimension in (None, "temperature"):
        word = next(said[s] for s in (Says.SET, Says.COST, Says.COP) if s in said)
        if not weak(word):
            return None, ""
    if (
        Says.HOUSE_SUPPLY in said
        and Says.UNIT not in said
        and dimension in (None, "power", "energy")
    ):
        return None, ""  # not the heat pump's: which of the house's flows it is a person says
    if dimension == "temperature":
        return _temperature(said)
    if dimension == "difference":
        return _first(said, (Says.SUPERHEAT, "superheat"), (Says.SUBCOOLING, "subcooling"))
    if dimension == "power":
        if Says.RADIATION in said:
            return None, ""  # of panels or a collector; radiation is a power per area
        return _amount(said, "heat_power", "power", "heat_power")
    if dimension == "energy":
        return _amount(said, "heat_energy", "energy", "environmental_yield")
    if dimension == "flow":
        if Says.AIR in said and Says.SOURCE not in said:
            return "airflow", said[Says.AIR]
        return (
            ("flow_rate", next(iter(said.values()), "its unit"))
            if Says.SOURCE not in said
            else (None, "")
        )
    if dimension == "volume":
        return "water_volume", said.get(Says.VOLUME, "its unit")
    if dimension == "share":
        return _shares(said)
    if dimension == "pressure":
        return _first(
            said,
            (Says.EVAPORATING, "evaporating_pressure"),
            (Says.SUCTION, "evaporating_pressure"),
            (Says.CONDENSING, "condensing_pressure"),
            (Says.HOT_GAS, "condensing_pressure"),
        )
    if dimension == "speed":
        return _first(said, (Says.FAN, "fan_speed"), (Says.COMPRESSOR, "compressor_speed"))
    if dimension == "price":
        return "electricity_price", said.get(Says.COST, "its unit")
    if dimension == "radiation":
        return "solar_radiation", said.get(Says.RADIATION, "its unit")
    return _undimensioned(said)


def _first(said: Mapping[Says, str], *pairs: tuple[Says, str]) -> tuple[str | None, str]:
    return next(((q, said[s]) for s, q in pairs if s in said), (None, ""))


def _shares(said: Mapping[Says, str]) -> tuple[str | None, str]:
    if Says.VALVE in said:
        return "valve_position", said[Says.VALVE]
    if Says.HUMIDITY in said:
        inside = {Says.ROOM, Says.SUPPLY, Says.RETURN} & set(said) and Says.OUTDOOR not in said
        return ("air_humidity" if inside else "outdoor_humidity"), said[Says.HUMIDITY]
    if Says.OUTDOOR in said or Says.AMBIENT in said:
        return "outdoor_humidity", said.get(Says.OUTDOOR, said.get(Says.AMBIENT, ""))
    return None, ""


def _amount(
    said: Mapping[Says, str], heat: str, electric: str, source: str
) -> tuple[str | None, str]:
    """Of an energy or a power: heat, electricity, or the yield of the source."""
    if Says.YIELD in said:
        return source, said[Says.YIELD]
    if Says.HEAT in said and Says.ELECTRIC not in said:
        return heat, said[Says.HEAT]
    for says in (Says.ELECTRIC, Says.POWER, Says.ENERGY, Says.UNIT, Says.HEATER, Says.PUMP):
        if says in said:
            return electric, said[says]
    if Says.COMPRESSOR in said or Says.FAN in said:
        return electric, said.get(Says.COMPRESSOR, said.get(Says.FAN, ""))
    return None, ""


def _temperature(said: Mapping[Says, str]) -> tuple[str | None, str]:
    gas = _first(
        said,
        (Says.HOT_GAS, "discharge_temp"),
        (Says.SUCTION, "suction_temp"),
        (Says.SUPERHEAT, "superheat"),
        (Says.SUBCOOLING, "subcooling"),
    )
    air = Says.AIR in said and Says.OUTDOOR not in said
    if air and gas[0] == "discharge_temp" and said[Says.HOT_GAS] == "discharge":
        return "supply_air_temp", said[Says.HOT_GAS]
    if gas[0] is not None:
        return gas
    if {Says.CONDENSING, Says.EVAPORATING, Says.DIFFERENCE} & set(said):
        return None, ""
    if Says.SOURCE in said:
        if (
            Says.RETURN in said
            and Says.SUPPLY not in said
            and said[Says.RETURN]
            not in (
                "inlet",
                "eintritt",
                "entree",
                "entrada",
                "ingresso",
            )
        ):
            return None, ""  # brine that leaves again
        return "source_temp", said[Says.SOURCE]
    for says, water, wind in (
        (Says.SUPPLY, "flow_temp", "supply_air_temp"),
        (Says.RETURN, "return_temp", "return_air_temp"),
    ):
        if says in said:
            if Says.TANK in said and not air:
                return None, ""  # of a tank's own circuit
            channel = wind if air else water
            if channel == "flow_temp" and Says.CIRCUIT in said:
                return None, ""
            return channel, said[says]
    if Says.BUFFER in said:
        return None, ""
    pairs = [(Says.TANK, "tank_temp"), (Says.OUTDOOR, "outdoor_temp"), (Says.ROOM, "room_temp")]
    # "hall stat" and "zone" say more than "ext"; the first strong word counts.
    there = [(q, said[s]) for s, q in pairs if s in said]
    if there:
        there.sort(key=lambda pair: weak(pair[1]))
        return there[0]
    if Says.AMBIENT in said:
        return "outdoor_temp", said[Says.AMBIENT]
    return None, ""


def _undimensioned(said: Mapping[Says, str]) -> tuple[str | None, str]:
    """What a header without a unit means by its words."""
    if Says.HUMIDITY in said or (Says.VALVE in said and "valve" not in said[Says.VALVE]):
        found = _shares(said)
        if found[0]:
            return found
    if said.get(Says.AIR) == "airflow":
        return "airflow", "airflow"
    if Says.FLOW in said:
        if Says.AIR in said:
            return "airflow", said[Says.FLOW]
        return "flow_rate", said[Says.FLOW]
    if Says.VOLUME in said:
        return "water_volume", said[Says.VOLUME]
    if Says.POWER in said and not weak(said[Says.POWER]):
        return _amount(said, "heat_power", "power", "heat_power")
    if Says.ENERGY in said and Says.TEMPERATURE not in said:
        return _amount(said, "heat_energy", "energy", "environmental_yield")
    if Says.SPEED in said:
        found = _first(said, (Says.FAN, "fan_speed"), (Says.COMPRESSOR, "compressor_speed"))
        if found[0]:
            return found
    if Says.PRESSURE in said:
        return _quantity(said, "pressure")
    if Says.RADIATION in said:
        return "solar_radiation", said[Says.RADIATION]
    if Says.HEATING not in said or Says.TEMPERATURE in said:
        found = _temperature(said)
        if found[0] is not None and found[0] != "tank_temp":
            return found
        if found[0] is not None and Says.VALVE not in said and Says.ON not in said:
            return found
    flag = _flag(said)
    if flag[0] is not None and (Says.TANK not in said or Says.VALVE in said or Says.ON in said):
        return flag
    if Says.HEAT in said or Says.ELECTRIC in said:
        return ("heat_energy" if Says.HEAT in said else "energy"), ""
    return None, ""


# --- readings


@dataclass(frozen=True)
class _Seen:
    """What a column's readings show.

    Attributes
    ----------
    low, middle, high : float
        5th, 50th, 95th percentile.
    register : bool
        it only rises, or falls back by a little. steady : it hardly ever moves.
    """

    low: float
    middle: float
    high: float
    least: float
    register: bool
    whole: bool


def _seen(values: Floats, sample: Sample) -> _Seen | None:
    known = values[np.isfinite(values)]
    if len(known) < 20:
        return None
    least, begin, low, middle, high, end = np.percentile(known, [0.1, 1, 5, 50, 95, 99])
    rise = sample.rises(values)
    rise = rise[np.isfinite(rise)]
    up, down = float(rise[rise > 0].sum()), float(-rise[rise < 0].sum())
    moved = np.count_nonzero(rise)
    falls = np.count_nonzero(rise < 0)
    # A register is far from zero against what it moves in a row, and ends where it is highest.
    ends = known[-max(1, len(known) // 50) :].max() >= end
    begins = known[: max(1, len(known) // 50)].min() <= begin
    register = bool(
        moved
        and up > 0
        and ends
        and begins
        and (falls <= FALLS * moved or (down < RECOGNISE_NET * up and falls < 0.35 * moved))
        and (known[-1] - known[0]) > 0.5 * (up - down)
    )
    whole = bool((known == np.rint(known)).all())
    return _Seen(float(low), float(middle), float(high), float(least), register, whole)


def _by_readings(guesses: list[Guess], sample: Sample) -> list[Guess]:
    """The guesses where the readings agree with the words, else open; and what they show where
    the words say nothing."""
    seen = {
        g.column: _seen(sample.numbers[g.column], sample)
        for g in guesses
        if g.column in sample.numbers
    }
    fahrenheit = _in_fahrenheit(guesses, sample)
    guesses = [replace(g, unit="degF") if g.column in fahrenheit else g for g in guesses]
    guesses = [_held_to(g, seen.get(g.column), g.column in sample.numbers, sample) for g in guesses]
    guesses = _once_each(guesses, sample)
    guesses = _registers(guesses, seen, sample)
    guesses = _pair(guesses, seen, sample)
    return _rest(guesses, seen, sample)


def _in_fahrenheit(guesses: Sequence[Guess], sample: Sample) -> set[int]:
    """Temperatures without a unit that can only be in °F, told by the room or the weather."""
    open_ones = [
        g
        for g in guesses
        if g.quantity in TEMPERATURES and g.unit is None and g.column in sample.numbers
    ]
    told = False
    for g in open_ones:
        values = sample.numbers[g.column]
        known = values[np.isfinite(values)]
        if (
            len(known) > 20
            and g.quantity == "room_temp"
            and np.median(known) > RECOGNISE_FAHRENHEIT
        ):
            told = True
        if len(known) > 20 and g.quantity == "outdoor_temp" and np.percentile(known, 90) > 57.0:
            told = True
    return {g.column for g in open_ones} if told else set()


def _held_to(guess: Guess, seen: _Seen | None, numeric: bool, sample: Sample) -> Guess:
    """One guess against its own readings."""
    if guess.quantity is None or seen is None or not numeric:
        return guess
    kind = guess.quantity
    other = {"power": "energy", "heat_power": "heat_energy", "flow_rate": "water_volume"}
    if kind in other and seen.register and seen.high > 0 and guess.unit is None:
        return replace(
            guess, quantity=other[kind], sure=False, reason=f"{guess.reason}, and it only rises"
        )
    back = {v: k for k, v in other.items()}
    if kind in back and not seen.register and guess.unit is None:
        rise = sample.rises(sample.numbers[guess.column])
        rise = rise[np.isfinite(rise)]
        if len(rise) and np.count_nonzero(rise < 0) > 0.1 * max(int(np.count_nonzero(rise)), 1):
            return replace(
                guess,
                quantity=back[kind],
                sure=False,
                reason=f"{guess.reason}, and it rises and falls",
            )
    watts = conversion(guess.unit, "watt") if guess.unit and kind == "power" else None
    if watts is not None and seen.low < 0 and watts[0] * seen.high < RECOGNISE_LEAST_POWER:
        most = f"{RECOGNISE_LEAST_POWER:.0f} W"
        why = f"{guess.reason}, but it falls below zero and never exceeds {most}"
        return replace(guess, quantity=None, sure=False, reason=why, choices=(kind,))
    to = conversion(guess.unit, "degC") if guess.unit and kind in TEMPERATURES else (1.0, 0.0)
    if kind in TEMPERATURES and to is not None:
        low, middle, high = (float(to[0] * v + to[1]) for v in (seen.low, seen.middle, seen.high))
        ill = {
            "room_temp": not (RECOGNISE_ROOM[0] < middle < RECOGNISE_ROOM[1])
            or high - low > 2 * ROOM_SPREAD,
            "outdoor_temp": middle > 38.0 or (low > 16.0 and high - low < 4.0),
            "tank_temp": middle < 12.0,
            "flow_temp": middle < 8.0,
            "return_temp": middle < 5.0,
        }[kind]
        if not NO_WATER[0] < middle < NO_WATER[1]:
            why = f"{guess.reason}, but it lies around {middle:.0f} °C"
            return replace(guess, quantity=None, sure=False, reason=why, choices=())
        ambient = Says.AMBIENT in concepts(guess.header) and kind == "outdoor_temp"
        if ill and ambient and RECOGNISE_ROOM[0] < middle < RECOGNISE_ROOM[1]:
            return replace(guess, quantity="room_temp", reason=f"{guess.reason}, warm and steady")
        if ill and (weak(guess.word) or ambient):
            why = f"{guess.reason}, but it lies around {middle:.0f} °C"
            return replace(guess, quantity=None, sure=False, reason=why, choices=(kind,))
    return guess


def _once_each(guesses: list[Guess], sample: Sample) -> list[Guess]:
    """Of several columns by words for one temperature, the one whose words say most of it."""
    for quantity in ("outdoor_temp", "room_temp"):
        mine = [g for g in guesses if g.quantity == quantity]
        if len(mine) < 2:
            continue
        strong = [g for g in mine if g.sure]
        if quantity == "outdoor_temp" and len(strong) >= 1:
            # "ambient" beside a clear word for outdoors is the room, where its readings are so.
            for g in mine:
                said = concepts(g.header)
                if Says.AMBIENT in said and Says.OUTDOOR not in said:
                    taken = any(h.quantity == "room_temp" for h in guesses)
                    values = sample.numbers[g.column]
                    known = values[np.isfinite(values)]
                    inside = len(known) and RECOGNISE_ROOM[0] < np.median(known) < RECOGNISE_ROOM[1]
                    new = replace(
                        g,
                        quantity="room_temp" if inside and not taken else None,
                        reason=f"{g.reason}, beside another for outdoors",
                    )
                    guesses = [new if h is g else h for h in guesses]
    return guesses


def _value_in(guess: Guess, sample: Sample, unit: str) -> Floats:
    """A column's readings in a unit; as they are where it says none."""
    values = sample.numbers[guess.column]
    linear = conversion(guess.unit, unit) if guess.unit else None
    return values if linear is None else values * linear[0] + linear[1]


def _of(guesses: Sequence[Guess], quantity: str, sample: Sample) -> Guess | None:
    return next((g for g in guesses if g.quantity == quantity and g.column in sample.numbers), None)


def _ratio(register: Floats, rate: Floats, sample: Sample) -> tuple[float, float] | None:
    """What a register counts for each unit of a rate's integral, by stretches: the middle, and
    how far its stretches differ from it [share]; None where too few show it."""
    rise, steps = sample.rises(register), sample.steps
    amount = rate[1:] * steps  # a reading stands for the interval that ends with it
    good = np.isfinite(rise) & np.isfinite(amount)
    stretch = sample.stretch[1:]
    if len(np.unique(stretch)) < LEAST_STRETCHES:  # a small file is cut into parts
        stretch = (np.arange(len(rise)) * 8) // max(len(rise), 1)
    label = np.unique(stretch, return_inverse=True)[1]
    up = np.bincount(label[good], rise[good], label.max() + 1)
    under = np.bincount(label[good], amount[good], label.max() + 1)
    use = (under > 0.2 * np.median(under)) & (under > 0)
    if use.sum() < LEAST_STRETCHES:
        return None
    ratios = up[use] / under[use]
    middle = float(up[use].sum() / under[use].sum())
    if middle <= 0:
        return None
    return middle, float(np.median(np.abs(ratios / middle - 1)))


_PER_JOULE = {"Wh": 1 / 3600, "kWh": 1 / 3.6e6, "MWh": 1 / 3.6e9, "MJ": 1e-6, "GJ": 1e-9,
              "kJ": 1e-3, "joule": 1.0, "kBtu": 1 / 1055055.85,
              "MMBtu": 1 / 1.05505585e9}  # fmt: skip


def _registers(
    guesses: list[Guess], seen: Mapping[int, _Seen | None], sample: Sample
) -> list[Guess]:
    """Registers by the rates whose integral they are, and their units."""
    power = _of(guesses, "power", sample)
    heat = _heat_rate(guesses, sample)
    water = _of(guesses, "flow_rate", sample)
    rates: dict[str, Floats] = {}
    if power is not None:
        rates["energy"] = _value_in(power, sample, "watt") * _thousands(power, sample)
    if heat is not None:
        rates["heat_energy"] = heat
    if water is not None and water.unit is not None:
        rates["water_volume"] = _value_in(water, sample, "m3_per_s")
    result = []
    for g in guesses:
        look = seen.get(g.column)
        counts = g.quantity in ("energy", "heat_energy", "water_volume") or g.quantity is None
        if look is None or not look.register or not counts or g.column not in sample.numbers:
            result.append(g)
            continue
        result.append(_register(g, sample.numbers[g.column], rates, sample))
    return result


def _thousands(power: Guess, sample: Sample) -> float:
    """1000 where a power without a unit is in kW, by its size."""
    values = sample.numbers[power.column]
    known = values[np.isfinite(values)]
    return 1000.0 if power.unit is None and len(known) and known.max() <= 60.0 else 1.0


def _register(guess: Guess, values: Floats, rates: Mapping[str, Floats], sample: Sample) -> Guess:
    """One register against the integrals of the rates."""
    fits: list[tuple[float, str, str, float]] = []
    for quantity, rate in rates.items():
        found = _ratio(values, rate, sample)
        if found is None:
            continue
        middle, spread = found
        table = (
            _PER_JOULE
            if quantity != "water_volume"
            else {"m3": 1.0, "litre": 1e3, "us_gallon": 264.172}
        )
        unit, off = min(
            ((u, abs(np.log(middle / k))) for u, k in table.items()), key=lambda pair: pair[1]
        )
        if off < 0.25 and spread < 0.15:
            fits.append((off + spread, quantity, unit, middle / table[unit]))
    if not fits:
        return guess
    fits.sort()
    _, quantity, unit, ratio = fits[0]
    named = guess.quantity
    counted = {
        "energy": "the power's integral",
        "heat_energy": "the integral of flow × ΔT",
        "water_volume": "the integral of the flow",
    }[quantity]
    if named is None or (not guess.sure and named != quantity and len(fits) == 1):
        if guess.unit is not None and guess.unit not in compatible_units(QUANTITIES[quantity].unit):
            return guess
        return replace(
            guess,
            quantity=quantity,
            unit=guess.unit or unit,
            sure=abs(ratio - 1) < 0.1,
            reason=f"{guess.reason}; it counts {counted} ({ratio:.2f} times, in {symbol(unit)})",
        )
    mine = next((f for f in fits if f[1] == named), None)
    if mine is not None:
        more = f"; it counts {counted if named == quantity else 'the same'} ({mine[3]:.2f} times)"
        return replace(guess, unit=guess.unit or mine[2], sure=True, reason=guess.reason + more)
    return guess


def _heat_rate(guesses: Sequence[Guess], sample: Sample) -> Floats | None:
    """Heat by flow × ΔT, in W, where all three are recognised, else the rate of a heat meter."""
    flow, back, water = (_of(guesses, q, sample) for q in ("flow_temp", "return_temp", "flow_rate"))
    if flow is not None and back is not None and water is not None:
        delta = _value_in(flow, sample, "degC") - _value_in(back, sample, "degC")
        rate = _value_in(water, sample, "m3_per_s")
        if water.unit is None:
            rate = rate * _flow_factor(rate)
        heat: Floats = delta * rate * 4.15e6
        return heat
    meter = _of(guesses, "heat_power", sample)
    if meter is not None:
        return _value_in(meter, sample, "watt") * _thousands(meter, sample)
    return None


def _flow_factor(rate: Floats) -> float:
    """A flow without a unit in m3/s, by its size (common practice)."""
    known = rate[np.isfinite(rate)]
    top = float(np.percentile(known, 99)) if len(known) else 0.0
    return 1 / 3600 if top <= 5 else (1 / 60000 if top <= 150 else 1 / 3.6e6)


def _running(guesses: Sequence[Guess], sample: Sample) -> Bools | None:
    """Rows in which the unit surely runs, by its power or by the rise of its register."""
    power = _of(guesses, "power", sample)
    if power is not None:
        values = sample.numbers[power.column]
    else:
        register = _of(guesses, "energy", sample)
        if register is None:
            return None
        steps = sample.steps
        with np.errstate(invalid="ignore"):
            rate = sample.rises(sample.numbers[register.column]) / steps
        values = np.append(np.nan, rate)
        # A register's steps are spread over some rows.
        kernel = np.ones(9) / 9
        values = np.convolve(np.nan_to_num(values), kernel, "same")
    known = values[np.isfinite(values)]
    if not len(known):
        return None
    limit = 0.4 * float(np.percentile(known, 95))
    with np.errstate(invalid="ignore"):
        on: Bools = values > limit
    return on if on.mean() > 0.01 else None


def _pair(guesses: list[Guess], seen: Mapping[int, _Seen | None], sample: Sample) -> list[Guess]:
    """Flow and return among the temperatures that no word tells, by what parts while it runs."""
    have = {g.quantity for g in guesses}
    if {"flow_temp", "return_temp"} <= have:
        return guesses
    on = _running(guesses, sample)
    if on is None:
        return guesses
    open_ones = [
        g
        for g in guesses
        if (g.quantity is None and _may_be_temperature(g, seen.get(g.column)))
        or g.quantity in ("flow_temp", "return_temp")
    ]
    best: tuple[float, Guess, Guess] | None = None
    for a in open_ones:
        for b in open_ones:
            if a is b or a.quantity == "return_temp" or b.quantity == "flow_temp":
                continue
            apart = sample.numbers[a.column] - sample.numbers[b.column]
            running, resting = apart[on & np.isfinite(apart)], apart[~on & np.isfinite(apart)]
            if len(running) < 50:
                continue
            middle, wide = float(np.median(running)), float(np.std(running))
            still = float(np.median(resting)) if len(resting) > 50 else 0.0
            # They part while it runs, and stand together while it rests.
            if middle > PARTED and middle < 15 and abs(still) < 0.5 * middle and wide < 2 * middle:
                score = middle / (0.5 + wide + abs(still))
                if best is None or score > best[0]:
                    best = (score, a, b)
    if best is None:
        return guesses
    _, flow, back = best
    why = "warmer than the other while the unit runs, and like it while it rests"
    made = []
    for g in guesses:
        if g is flow and g.quantity is None:
            g = replace(g, quantity="flow_temp", sure=best[0] > 1.0, reason=why)
        elif g is back and g.quantity is None:
            why_back = "colder than the other while the unit runs, and like it while it rests"
            g = replace(g, quantity="return_temp", sure=best[0] > 1.0, reason=why_back)
        made.append(g)
    return made


def _may_be_temperature(guess: Guess, look: _Seen | None) -> bool:
    if look is None or look.register:
        return False
    if guess.unit is not None:
        return guess.unit in ("degC", "degF", "kelvin")
    return look.least > -35 and look.high < 90 and look.high - look.low > 0.2


def _rest(guesses: list[Guess], seen: Mapping[int, _Seen | None], sample: Sample) -> list[Guess]:
    """Weather, room and tank among the temperatures that are still open, as choices; a guess only
    where a single one is left for a single column."""
    have = {g.quantity for g in guesses}
    result = []
    for g in guesses:
        look = seen.get(g.column)
        if g.quantity is not None or look is None or not _may_be_temperature(g, look):
            result.append(g)
            continue
        unit = g.unit or "degC"
        to = conversion(unit, "degC")
        if to is None or unit == "kelvin":
            result.append(g)
            continue
        low, middle, high = (to[0] * v + to[1] for v in (look.low, look.middle, look.high))
        likely = []
        if RECOGNISE_ROOM[0] < middle < RECOGNISE_ROOM[1] and high - low < ROOM_SPREAD:
            likely.append("room_temp")
        if high - low > 4 and middle < 30 and low < 18:
            likely.append("outdoor_temp")
        if 25 < middle < 65 and high - low > 4:
            likely += ["tank_temp", "flow_temp", "return_temp"]
        named = set(g.choices)
        choices = tuple(q for q in likely if q not in have or q in named)
        timely = g.unit is not None or Says.TEMPERATURE in concepts(g.header)
        result.append(replace(g, choices=choices if timely or named else ()))
    return result


def modes_of(
    column: int, guesses: Sequence[Guess], sample: Sample
) -> Mapping[str, tuple[str, str]]:
    """The state of each word of a column of modes, with the reason."""
    cells = sample.texts.get(column)
    if cells is None:
        cells = [f"{v:g}" if np.isfinite(v) else "" for v in sample.numbers[column]]
    power = _of(guesses, "power", sample)
    flow, back = _of(guesses, "flow_temp", sample), _of(guesses, "return_temp", sample)
    watts = None if power is None else _value_in(power, sample, "watt") * _thousands(power, sample)
    temps = [None if g is None else _value_in(g, sample, "degC") for g in (flow, back)]
    return proposed(cells, watts, *temps)


# --- questions


def _question(guess: Guess, guesses: Sequence[Guess], sample: Sample) -> Question | None:
    if guess.quantity is not None or not guess.choices:
        return None
    values = sample.numbers[guess.column]
    known = values[np.isfinite(values)]
    shown = f"{np.percentile(known, 5):.1f} to {np.percentile(known, 95):.1f}"
    choices = [
        Choice(q, QUANTITIES[q].meaning, _preview(q, guess, guesses, sample))
        for q in guess.choices[:3]
    ]
    return Question(
        guess.header,
        f"What is '{guess.header}' (mostly {shown})? {guess.reason[:1].upper()}{guess.reason[1:]}.",
        (*choices, Choice("", "none of these", "the column is left out")),
    )


def _preview(quantity: str, guess: Guess, guesses: Sequence[Guess], sample: Sample) -> str:
    on = _running(guesses, sample)
    values = _value_in(guess, sample, "degC")
    if on is not None and quantity in ("flow_temp", "return_temp"):
        other = _of(guesses, "return_temp" if quantity == "flow_temp" else "flow_temp", sample)
        if other is not None:
            sign = 1 if quantity == "flow_temp" else -1
            delta = sign * (values - _value_in(other, sample, "degC"))[on]
            return f"ΔT {np.nanmedian(delta):+.1f} K while the unit runs"
    return f"{np.nanmedian(values):.1f} °C in the middle of the record"
