"""Made-up weather of a temperate coast, hour by hour."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

LATITUDE = 55.0  # [deg]
CLEAR = 1000.0  # on the level under a sun in the zenith [W/m²]


@dataclass(frozen=True)
class Weather:
    """Hourly outdoor temperature [degC], relative humidity [0…1], hot-water draw [W] and the sun's
    radiation on the level [W/m²]."""

    temp: Floats
    humidity: Floats
    draw: Floats
    radiation: Floats


def weather(
    rng: np.random.Generator,
    first_day: int,
    days: int,
    mean: float = 8.5,
    swing: float = 7.0,
    draw_kwh: float = 6.0,
) -> Weather:
    """Weather of a stretch of days.

    first_day : day of the year of the first. mean, swing : of the yearly course [degC, K].
    draw_kwh : hot water drawn a day [kWh].
    """
    hours = np.arange(days * 24 + 2)
    day = first_day + hours / 24
    season = mean - swing * np.cos(2 * np.pi * (day - 25) / 365.25)
    fronts = _wandering(rng, len(hours), 60.0) * 3.5
    amplitude = 2.0 + 1.8 * np.sin(np.pi * np.clip((day % 365.25 - 60) / 245, 0, 1))
    sun = 0.6 + 0.4 * _wandering(rng, len(hours), 36.0)
    daily = -amplitude * np.clip(sun, 0.1, 1.6) * np.cos(2 * np.pi * (hours % 24 - 3) / 24)
    temp = season + fronts + daily
    humidity = (
        0.86 - 0.022 * daily - 0.004 * (season - mean) + 0.06 * _wandering(rng, len(hours), 20.0)
    )
    profile = np.array([0, 0, 0, 0, 0, 1, 4, 5, 3, 1, 1, 1, 2, 1, 1, 1, 1, 2, 4, 5, 3, 2, 1, 0.0])
    draw = rng.gamma(1.2, 1.0, len(hours)) / 1.2 * profile[hours % 24] / profile.sum()
    radiation = CLEAR * np.clip(sun_height(day), 0, None) ** 1.15 * np.clip(sun, 0.05, 1.0)
    return Weather(temp, np.clip(humidity, 0.35, 0.99), draw * draw_kwh * 1000.0, radiation)


def sun_height(day: Floats) -> Floats:
    """Sine of the sun's height over the horizon at times of a year [d]."""
    turn = 2 * np.pi * (day % 365.25 - 81) / 365.25
    tilt, place = np.radians(23.4) * np.sin(turn), np.radians(LATITUDE)
    hour = 2 * np.pi * (day % 1 - 0.5)
    height: Floats = np.sin(place) * np.sin(tilt) + np.cos(place) * np.cos(tilt) * np.cos(hour)
    return height


def _wandering(rng: np.random.Generator, n: int, hours: float) -> Floats:
    """A smooth random course of unit variance with a memory of so many hours."""
    keep = np.exp(-1.0 / hours)
    kicks = rng.normal(0.0, np.sqrt(1 - keep**2), n)
    course = np.empty(n)
    value = rng.normal()
    for k in range(n):
        value = keep * value + kicks[k]
        course[k] = value
    return course
