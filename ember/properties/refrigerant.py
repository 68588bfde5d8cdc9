"""Enthalpies of refrigerants, from a table baked from CoolProp."""

import csv
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.interpolate import RegularGridInterpolator

Floats = NDArray[np.float64]

ROUNDS = 6  # of Newton's method, after which nothing changes
MOST_SUPERHEAT = 98.0  # in the table, less the step of the slope [K]
_TABLE = Path(__file__).with_name("refrigerants.csv")


@dataclass(frozen=True)
class Enthalpies:
    """Of one refrigerant over ln p and superheat (gas) or subcooling (liquid) [J/kg]; entropy of
    the gas [J/(kg K)]."""

    log_pressure: Floats
    dew: Floats
    gas: "RegularGridInterpolator"
    liquid: "RegularGridInterpolator"
    entropy: "RegularGridInterpolator"

    def dew_temp(self, pressure: Floats) -> Floats:
        """Dew point [degC] at an absolute pressure [Pa]."""
        inside = np.where(pressure > 0, pressure, np.nan)
        result: Floats = np.interp(np.log(inside), self.log_pressure, self.dew, np.nan, np.nan)
        return result

    def of_gas(self, pressure: Floats, superheat: Floats) -> Floats:
        """Enthalpy of the gas [J/kg]; NaN outside the table."""
        return self._at(self.gas, pressure, superheat)

    def of_liquid(self, pressure: Floats, subcooling: Floats) -> Floats:
        """Enthalpy of the liquid [J/kg]; NaN outside the table."""
        return self._at(self.liquid, pressure, subcooling)

    def compressed(self, low: Floats, superheat: Floats, high: Floats) -> Floats:
        """Enthalpy of the gas after compression without loss [J/kg], from an absolute pressure and
        superheat [Pa], [K] to another pressure; NaN outside the table."""
        entropy = self._at(self.entropy, low, superheat)
        found = np.full(len(low), 20.0)  # superheat at the high pressure [K]
        for _ in range(ROUNDS):
            here = self._at(self.entropy, high, found)
            slope = self._at(self.entropy, high, found + 1.0) - here
            with np.errstate(invalid="ignore", divide="ignore"):
                found = np.clip(found + (entropy - here) / slope, 0.0, MOST_SUPERHEAT)
        return self._at(self.gas, high, found)

    def _at(self, table: "RegularGridInterpolator", pressure: Floats, by: Floats) -> Floats:
        inside = np.where(pressure > 0, pressure, np.nan)
        points = np.column_stack([np.log(inside), np.where(by < 0, 0.0, by)])
        result: Floats = table(points)
        return result


@cache
def enthalpies(refrigerant: str) -> Enthalpies:
    """The table of a refrigerant. Raises KeyError for one that is not in it."""
    from scipy.interpolate import RegularGridInterpolator  # 40 MB that few records need

    with _TABLE.open(newline="", encoding="utf-8") as file:
        rows = [row for row in csv.DictReader(file) if row["refrigerant"] == refrigerant]
    if not rows:
        raise KeyError(refrigerant)
    dew = sorted({float(row["dew_c"]) for row in rows})
    heat = sorted({float(row["superheat_k"]) for row in rows})
    cool = sorted({float(row["superheat_k"]) for row in rows if row["liquid_j_kg"]})
    gas = {(float(r["dew_c"]), float(r["superheat_k"])): float(r["gas_j_kg"]) for r in rows}
    liquid = {
        (float(r["dew_c"]), float(r["superheat_k"])): float(r["liquid_j_kg"])
        for r in rows
        if r["liquid_j_kg"]
    }
    pressure = {float(row["dew_c"]): float(row["pressure_pa"]) for row in rows}
    logs = np.log([pressure[t] for t in dew])

    def table(
        values: dict[tuple[float, float], float], by: list[float]
    ) -> "RegularGridInterpolator":
        at = sorted({t for t, _ in values})
        grid = np.array([[values[t, k] for k in by] for t in at])
        axes = (np.log([pressure[t] for t in at]), np.array(by))
        return RegularGridInterpolator(axes, grid, bounds_error=False)

    entropy = {(float(r["dew_c"]), float(r["superheat_k"])): float(r["gas_j_kg_k"]) for r in rows}
    return Enthalpies(
        logs, np.array(dew), table(gas, heat), table(liquid, cool), table(entropy, heat)
    )
