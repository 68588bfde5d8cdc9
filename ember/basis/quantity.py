"""Estimate, the one form of a figure, and unit conversion at the border."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, cached_property
from math import floor, hypot, inf, log10, sqrt

import numpy as np
import pint

from ember.basis.series import Floats
from ember.messages.sources import Source

KWH = 3.6e6  # [J]
K_FACTOR = 2.0  # coverage factor of every U shown (GUM, JCGM 100:2008, 6.2.1)


@dataclass(frozen=True, slots=True)
class UncertaintyComponent:
    """One source's share of an uncertainty.

    `u` is the standard uncertainty in the unit of the estimate, *with the sign* by which the
    estimate answers to the source: two figures that share a source add their parts, so what they
    share cancels in a difference or a ratio.

    Attributes
    ----------
    random : bool
        the source errs anew each time (sampling, a rounded reading): its parts add in quadrature
        and never cancel.
    """

    cause: Source
    u: float
    random: bool = False

    @property
    def source(self) -> str:
        """Its source in words."""
        return self.cause.words

    def times(self, factor: float) -> "UncertaintyComponent":
        """The part of a figure that answers `factor` times to this one."""
        return UncertaintyComponent(self.cause, self.u * factor, self.random)


@dataclass(frozen=True)
class Estimate:
    """A value that never travels without what is known of its error.

    Linear propagation, each named source fully correlated with itself and independent
    of the others. Source: GUM (JCGM 100:2008), 5.1 and 5.2.
    """

    value: float
    unit: str
    budget: tuple[UncertaintyComponent, ...]

    @cached_property
    def u(self) -> float:
        """Standard uncertainty (k = 1), in `unit`."""
        return sqrt(sum(part.u**2 for part in self.budget))

    @property
    def U(self) -> float:
        """Expanded uncertainty (k = 2), in `unit`."""
        return K_FACTOR * self.u

    @property
    def relative(self) -> float:
        """U (k = 2) as a share of the value; infinite for a value of zero."""
        return self.U / abs(self.value) if self.value else inf

    def scaled(self, factor: float, unit: str | None = None) -> "Estimate":
        """The estimate times an exact number, in the same or another unit."""
        parts = tuple(p.times(factor) for p in self.budget)
        return Estimate(self.value * factor, self.unit if unit is None else unit, parts)

    def __add__(self, other: "Estimate") -> "Estimate":
        return self._sum(other, 1.0)

    def __sub__(self, other: "Estimate") -> "Estimate":
        return self._sum(other, -1.0)

    def _sum(self, other: "Estimate", sign: float) -> "Estimate":
        if self.unit != other.unit:
            raise ValueError(f"cannot add {other.unit} to {self.unit}")
        budget = merge((*self.budget, *(p.times(sign) for p in other.budget)))
        return Estimate(self.value + sign * other.value, self.unit, budget)

    def times(self, other: "Estimate", unit: str) -> "Estimate":
        """Product, in `unit`."""
        return self._combined(self.value * other.value, unit, other, other.value, self.value)

    def over(self, other: "Estimate", unit: str) -> "Estimate":
        """Quotient, in `unit`. Raises ZeroDivisionError for a divisor of zero."""
        ratio = self.value / other.value
        return self._combined(ratio, unit, other, 1 / other.value, -ratio / other.value)

    def _combined(
        self, value: float, unit: str, other: "Estimate", by_self: float, by_other: float
    ) -> "Estimate":
        mine = (p.times(by_self) for p in self.budget)
        theirs = (p.times(by_other) for p in other.budget)
        return Estimate(value, unit, merge((*mine, *theirs)))

    def __str__(self) -> str:
        digits = self.decimals
        if digits is None:
            return f"{self.value:.4g} {self.unit}".strip()
        return f"{self.value:,.{digits}f} ± {self.U:,.{digits}f} {self.unit}".strip()

    @property
    def decimals(self) -> int | None:
        """Decimals that U allows to be shown: two significant digits of U up to 3.5, else one.

        None where no uncertainty is known. At least 0: whole numbers are not rounded.
        Source: common practice in reporting measurements.
        """
        if self.U <= 0 or inf == self.U:
            return None
        exponent = floor(log10(self.U))
        return max(0, -exponent + (1 if self.U / 10**exponent < 3.55 else 0))


def exact(value: float, unit: str) -> Estimate:
    """An estimate without error: a count, a definition, a price."""
    return Estimate(value, unit, ())


def merge(parts: Iterable[UncertaintyComponent]) -> tuple[UncertaintyComponent, ...]:
    """Parts of the same source added, random ones in quadrature (GUM 5.1.2), zeros dropped, in
    order of first appearance."""
    total: dict[tuple[Source, bool], float] = {}
    for part in parts:
        key = part.cause, part.random
        before = total.get(key, 0.0)
        total[key] = hypot(before, part.u) if part.random else before + part.u
    return tuple(
        UncertaintyComponent(cause, u, random) for (cause, random), u in total.items() if u
    )


@dataclass(frozen=True)
class Estimates:
    """Estimates of one kind side by side, of several groups of readings: the same rules as for
    `Estimate`, over arrays.

    Attributes
    ----------
    values : array, (k,)
    budget : Mapping[tuple[Source, bool], Floats]
        standard uncertainty by source, and whether it is random, each (k,), with its sign.
    """

    values: Floats
    unit: str
    budget: Mapping[tuple[Source, bool], Floats]

    @classmethod
    def of(cls, one: Estimate) -> "Estimates":
        """A single one."""
        budget = {(p.cause, p.random): np.array([p.u]) for p in one.budget}
        return cls(np.array([one.value]), one.unit, budget)

    def __getitem__(self, k: int) -> Estimate:
        parts = tuple(
            UncertaintyComponent(cause, float(u[k]), random)
            for (cause, random), u in self.budget.items()
            if u[k]
        )
        return Estimate(float(self.values[k]), self.unit, parts)

    @property
    def U(self) -> Floats:
        """Expanded uncertainty (k = 2) of each, (k,), in `unit`."""
        square = np.zeros(len(self.values))
        for u in self.budget.values():
            square += u**2
        expanded: Floats = K_FACTOR * np.sqrt(square)
        return expanded

    def scaled(self, factor: Floats | float) -> "Estimates":
        """Each times an exact number, or one of its own."""
        budget = {key: u * factor for key, u in self.budget.items()}
        return Estimates(self.values * factor, self.unit, budget)

    def over(self, other: "Estimates", unit: str) -> "Estimates":
        """Quotients, in `unit`; not finite where the divisor is zero."""
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = self.values / other.values
            mine, theirs = self.scaled(1 / other.values), other.scaled(-ratio / other.values)
            return Estimates(ratio, unit, _merged((mine.budget, theirs.budget)))


def added(several: Sequence[Estimates], count: int) -> Estimates:
    """The sums of estimates in kWh, each of `count`; zeros where there are none."""
    total = np.zeros(count)
    for one in several:
        total = total + one.values
    return Estimates(total, "kWh", _merged(one.budget for one in several))


def _merged(
    budgets: Iterable[Mapping[tuple[Source, bool], Floats]],
) -> dict[tuple[Source, bool], Floats]:
    """As `merge`."""
    total: dict[tuple[Source, bool], Floats] = {}
    for budget in budgets:
        for key, u in budget.items():
            before = total.get(key)
            if key[1]:
                total[key] = np.abs(u) if before is None else np.hypot(before, u)
            else:
                total[key] = u if before is None else before + u
    return total


def rectangular(limit: float) -> float:
    """Standard uncertainty of a value known only to lie within ±limit (GUM 4.3.7)."""
    return limit / sqrt(3)


# --- units at the border ----------------------------------------------------------------

# A closed list: Pint's own defaults misread the trade (cfm, TR, %RH) and know neither gpm nor
# MMBtu. Btu is the International Table one; a ton of refrigeration is 12,000 Btu/h.
_DEFINITIONS = """
second = [time] = s
minute = 60 * second = min
hour = 3600 * second = h
metre = [length] = m
kilogram = [mass] = kg
kelvin = [temperature]; offset: 0 = K
degC = kelvin; offset: 273.15
degF = 5 / 9 * kelvin; offset: 233.15 + 200 / 9
joule = kilogram * metre ** 2 / second ** 2 = J
kJ = 1e3 * joule
MJ = 1e6 * joule
GJ = 1e9 * joule
watt = joule / second = W
kW = 1e3 * watt
MW = 1e6 * watt
Wh = 3600 * joule
kWh = 1e3 * Wh
MWh = 1e6 * Wh
Btu = 1055.05585262 * joule
kBtu = 1e3 * Btu
MMBtu = 1e6 * Btu
Btu_per_h = Btu / hour
kBtu_per_h = 1e3 * Btu_per_h
ton = 12e3 * Btu_per_h
litre = 1e-3 * metre ** 3 = L
m3 = metre ** 3
us_gallon = 231 * 0.0254 ** 3 * metre ** 3
m2 = metre ** 2
ft2 = (0.3048 * metre) ** 2
m3_per_s = metre ** 3 / second
m3_per_h = metre ** 3 / hour
L_per_min = litre / minute
L_per_s = litre / second
L_per_h = litre / hour
gpm = us_gallon / minute
CFM = (0.3048 * metre) ** 3 / minute
hertz = 1 / second
rpm = 1 / minute
pascal = joule / metre ** 3
hPa = 100 * pascal
kPa = 1e3 * pascal
MPa = 1e6 * pascal
bar = 1e5 * pascal
psi = 6894.757293168 * pascal
watt_per_m2 = watt / metre ** 2
watt_per_kelvin = watt / kelvin
Btu_per_h_degF = Btu_per_h / (5 / 9 * kelvin)
kelvin_day = 86400 * kelvin * second
degF_day = 5 / 9 * 86400 * kelvin * second
kWh_per_m2 = kWh / metre ** 2
kBtu_per_ft2 = kBtu / (0.3048 * metre) ** 2
per_m2 = 1 / metre ** 2
per_ft2 = 1 / (0.3048 * metre) ** 2
Wh_per_m2_K_d = Wh / metre ** 2 / kelvin / (86400 * second)
Btu_per_ft2_F_d = Btu / (0.3048 * metre) ** 2 / (5 / 9 * kelvin) / (86400 * second)
per_kWh = 1 / kWh
cents_per_kWh = 0.01 / kWh
per_MWh = 1 / MWh
fraction = []
percent = 0.01 * fraction
"""

# How the units are written in files, folded to lower case without spaces, dots and carets.
_SPELLINGS = {
    "degC": "°c degc deg_c c celsius ºc",
    "degF": "°f degf deg_f f fahrenheit ºf",
    "kelvin": "k kelvin",
    "watt": "w watt watts",
    "kW": "kw",
    "MW": "megawatt",
    "Btu_per_h": "btu/h btuh btu/hr btu_h",
    "kBtu_per_h": "kbtu/h kbtuh kbtu/hr kbtu_h mbh",
    "ton": "ton tons tr",
    "joule": "j joule",
    "kJ": "kj",
    "MJ": "mj",
    "GJ": "gj",
    "Wh": "wh",
    "kWh": "kwh",
    "MWh": "mwh",
    "Btu": "btu",
    "kBtu": "kbtu",
    "MMBtu": "mmbtu",
    "m3": "m3 m³ cbm kubikmeter",
    "litre": "l liter litre litres ltr",
    "us_gallon": "gal usgal gallon gallons",
    "m3_per_s": "m3/s m³/s m3s m3_s",
    "m3_per_h": "m3/h m³/h m3h m³h m3_h cbm/h m3/hr",
    "L_per_min": "l/min lpm l_min lmin litre/min liter/min lt/min l/mn",
    "L_per_s": "l/s lps l_s",
    "L_per_h": "l/h lph l_h",
    "gpm": "gpm gal/min usgpm",
    "CFM": "cfm ft3/min ft³/min",
    "hertz": "hz rps 1/s",
    "rpm": "rpm 1/min",
    "pascal": "pa",
    "hPa": "hpa mbar",
    "kPa": "kpa",
    "MPa": "mpa",
    "bar": "bar barg bar(g)",
    "psi": "psi psig",
    "watt_per_m2": "w/m2 w/m²",
    "percent": "% percent pct %rh rh",
    "fraction": "0/1 bool fraction",
}
# A price is in whatever currency the tariff has: its hundredth has names of its own.
_WHOLE = "€ eur $ usd £ gbp chf sek nok dkk pln czk huf ron bgn cad aud nzd kr currency"
_HUNDREDTH = "ct cent cents c¢ ¢ p pence øre öre ore rp"
_SPELLINGS |= {
    "per_kWh": " ".join(f"{money}/kwh" for money in _WHOLE.split()),
    "cents_per_kWh": " ".join(f"{money}/kwh" for money in _HUNDREDTH.split()),
    "per_MWh": " ".join(f"{money}/mwh" for money in _WHOLE.split()),
}
_BY_SPELLING = {word: unit for unit, words in _SPELLINGS.items() for word in words.split()}


@cache
def _registry() -> pint.UnitRegistry[float]:
    registry: pint.UnitRegistry[float] = pint.UnitRegistry(
        None, autoconvert_offset_to_baseunit=True
    )
    registry.load_definitions(_DEFINITIONS.strip().splitlines())
    return registry


_SYMBOLS = {"degC": "°C", "degF": "°F", "kelvin": "K", "watt": "W", "percent": "%", "joule": "J",
            "minute": "min",
            "m3_per_s": "m³/s", "m3_per_h": "m³/h", "L_per_min": "L/min", "L_per_s": "L/s",
            "L_per_h": "L/h", "hertz": "Hz", "pascal": "Pa", "watt_per_m2": "W/m²",
            "m2": "m²", "m3": "m³", "ft2": "ft²", "litre": "L", "us_gallon": "gal",
            "Btu_per_h": "Btu/h", "kBtu_per_h": "kBtu/h",
            "watt_per_kelvin": "W/K", "Btu_per_h_degF": "Btu/(h·°F)", "kelvin_day": "K·d",
            "degF_day": "°F·d", "kWh_per_m2": "kWh/m²", "kBtu_per_ft2": "kBtu/ft²",
            "per_m2": "/m²", "per_ft2": "/ft²", "Wh_per_m2_K_d": "Wh/(m²·K·d)",
            "Btu_per_ft2_F_d": "Btu/(ft²·°F·d)",
            "fraction": "0/1", "per_kWh": "a kWh", "cents_per_kWh": "hundredths a kWh",
            "per_MWh": "a MWh"}  # fmt: skip


def symbol(unit: str) -> str:
    """How a unit of the closed list is written for people."""
    return _SYMBOLS.get(unit, unit)


def unit_named(spelling: str) -> str | None:
    """The unit of the closed list that a file's spelling means, or None."""
    folded = spelling.strip().replace(" ", "").replace("^", "").replace(".", "")
    return folded if folded in _SPELLINGS else _BY_SPELLING.get(folded.lower())


_DIFFERENCES = {"degC": 1.0, "degF": 5 / 9}


@cache
def conversion(source: str, target: str) -> tuple[float, float] | None:
    """Factor and offset that turn `source` into `target`: y = factor·x + offset.

    None where the two measure different things. Units are names of the closed list. A bare kelvin
    is a difference: what is turned into it is one too.
    """
    if target == "kelvin" and source in _DIFFERENCES:
        return _DIFFERENCES[source], 0.0
    registry = _registry()
    try:
        zero = registry.Quantity(0.0, source).to(target).magnitude
        one = registry.Quantity(1.0, source).to(target).magnitude
    except (pint.DimensionalityError, pint.UndefinedUnitError):
        return None
    return float(one - zero), float(zero)


def compatible_units(unit: str) -> list[str]:
    """The units of the closed list in which a file may give what the core holds in `unit`.

    A bare kelvin is a difference, so it is none for a temperature.
    """
    return [
        other
        for other in _SPELLINGS
        if conversion(other, unit) is not None and not (other == "kelvin" and unit == "degC")
    ]


def convert(value: float, source: str, target: str) -> float:
    """One value from one unit of the closed list to another. Raises ValueError if they differ."""
    linear = conversion(source, target)
    if linear is None:
        raise ValueError(f"{source} cannot be expressed in {target}")
    return linear[0] * value + linear[1]
