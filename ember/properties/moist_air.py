"""Moist air: humidity ratio, enthalpy, density. Saturation pressure from a baked table."""

import csv
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

_TABLE = Path(__file__).with_name("moist_air.csv")
GAS_CONSTANT = 287.042  # of dry air [J/(kg K)], ASHRAE Fundamentals ch. 1
RATIO = 0.621945  # molar mass of water over that of dry air, ASHRAE Fundamentals ch. 1


@cache
def _saturation() -> tuple[Floats, Floats, Floats]:
    """Temperatures at even steps [degC], logarithms of the pressures [Pa], and their differences
    from each to the next."""
    with _TABLE.open(newline="", encoding="utf-8") as file:
        rows = [(float(t), float(p)) for t, p in list(csv.reader(file))[1:]]
    temps, pressures = np.array(rows).T
    logs = np.log(pressures)
    return temps, logs, np.diff(logs)


def pressure_at(altitude: float) -> float:
    """Air pressure [Pa] at an altitude [m]. Source: standard atmosphere, ASHRAE Fundamentals
    ch. 1, eq. 3."""
    return float(101325.0 * (1 - 2.25577e-5 * altitude) ** 5.2559)


def saturation_pressure(temp: Floats) -> Floats:
    """Of water vapour [Pa] at temp [degC], over ice below 0 °C. Source: ASHRAE Fundamentals
    ch. 1, eq. 5 and 6, through PsychroLib's table."""
    temps, logs, slopes = _saturation()
    place = (np.clip(temp, temps[0], temps[-1]) - temps[0]) / (temps[1] - temps[0])
    index = np.fmin(place, len(slopes) - 1.0).astype(np.int64)  # NaN stays in place
    result: Floats = np.exp(logs[index] + slopes[index] * (place - index))
    return result


def humidity_ratio(temp: Floats, humidity: Floats, pressure: float) -> Floats:
    """Water per dry air [kg/kg] at temp [degC], relative humidity [%], pressure [Pa].

    Source: ASHRAE Fundamentals ch. 1, eq. 20.
    """
    vapour = humidity / 100 * saturation_pressure(temp)
    result: Floats = RATIO * vapour / (pressure - vapour)
    return result


def enthalpy(temp: Floats, ratio: Floats) -> Floats:
    """Of moist air per dry air [J/kg] at temp [degC] and humidity ratio [kg/kg].

    Source: ASHRAE Fundamentals ch. 1, eq. 30.
    """
    result: Floats = 1006.0 * temp + ratio * (2.501e6 + 1860.0 * temp)
    return result


def dry_air_density(temp: Floats, ratio: Floats, pressure: float) -> Floats:
    """Dry air in a volume of moist air [kg/m3]. Source: ASHRAE Fundamentals ch. 1, eq. 26."""
    volume = GAS_CONSTANT * (temp + 273.15) * (1 + ratio / RATIO) / pressure
    result: Floats = 1.0 / volume
    return result
