"""Heat taken up by the hot-water tank."""

from collections.abc import Collection

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import rectangular
from ember.basis.series import Bools, Floats, Ints, Trace, edges_of
from ember.description.house import Tank
from ember.messages import Source, words_of
from ember.metering.energy_component import EnergyComponent
from ember.metering.meter_energy import MeterEnergy
from ember.properties import Fluid, liquid

say = words_of(__name__)

TANK_NAME = "tank charge"
CHANNEL = "tank_temp"
# Of probes for the mean of the tank, as a share of the charge, by their number: common practice.
MEAN = {1: 0.15, 2: 0.10, 3: 0.06}
PROBES = {1: "one probe", 2: "two probes", 3: "three probes or more"}
LOSS = 1.8  # standing loss of a usual tank [W/K], common practice
LOSS_LIMIT = 0.5  # as a share of it
DESCRIBED_LIMIT = 0.2  # the same of a loss that is described
TANK_SMOOTH = 300.0  # [s] over which the reading at the end of a charge is averaged


def charge_energy(volume_l: float, share: float, rise: Floats, mean: Floats) -> Floats:
    """Heat that warms a tank [J].

    Parameters
    ----------
    volume_l : float
        [L]
    share : float
        of it that is warmed.
    rise : array, (n,)
        [K]
    mean : array, (n,)
        mean temperature [degC].

    Source: Q = ρ·V·c_p·ΔT with the properties of water.
    """
    water = liquid(Fluid())
    result: Floats = water.rho(mean) * water.cp(mean) * (volume_l / 1000 * share) * rise
    return result


def tank_charge(tank: Tank, trace: Trace, hot_water: Bools) -> MeterEnergy:
    """What the tank takes up during each charge, with its standing loss meanwhile.

    Parameters
    ----------
    hot_water : array, (n,)
        Where the unit heats the tank; unknown elsewhere. A tank by one probe says nothing of one
        minute: a charge's heat is spread evenly over the charge.

    Water drawn meanwhile is missing in it. Source: heat balance; limits common practice.
    """
    temp, count_of = mean_of(tank, trace)
    half = max(1, round(TANK_SMOOTH / trace.step))
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
    taken = charge_energy(tank.volume_l, tank.effective_share, high - low, middle)
    cells = last - first
    loss, limit = loss_of(tank)
    standing = loss * (middle - tank.ambient) * trace.step
    energy, lost = np.full(len(temp), np.nan), np.full(len(temp), np.nan)
    energy[hot_water] = np.repeat(taken / cells + standing, cells)
    lost[hot_water] = np.repeat(standing, cells)
    components = (
        EnergyComponent(
            Source(SourceCode.TANK_PROBES, TANK_NAME, PROBES[count_of]),
            ((rectangular(MEAN[count_of]), energy),),
        ),
        EnergyComponent(Source(SourceCode.STANDING_LOSS, TANK_NAME), ((rectangular(limit), lost),)),
    )
    native = max(trace.native_of(c) for c in (*tank.probes, CHANNEL) if c in trace)
    way = say("tank_charge", probes=PROBES[count_of])
    return MeterEnergy(
        name=TANK_NAME,
        method=way,
        loads="heat_pump",
        energy=energy,
        components=components,
        native=native,
        step_energy=0.0,
        holes=(),
    )


def loss_of(tank: Tank) -> tuple[float, float]:
    """Standing loss of a tank [W/K], and its limit as a share."""
    if tank.loss_w_k is None:
        return LOSS, LOSS_LIMIT
    return tank.loss_w_k, DESCRIBED_LIMIT


def probes_in(tank: Tank, channels: Collection[str]) -> int:
    """How many of a tank's probes are logged, up to three; one, where none is named."""
    return min(max(sum(c in channels for c in tank.probes), 1), 3)


def mean_of(tank: Tank, trace: Trace) -> tuple[Floats, int]:
    """The tank's temperature by its probes, (n,) [degC], and how many of them are logged, up to
    three; several at different heights stand for the mean better than one."""
    there = [trace[c] for c in tank.probes if c in trace] or [trace[CHANNEL]]
    mean: Floats = there[0] if len(there) == 1 else np.mean(there, axis=0)
    return mean, probes_in(tank, trace.channels)
