"""Heat taken up by the hot-water tank."""

import numpy as np

from ember.house import Tank
from ember.media import Fluid, liquid
from ember.metering.stream import Stream
from ember.metering.term import Term
from ember.quantity import rectangular
from ember.trace import Bools, Floats, Ints, Trace, edges_of

NAME = "tank lift"
CHANNEL = "tank_temp"
MEAN_LIMIT = 0.15  # one probe for the mean of the tank, as a share of the lift: common practice
LOSS = 1.8  # standing loss of a usual tank [W/K], common practice
LOSS_LIMIT = 0.5  # as a share of it
SMOOTH = 300.0  # [s] over which the reading at the end of a lift is averaged


def lift_energy(volume_l: float, share: float, rise: Floats, mean: Floats) -> Floats:
    """Heat that warms a tank [J].

    Parameters
    ----------
    volume_l : [L]; share : of it that is warmed. rise : array, (n,) [K]; mean : array, (n,) mean
        temperature [degC].

    Source: Q = ρ·V·c_p·ΔT with the properties of water.
    """
    water = liquid(Fluid())
    result: Floats = water.rho(mean) * water.cp(mean) * (volume_l / 1000 * share) * rise
    return result


def tank_lift(tank: Tank, trace: Trace, hot_water: Bools) -> Stream:
    """What the tank takes up during each lift, with its standing loss meanwhile.

    Parameters
    ----------
    hot_water : array, (n,)  Where the unit heats the tank; unknown elsewhere. A tank by one probe
        says nothing of one minute: a lift's heat is spread evenly over the lift.

    Water drawn meanwhile is missing in it. Source: handbook of the trade, tank lift; limits
    common practice.
    """
    temp = trace[CHANNEL]
    half = max(1, round(SMOOTH / trace.step))
    edges = edges_of(hot_water)
    first, last = edges[::2], edges[1::2]
    known = np.isfinite(temp)
    total = np.concatenate([[0.0], np.cumsum(np.where(known, temp, 0.0))])
    count = np.concatenate([[0], np.cumsum(known)])

    def mean(since: Ints, until: Ints) -> Floats:
        since, until = np.maximum(since, 0), np.minimum(until, len(temp))
        with np.errstate(invalid="ignore", divide="ignore"):
            result: Floats = (total[until] - total[since]) / (count[until] - count[since])
        return result

    low, high = mean(first - half, first + 1), mean(last - 1, last + half)
    middle = 0.5 * (low + high)
    taken = lift_energy(tank.volume_l, tank.effective_share, high - low, middle)
    cells = last - first
    standing = LOSS * (middle - 20.0) * trace.step
    energy, lost = np.full(len(temp), np.nan), np.full(len(temp), np.nan)
    energy[hot_water] = np.repeat(taken / cells + standing, cells)
    lost[hot_water] = np.repeat(standing, cells)
    terms = (
        Term(f"{NAME}: one probe for the mean", ((rectangular(MEAN_LIMIT), energy),)),
        Term(f"{NAME}: standing loss", ((rectangular(LOSS_LIMIT), lost),)),
    )
    native = trace.native_of(CHANNEL)
    return Stream(NAME, "tank lift, one probe", "heat_pump", energy, terms, native, 0.0, ())
