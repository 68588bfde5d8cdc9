"""Flow and return differ although no heat passes: the offset of the pair."""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.quantity import rectangular
from ember.basis.series import Floats, Ints
from ember.description.installation import Offset, Probes, WaterCircuit
from ember.messages import words_of
from ember.metering.heat import CALCULATOR, DELTA_MIN, HEAT_PROBE, PAIR
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext

say = words_of(__name__)

REST = 600.0  # for which the compressor must have been off [s], handbook §6
PAIR_OFFSET_BLOCK = 600.0  # over which ΔT is averaged to one point [s]
# water above or below its surroundings that is still looked at [K], common practice, chosen
WIDEST = 12.0
PAIR_OFFSET_NEAR = 9.0  # of which a tenth must lie this near [K]
RANGE = 3.0  # over which the water must vary for the line to be drawn, unless it is near [K]
BENT = (
    0.15  # of the loss at the nearest points: emitters follow the excess to the power 1.3 (EN 442)
)
LEAST_BLOCKS = 12
LEAST_SHORT = 100  # readings in short runs of the pump
PAIR_OFFSET_LEAST_DAYS = 10
PASS, PASS_LIMIT = 0.5, 0.4  # for which water takes to pass a resting unit, within [min]
FASTEST = 1.5  # that the water cools while it is looked at [K/min]
COME_ROUND = 240.0  # for which the pump must have run, and the compressor been off [s]
PAIR_OFFSET_ROOM = 20.0  # surroundings where no room temperature is logged [degC], common practice
# what pipes and emitters may leave beside a straight line [K], common practice, chosen
SHAPE = 0.03


@dataclass(frozen=True)
class _Short:
    """The offset from short runs of the pump [K], its standard uncertainty, from how many readings
    on how many days

    Attributes
    ----------
    rate : Floats
        at which the water cools in each, ΔT : then.
    """

    offset: float
    u: float
    days: int
    rate: Floats
    delta: Floats


def pair_offset(context: CheckContext) -> Check:
    """The difference of flow and return at rest, extrapolated to water as warm as its surroundings.

    Pipes and emitters that lose heat also make a difference, in proportion to the excess of the
    water; the intercept of the straight line is what the sensors alone differ by. Its uncertainty
    takes days as independent, not readings.

    Source: handbook of the trade (trust); least squares; limits common practice.
    """
    circuit = context.circuit
    if circuit is None:
        return not_checkable(CheckCode.PAIR_OFFSET, say("flow_return_temperatures"))
    if context.mixing:
        return not_checkable(CheckCode.PAIR_OFFSET, context.mixing, say("log_every_minute"))
    if context.runs_by_water:
        return not_checkable(
            CheckCode.PAIR_OFFSET,
            say("whether_compressor_rests"),
            say("log_unit_power"),
        )
    excess, delta, day = _points(context, circuit)
    if len(excess) < LEAST_BLOCKS and (short := _short_runs(context, circuit)) is not None:
        return _judged_short(context, circuit, short)
    how = say("let_pump_run")
    if len(excess) < LEAST_BLOCKS:
        return not_checkable(
            CheckCode.PAIR_OFFSET,
            say("pump_hardly_runs", excess=len(excess)),
            how,
        )
    near = float(np.percentile(np.abs(excess), 10))
    if near > PAIR_OFFSET_NEAR or (near > 2.0 and np.ptp(excess) < RANGE):
        return not_checkable(
            CheckCode.PAIR_OFFSET,
            say("rest_water_stays", near=near),
            how,
        )
    offset, u = _intercept(excess, delta, day)
    U = 2 * u
    said = say(
        "compressor_off_water",
        offset=offset,
        uncertainty=U,
        excess=len(excess),
        day=len(np.unique(day)),
    )
    lines = np.array([min(0.0, float(excess.min())), float(excess.max())])
    slope = float(np.polyfit(excess, delta, 1)[0]) if np.ptp(excess) > 2 else 0.0
    picture = Picture(
        say("water_above_room"),
        say("flow_minus_return"),
        False,
        (series(say("min"), excess, delta), series("fit", lines, offset + slope * lines, "line")),
        (("none", 0.0),),
    )
    return _judged(context, circuit, offset, U, said, picture)


def _judged_short(context: CheckContext, circuit: WaterCircuit, short: _Short) -> Check:
    said = say(
        "short_runs_pump",
        offset=short.offset,
        uncertainty=2 * short.u,
        rate=len(short.rate),
        days=short.days,
    )
    picture = Picture(
        say("water_cools_min"),
        say("flow_minus_return"),
        False,
        (series("reading", short.rate, short.delta),),
        (("none", 0.0),),
    )
    return _judged(context, circuit, short.offset, 2 * short.u, said, picture)


def _judged(
    context: CheckContext,
    circuit: WaterCircuit,
    offset: float,
    U: float,
    said: str,
    picture: Picture,
) -> Check:
    """An offset and its expanded uncertainty [K] against what the sensors' class allows."""
    limit = _limit(circuit)
    carried = abs(offset) / max(float(np.nanmedian(np.abs(context.delta[context.on]))), 0.1)
    said += say("class_sensors_allows", limit=limit)
    if abs(offset) <= U:
        return sound(CheckCode.PAIR_OFFSET, said, picture)
    proposal = Offset(
        channel=circuit.flow_temp,
        add=round(-offset, 3),
        U=round(U, 3),
        reason=say("pair_offset_found"),
    )
    remedy = say("correct_offset_heat", carried=carried)
    if abs(offset) - U <= limit:
        return Check(
            CheckCode.PAIR_OFFSET,
            Soundness.SOUND,
            said + say("correcting_makes_smaller"),
            (),
            remedy,
            (proposal,),
            picture=picture,
        )
    return Check(
        code=CheckCode.PAIR_OFFSET,
        soundness=Soundness.DOUBTFUL,
        sentence=said,
        spans=(context.whole,),
        remedy=remedy,
        proposals=(proposal,),
        affects=(Affects.HEAT,),
        picture=picture,
    )


def _points(context: CheckContext, circuit: WaterCircuit) -> tuple[Floats, Floats, Ints]:
    """Excess of the water [K], ΔT [K] and the day, of each stretch at rest."""
    trace, on = context.trace, context.on
    resting = context.rested * trace.step > REST
    resting &= context.pumping & ~on & np.isfinite(context.delta) & ~context.left_out
    if context.unit is not None and context.unit.sampled:  # else there is a flag
        resting &= context.unit.energy < context.at_rest * trace.step
    cells = np.flatnonzero(resting)
    if not len(cells):
        nothing = np.empty(0)
        return nothing, nothing, np.empty(0, np.int64)
    surroundings = trace["room_temp"][cells] if "room_temp" in trace else PAIR_OFFSET_ROOM
    mean = 0.5 * (trace[circuit.flow_temp][cells] + trace[circuit.return_temp][cells])
    excess = mean - surroundings
    for meter in context.installation.electricity:  # heaters that warm the water meanwhile
        if meter.name in context.meter_energies.electricity and "compressor" not in meter.includes:
            power = context.meter_energies.electricity[meter.name].energy[cells] / trace.step
            excess = np.where(power > 300, np.nan, excess)
    good = np.isfinite(excess) & (np.abs(excess) < WIDEST)
    cells, excess = cells[good], excess[good]
    block = cells // max(1, round(PAIR_OFFSET_BLOCK / trace.step))
    names, inverse, counts = np.unique(block, return_inverse=True, return_counts=True)
    x = np.bincount(inverse, excess) / counts
    y = np.bincount(inverse, context.delta[cells]) / counts
    full = counts >= max(1, round(PAIR_OFFSET_BLOCK / trace.step) // 2)
    day = names * max(1, round(PAIR_OFFSET_BLOCK / trace.step)) * trace.step // 86_400
    return x[full], y[full], day[full]


def _short_runs(context: CheckContext, circuit: WaterCircuit) -> _Short | None:
    """The offset from a pump that runs a few minutes now and then while the compressor rests, or on
    after it.

    Nothing is added to the water in a unit that rests: what leaves it is what came in, as long ago
    as it takes to pass. While the water cools that alone makes a difference, the rate times that
    time; at rate 0 the sensors' own remains.
    """
    trace, on = context.trace, context.on
    good = context.rested * trace.step >= COME_ROUND
    good[: int(np.argmax(on)) if on.any() else len(on)] = True  # not run yet
    good &= context.pumping & ~on & ~context.left_out
    for cells in range(1, max(2, round(COME_ROUND / 2 / trace.step)) + 1):
        good[cells:] &= context.pumping[:-cells]
    good[:-1] &= context.pumping[1:] & ~on[1:]
    if np.count_nonzero(good) < LEAST_SHORT:
        return None
    back = trace[circuit.return_temp]
    rate = np.full(len(on), np.nan)
    rate[1:-1] = (back[:-2] - back[2:]) / 2 / trace.step * 60  # [K/min]
    good &= np.isfinite(rate) & np.isfinite(context.delta) & (np.abs(rate) < FASTEST)
    at = np.flatnonzero(good)
    day = at * trace.step // 86_400
    days = len(np.unique(day))
    if len(at) < LEAST_SHORT or days < PAIR_OFFSET_LEAST_DAYS:
        return None
    x, y = rate[at], context.delta[at]
    mean = float(np.mean(x))
    # The slope is the time to pass; noise of the sensors flattens it: it must be one that can be.
    fit, error = _line(x, y, day)
    slope, u_slope = PASS, rectangular(PASS_LIMIT)
    if error < u_slope and abs(fit - PASS) <= PASS_LIMIT:
        slope, u_slope = fit, error
    each = np.array([float(np.mean(y[day == one])) for one in np.unique(day)])
    u_mean = float(np.std(each, ddof=1)) / sqrt(days)
    u = sqrt(u_mean**2 + (u_slope * mean) ** 2 + SHAPE**2)
    return _Short(float(np.mean(y)) - slope * mean, u, days, x, y)


def _line(x: Floats, y: Floats, day: Ints) -> tuple[float, float]:
    """Slope of y on x and its standard error, days taken as independent."""
    z = x - x.mean()
    square = float(z @ z)
    if square <= 0:
        return 0.0, np.inf
    slope = float(z @ (y - y.mean())) / square
    left = (y - y.mean()) - slope * z
    score = np.array([float(z[day == one] @ left[day == one]) for one in np.unique(day)])
    return slope, float(np.sqrt((score**2).sum())) / square


def _intercept(x: Floats, y: Floats, day: Ints) -> tuple[float, float]:
    """Intercept and its standard uncertainty, days taken as independent (cluster-robust)."""
    design = np.column_stack([np.ones(len(x)), x]) if np.ptp(x) > 2 else np.ones((len(x), 1))
    bread = np.linalg.inv(design.T @ design)
    fit = bread @ design.T @ y
    residual = y - design @ fit
    meat = np.zeros_like(bread)
    days = np.unique(day)
    for one in days:
        score = design[day == one].T @ residual[day == one]
        meat += np.outer(score, score)
    few = len(days) / max(len(days) - design.shape[1], 1)
    variance = float((bread @ meat @ bread)[0, 0]) * few
    slope = float(fit[1]) if len(fit) > 1 else 0.0
    bent = BENT * slope * float(np.percentile(np.abs(x), 10))
    return float(fit[0]), sqrt(variance + SHAPE**2 + bent**2)


def _limit(circuit: WaterCircuit) -> float:
    """What the class of the sensors allows at rest [K]."""
    doubled = 2.0 if circuit.in_service else 1.0
    if circuit.probes == Probes.HEAT_METER_PAIR:
        return doubled * (PAIR[1] + CALCULATOR[1]) * DELTA_MIN
    a, b = HEAT_PROBE[circuit.probes]
    return 2 * (a + b * 25)
