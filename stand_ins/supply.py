"""What feeds a made-up house besides the grid: panels, a battery, and what else the house uses."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from stand_ins.weather import sun_height

Floats = NDArray[np.float64]
GIVES_BACK = 0.86  # of what went into the battery
BATTERY_POWER = 2500.0  # [W]


def supplied(
    used: Floats, start: int, step: int, panels: float, battery: float, seed: int
) -> dict[str, Floats]:
    """Power from the grid, out of the battery and of the panels [W], as a logger's columns.

    used : (n,) by the heat pump and its pumps [W]. panels : [kW] in full sun. battery : [kWh].
    """
    rng = np.random.default_rng([seed, 7])
    instants = start + step * np.arange(len(used))
    day = instants / 86_400
    number = np.floor(day - day[0]).astype(np.int64)
    clear = rng.beta(1.2, 1.6, number[-1] + 1)[number] * rng.uniform(0.7, 1.0, len(used))
    solar = 1000.0 * panels * np.clip(sun_height(day), 0, None) ** 1.1 * clear
    evening = 1 + 2.5 * np.exp(-(((day % 1) * 24 - 18.5) ** 2) / 6)
    hourly = rng.gamma(2.0, 60.0, len(used) * step // 3600 + 2)
    others = 90.0 + evening * hourly[(step * np.arange(len(used))) // 3600]
    out = _battery(solar - used - others, float(step), battery * 3.6e6)
    return {"power_solar": solar, "battery_power": out, "grid_power": used + others - solar - out}


@njit(cache=True)
def _battery(surplus: Floats, step: float, size: float) -> Floats:  # pragma: no cover
    """Power out of a battery that takes what is over and gives what lacks [W]."""
    out, held = np.zeros(len(surplus)), 0.0
    for k in range(len(surplus)):
        if surplus[k] > 0:
            into = min(surplus[k], BATTERY_POWER, (size - held) / step / GIVES_BACK)
            out[k] = -into
            held += into * step * GIVES_BACK
        else:
            out[k] = min(-surplus[k], BATTERY_POWER, held / step)
            held -= out[k] * step
    return out
