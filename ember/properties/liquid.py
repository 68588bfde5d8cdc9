"""Density and heat capacity of water and glycol mixtures."""

import csv
from dataclasses import dataclass
from enum import StrEnum
from functools import cache, lru_cache
from pathlib import Path

import numpy as np
from numpy.polynomial import Polynomial

from ember.basis.errors import DescriptionError
from ember.basis.series import Floats

TABLE = Path(__file__).with_name("liquids.csv")


class FluidKind(StrEnum):
    """What fills the circuit."""

    WATER = "water"
    PROPYLENE_GLYCOL = "propylene_glycol"
    ETHYLENE_GLYCOL = "ethylene_glycol"


@dataclass(frozen=True, slots=True)
class Fluid:
    """What fills a water circuit.

    Attributes
    ----------
    mass_fraction : float
        share of glycol by mass, 0 for water, 0.05 … 0.60 for a mixture.
    """

    kind: FluidKind = FluidKind.WATER
    mass_fraction: float = 0.0

    def __post_init__(self) -> None:
        water = self.kind == FluidKind.WATER
        if water and self.mass_fraction:
            raise DescriptionError("fluid.mass_fraction: water has none; write 0, or name a glycol")
        if not water and not 0.05 <= self.mass_fraction <= 0.60:
            raise DescriptionError(
                f"fluid.mass_fraction: {self.mass_fraction:g} is outside 0.05 … 0.60 by mass."
            )


@dataclass(frozen=True, slots=True)
class Liquid:
    """Properties as cubics in temperature, fitted to the baked table.

    Attributes
    ----------
    density : tuple[float, ...]
        coefficients, rising powers of temp [kg/m3, degC]
    heat_capacity : tuple[float, ...]
        coefficients, rising powers of temp [J/(kg K), degC]
    u_relative : float
        standard uncertainty of density × heat capacity, as a share.
    """

    density: tuple[float, ...]
    heat_capacity: tuple[float, ...]
    u_relative: float

    def rho(self, temp: Floats) -> Floats:
        """Density at temp, (n,) [degC] → [kg/m3]."""
        return _cubic(self.density, temp)

    def cp(self, temp: Floats) -> Floats:
        """Isobaric heat capacity at temp, (n,) [degC] → [J/(kg K)]."""
        return _cubic(self.heat_capacity, temp)


def _cubic(c: tuple[float, ...], temp: Floats) -> Floats:
    result = c[3] * temp
    result += c[2]
    result *= temp
    result += c[1]
    result *= temp
    result += c[0]
    return result


@cache
def _table() -> dict[tuple[str, float], Floats]:
    groups: dict[tuple[str, float], list[tuple[float, ...]]] = {}
    with TABLE.open(encoding="utf-8") as file:
        for row in csv.DictReader(file):
            key = (row["fluid"], float(row["mass_fraction"]))
            values = (row["temp_c"], row["density"], row["heat_capacity"])
            groups.setdefault(key, []).append(tuple(map(float, values)))
    return {key: np.array(rows) for key, rows in groups.items()}


@lru_cache(maxsize=64)
def liquid(fluid: Fluid) -> Liquid:
    """The properties of a fluid.

    Between two tabulated mass fractions density and heat capacity are interpolated linearly.

    Source: CoolProp (water: IAPWS-95; mixtures: Melinder 2010), baked by ember.properties.bake.
    The standard uncertainty, 0.1 % for water and 1 % for mixtures (whose strength is read
    off a refractometer at best), is common practice.
    """
    if fluid.kind == FluidKind.WATER:
        return _fitted(_table()["water", 0.0], 0.001)
    fractions = sorted(f for kind, f in _table() if kind == fluid.kind)
    above = next(f for f in fractions if f >= fluid.mass_fraction - 1e-9)
    below = max((f for f in fractions if f <= fluid.mass_fraction + 1e-9), default=above)
    low, high = _table()[fluid.kind, below], _table()[fluid.kind, above]
    common = np.intersect1d(low[:, 0], high[:, 0])
    low, high = low[np.isin(low[:, 0], common)], high[np.isin(high[:, 0], common)]
    weight = (fluid.mass_fraction - below) / (above - below) if above > below else 0.0
    return _fitted(low + weight * (high - low), 0.01)


def _fitted(rows: Floats, u_relative: float) -> Liquid:
    temp = rows[:, 0]
    rho, cp = (Polynomial.fit(temp, rows[:, k], 3).convert().coef for k in (1, 2))
    return Liquid(tuple(map(float, rho)), tuple(map(float, cp)), u_relative)
