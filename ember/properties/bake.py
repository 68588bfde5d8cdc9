"""Bakes liquids.csv from CoolProp and moist_air.csv from PsychroLib; run as `python -m
ember.properties.bake` when a table changes.

CoolProp takes seconds to import, so the application reads the table and never CoolProp itself;
a test bakes it again and compares.
"""

import csv
from pathlib import Path

TABLE = Path(__file__).with_name("liquids.csv")
TEMPS = range(-30, 101, 5)  # [degC]
FRACTIONS = tuple(k / 20 for k in range(1, 13))  # mass fraction of glycol
AIR_TABLE = Path(__file__).with_name("moist_air.csv")
AIR_TEMPS = tuple(k / 4 for k in range(-240, 401))  # [degC]
COOLPROP_NAMES = {"propylene_glycol": "MPG", "ethylene_glycol": "MEG"}
BAKE_PRESSURE = 2e5  # [Pa] a usual heating circuit; the properties hardly depend on it


def rows() -> list[tuple[str, str, int, str, str]]:
    """Fluid, mass fraction, temperature [degC], density [kg/m3], heat capacity [J/(kg K)].

    A mixture has rows only between its freezing point and 100 degC.
    """
    from CoolProp.CoolProp import PropsSI

    def properties(name: str, temp: int) -> tuple[str, str]:
        state = ("T", temp + 273.15, "P", BAKE_PRESSURE, name)
        return f"{PropsSI('D', *state):.3f}", f"{PropsSI('C', *state):.2f}"

    baked = [("water", "0", t, *properties("Water", t)) for t in TEMPS if t > 0]
    for kind, name in COOLPROP_NAMES.items():
        for fraction in FRACTIONS:
            mixture = f"INCOMP::{name}[{fraction}]"
            freezing = PropsSI("T_freeze", "T", 300.0, "P", BAKE_PRESSURE, mixture) - 273.15
            baked += [
                (kind, f"{fraction:g}", t, *properties(mixture, t)) for t in TEMPS if t > freezing
            ]
    return baked


def air_rows() -> list[tuple[str, str]]:
    """Temperature [degC] and saturation pressure of water vapour [Pa]."""
    import psychrolib

    psychrolib.SetUnitSystem(psychrolib.SI)
    return [(f"{t:g}", f"{psychrolib.GetSatVapPres(t):.6g}") for t in AIR_TEMPS]


REFRIGERANT_TABLE = Path(__file__).with_name("refrigerants.csv")
REFRIGERANTS = ("R290", "R32", "R410A", "R134a", "R407C")
SATURATION = tuple(range(-40, 66, 5))  # of the gas, dew point [degC]
SUPERHEATS = (0, 3, 6, 10, 15, 20, 30, 40, 50, 65, 80, 100)  # [K]


def refrigerant_rows() -> list[tuple[str, int, str, int, str, str, str]]:
    """Refrigerant, dew temperature [degC], its pressure [Pa], superheat [K], enthalpy of the gas
    and, at the bubble point of that pressure less the same number as subcooling, of the liquid
    [J/kg]; the latter empty beyond 30 K and below 0 degC. Last the entropy of the gas
    [J/(kg K)]."""
    from CoolProp.CoolProp import PropsSI

    def of(what: str, name: str, temp: float, p: float, quality: float, away: int) -> float:
        if away:
            return float(PropsSI(what, "T", temp, "P", p, name))
        return float(PropsSI(what, "P", p, "Q", quality, name))

    baked = []
    for name in REFRIGERANTS:
        for dew in SATURATION:
            p = PropsSI("P", "T", dew + 273.15, "Q", 1, name)
            bubble = PropsSI("T", "P", p, "Q", 0, name)
            for k in SUPERHEATS:
                gas = of("H", name, dew + 273.15 + k, p, 1.0, k)
                liquid = ""
                if k <= 30 and dew >= 0:
                    liquid = f"{of('H', name, bubble - k, p, 0.0, k):.0f}"
                entropy = of("S", name, dew + 273.15 + k, p, 1.0, k)
                baked.append((name, dew, f"{p:.0f}", k, f"{gas:.0f}", liquid, f"{entropy:.2f}"))
    return baked


if __name__ == "__main__":
    with TABLE.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(("fluid", "mass_fraction", "temp_c", "density", "heat_capacity"))
        writer.writerows(rows())
    with AIR_TABLE.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(("temp_c", "saturation_pa"))
        writer.writerows(air_rows())
    with REFRIGERANT_TABLE.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(
            (
                "refrigerant",
                "dew_c",
                "pressure_pa",
                "superheat_k",
                "gas_j_kg",
                "liquid_j_kg",
                "gas_j_kg_k",
            )
        )
        writer.writerows(refrigerant_rows())
