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

_TABLE = Path(__file__).with_name("refrigerants.csv")


@dataclass(frozen=True)
class Enthalpies:
    """Of one refrigerant over ln p and superheat (gas) or subcooling (liquid) [J/kg]."""

    log_pressure: Floats
    dew: Floats
    gas: "RegularGridInterpolator"
    liquid: "RegularGridInterpolator"

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

    return Enthalpies(logs, np.array(dew), table(gas, heat), table(liquid, cool))
