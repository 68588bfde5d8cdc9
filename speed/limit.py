"""The limit: bare NumPy passes over the same arrays.

The arithmetic that cannot be avoided to answer the same questions (heat with properties, states,
sums by month and state, performance ratio, cost), with everything known beforehand: no
description, no units, no gaps, no uncertainty, no objects, hourly tariff and months given.
"""

import numpy as np
from numpy.typing import NDArray

from ember.basis.series import Trace
from ember.rated.surface import Surface


def bare_passes(
    trace: Trace, month: NDArray[np.int64], night: NDArray[np.bool_], shape: Surface
) -> tuple[float, ...]:
    """Sums over a trace as bare array passes; month and night : (n,), given."""
    flow, warm, cold = trace["flow_rate"], trace["flow_temp"], trace["return_temp"]
    unit, pump, backup = trace["power:unit"], trace["power:pump"], trace["power:backup"]
    outdoor = trace["outdoor_temp"]
    step = float(trace.step)
    rho = ((-1.0e-5 * cold - 3.6e-3) * cold - 0.07) * cold + 1000.6
    mean = 0.5 * (warm + cold)
    cp = ((-4e-6 * mean + 9e-4) * mean - 0.05) * mean + 4180.0
    carried = flow * rho * cp * step
    heat = carried * (warm - cold)
    on = unit > 300.0
    starts = np.flatnonzero(on[1:] & ~on[:-1])
    delta = warm - cold
    defrost = on & (delta < -0.5) & (flow > 0) & (outdoor < 12.0)
    state = on.astype(np.int64) + (trace["hot_water_on"] > 0.5) + 3 * defrost
    for at in starts:
        state[at : at + 10] = 6
    label = month * 8 + state
    tables = [
        np.bincount(label, weights=values, minlength=13 * 8)
        for values in (heat, carried, unit, pump, backup)
    ]
    steady = np.flatnonzero(state == 1)
    o, f = outdoor[steady], warm[steady]
    i = np.searchsorted(shape.outdoor[1:-1], o, side="right")
    j = np.searchsorted(shape.flow[1:-1], f, side="right")
    x = (o - shape.outdoor[i]) / np.diff(shape.outdoor)[i]
    y = (f - shape.flow[j]) / np.diff(shape.flow)[j]
    table = shape.share
    share = (table[i, j] * (1 - x) + table[i + 1, j] * x) * (1 - y)
    share += (table[i, j + 1] * (1 - x) + table[i + 1, j + 1] * x) * y
    rated = share * (f + 273.15) / np.maximum(f - o, 10.0)
    ratio = heat[steady].sum() / (unit[steady] * rated).sum() / step
    total = unit + pump + backup
    cost = total[night].sum() * 0.17 + total[~night].sum() * 0.31
    jump = np.abs(np.diff(flow))[on[1:] & on[:-1]].sum()
    negative = np.count_nonzero(delta[on] < -0.3)
    register = np.diff(trace["heat_energy"])
    swings = [float((np.diff(v) ** 2).sum()) for v in (heat, unit, pump, backup)]
    return (
        ratio,
        cost,
        jump,
        float(negative),
        float(register.sum()),
        *swings,
        *(float(t.sum()) for t in tables),
    )


def bare_checks(trace: Trace, day: NDArray[np.int64], quarter: NDArray[np.int64]) -> float:
    """What the checks of the metering cannot do without, as bare passes; day, quarter : of each
    cell, (n,), given. Returns a sum of it all, so that nothing is left undone."""
    flow, warm, cold = trace["flow_rate"], trace["flow_temp"], trace["return_temp"]
    unit, outdoor = trace["power:unit"], trace["outdoor_temp"]
    delta, on = warm - cold, unit > 300.0
    heat = flow * delta * 4.15e6
    found = 0.0
    days = int(day[-1]) + 1
    for daily in (
        on & (delta < -0.3),
        np.abs(np.diff(flow, append=0.0)) * on,
        flow * on,
        np.isfinite(heat),
        unit * ~on,
    ):
        found += float(np.bincount(day, daily, days).max())
    found += float(np.bincount(quarter, heat, 96).max() + np.bincount(quarter, unit, 96).max())
    for channel in (flow, warm, cold, unit, outdoor):  # stuck readings and spikes
        edges = np.flatnonzero(channel[1:] != channel[:-1])
        found += float(np.diff(edges).max())
        step = np.diff(channel)
        found += np.count_nonzero((step[:-1] > 25) & (step[1:] < -25))
    register = trace["heat_energy"]
    found += np.count_nonzero(np.diff(register) < 0)
    coarse = [np.diff(v[: len(v) // 5 * 5].reshape(-1, 5).mean(axis=1)) for v in (unit, heat)]
    size = 1 << len(coarse[0]).bit_length()
    one, other = (np.fft.rfft(v, size) for v in coarse)
    found += float(np.fft.irfft(np.conj(one) * other, size)[:36].max())
    rest = ~on & (flow > 0)
    found += float(np.polyfit(warm[rest] - 20, delta[rest], 1)[1])
    sums = [np.cumsum(v) for v in (heat, unit + trace["power:pump"], flow)]
    rises = [(s[4:] - s[:-4])[4:] - (s[4:] - s[:-4])[:-4] for s in sums]
    found += np.count_nonzero((np.abs(rises[0]) > 3e3) & (np.abs(rises[1]) < 240))
    half = outdoor[: len(outdoor) // 10 * 10].reshape(-1, 10).mean(axis=1)
    found += np.count_nonzero(half[3:] - half[:-3] > 2.5)
    return found


def day_labels(trace: Trace) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Day and quarter of an hour of each cell, made beforehand."""
    since = trace.step * np.arange(len(trace), dtype=np.int64)
    return since // 86400, since % 86400 // 900


def fixed_labels(trace: Trace) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Month and night of each cell, made beforehand."""
    instants = trace.start + trace.step * np.arange(len(trace))
    stamps = instants.astype("datetime64[s]")
    month = (stamps.astype("datetime64[M]") - stamps[0].astype("datetime64[M]")).astype(np.int64)
    hour = instants % 86400 / 3600.0
    night: NDArray[np.bool_] = (hour >= 23.5) | (hour < 5.5)
    return month, night
