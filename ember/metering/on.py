"""Where the compressor runs, from the power of the unit's meter."""

import numpy as np

from ember.basis.series import Floats

ON_SHARE = 0.10  # of the usual full power, where nothing tells rest and running apart
ON_LEAST = 60.0  # [W]
SAMPLES = 50_000
LOWEST_REST = 5.0  # a power below which everything rests [W]
ON_SELDOM = 0.1  # of the readings, that a unit may rest: fewer are glitches [%]
EMPTY = 0.25  # of what a bin would hold if all were spread evenly: so little lies in the gap
BINS = 48
ON_LEAST_RUNNING = 0.05  # of full power, that a running compressor takes at least
LEAST_GAP = 1.35  # ratio of the powers at either side of the gap


def on_limit(power: Floats) -> float:
    """The power above which the compressor runs [W].

    Parameters
    ----------
    power : array, (n,)
        Of the meter that holds the compressor and least besides [W].

    Rest and running are two heaps of readings with little between them: the limit lies in the
    middle of the widest gap below half of full power (on a logarithmic scale) at whose upper
    edge a compressor could run. Where there is no
    gap, because the unit never rests or a register smears, it is a tenth of full power.

    Source: common practice.
    """
    sample = power[:: max(1, len(power) // SAMPLES)]
    sample = sample[sample > LOWEST_REST]
    if not len(sample):
        return ON_LEAST
    full = float(np.percentile(sample, 95))
    otherwise = max(ON_LEAST, ON_SHARE * full)
    low = float(np.percentile(sample, ON_SELDOM))
    if not 0.0 < low < 0.5 * full:
        return otherwise
    edges = np.geomspace(low, 0.5 * full, BINS + 1)
    counts = np.histogram(sample, edges)[0]
    empty = counts <= EMPTY * len(sample) / BINS / 4
    gaps = [(0, 0)]
    begin = None
    for k, hollow in enumerate([*empty.tolist(), False]):
        if hollow and begin is None:
            begin = k
        elif not hollow and begin is not None:
            gaps.append((begin, k))
            begin = None
    # Pumps and controls make gaps among themselves too, far below what a compressor takes.
    fit = [(a, b) for a, b in gaps if edges[b] >= ON_LEAST_RUNNING * full]
    best = max(fit, key=lambda gap: gap[1] - gap[0], default=(0, 0))
    bottom, top = float(edges[best[0]]), float(edges[best[1]])
    below = np.count_nonzero(sample < bottom)
    if top < LEAST_GAP * bottom or below == 0 or np.count_nonzero(sample > top) == 0:
        return otherwise
    return float(np.sqrt(bottom * top))
