"""Registers: where one falls as it should not, and its step."""

import numpy as np

from ember.basis.series import Bools, Floats

# that a register of net heat falls beside a defrost, at most [J], common practice, chosen
REGISTERS_NET = 3 * 3.6e6
NET_STEPS = 1.5  # steps of a coarse register, that it falls so
REGISTERS_KEPT = 0.5  # of its reading that a register keeps, which is not set back


def falls(readings: Floats, net: bool) -> Bools:
    """Where a register falls from one reading to the next as it should not, (n − 1,).

    Parameters
    ----------
    readings : array, (n,)
        Those that are known, in order [J].
    net : bool
        it may count net heat: then it falls beside a defrost by what that takes back, which is no
        reset.

    Source: common practice; a reset falls to near zero, a rollover from 10^n, a new meter starts
    anywhere.
    """
    rise = np.diff(readings)
    down: Bools = rise < 0
    if net and down.any():
        most = max(REGISTERS_NET, NET_STEPS * smallest_step(rise))
        down &= ~((rise >= -most) & (readings[1:] > REGISTERS_KEPT * readings[:-1]))
    return down


def smallest_step(rise: Floats) -> float:
    """The step of a register from its changes [J]: the smallest positive increment of a sample, at
    least 1 J."""
    sample = rise[:: max(1, len(rise) // 50_000)]
    positive = sample[sample > 0]
    return float(max(positive.min(), 1.0)) if len(positive) else 1.0
