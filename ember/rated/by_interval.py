"""Against the table where only the sum between two readings is known: of a day, a week, a month.

States are not told apart, so that hot water, starts, standby and defrosts are in the sum. The table
is taken at the mean conditions of each interval, hot water at its own, and what cannot be told is
taken from the middle of its usual range, with the rest of the range in U.
"""

from dataclasses import dataclass

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.clock import HOUR
from ember.basis.codes import ReasonCode
from ember.basis.series import FAR_APART, Bools, Floats, Ints, Trace
from ember.description.installation import Installation, TableKind, UnitKind
from ember.messages import NotAvailable, not_available, words_of
from ember.rated.design import asked_flow
from ember.rated.surface import Surfaces

say = words_of(__name__)

# All common practice:
STARTS = 0.08  # of the electricity, that starts and standby cost at most where nothing is wrong
DEFROSTS = 0.10  # the same of defrosts
FROST_BELOW = 7.0  # outdoors, where a coil may frost [degC]
WHEN_IT_RUNS = 1.0  # by which the unit may see other weather than the interval's mean [K]
FLOW_LOGGED = (0.0, 4.0)  # by which the flow is warmer while the unit runs than in the mean [K]
HOT_WATER_DAY = (2 * 3.6e6, 8 * 3.6e6)  # heat for a home's hot water in a day [J]
LEARNED = 0.3  # error of that heat where warm days show it, as a share
BY_INTERVAL_WARM = 18.0  # outdoors, above which nothing but hot water is made [degC]
LEAST_WARM = 7.0  # of such days
HOT_WATER_TEMP = 50.0  # of the flow where no set point is described [degC]
MOST_HOT_WATER = 0.5  # of an interval's heat, above which it is no interval of heating
BY_INTERVAL_KNOWN = 0.8  # of an interval's time, that its temperatures must be known in


@dataclass(frozen=True)
class ByInterval:
    """The rated COP of each cell, 0 where nothing is compared, (n,); cells with heat, and those of
    them outside the table

    Attributes
    ----------
    assumed : tuple[tuple[str, float], ...]
        as in Promise
    mean : tuple[float, float]
        outdoor and flow temperature [degC]
    span : str
        what is compared, in words.
    """

    cop: Floats
    fitting: int
    outside: int
    assumed: tuple[tuple[str, float], ...]
    mean: tuple[float, float]
    span: str


def intervals(trace: Trace) -> Ints:
    """The interval in which each cell lies, (n,): from one reading of all registers to the next; of
    a log without registers, its own intervals."""
    counters = [c for c in trace.channels if quantity_of(c).kind == Kind.COUNTER]
    seldom = [c for c in counters if trace.native_of(c) > FAR_APART]
    if seldom:
        read: Bools = np.logical_and.reduce([np.isfinite(trace[c]) for c in seldom])
        return np.cumsum(read)
    longest = max((trace.native_of(c) for c in trace.channels), default=float(trace.step))
    return np.arange(len(trace)) // max(1, round(longest / trace.step))


def by_interval(
    installation: Installation, trace: Trace, shapes: Surfaces, heat: Floats
) -> ByInterval | NotAvailable:
    """The table at the mean conditions of each interval, or why it cannot be taken there.

    Parameters
    ----------
    heat : array, (n,)
        Of the heat pump in each cell [J]; a register's increment may stand in the last cell of its
        interval.

    Source: daily heat and electricity against the table at the day's mean conditions, common
    practice; output of emitters EN 442.
    """
    table = installation.rated
    assert table is not None
    group = intervals(trace)
    count = int(group[-1]) + 1
    cells = np.bincount(group, minlength=count)
    hours: Floats = cells.astype(np.float64) * (trace.step / HOUR)
    source = _source(installation, trace, table.kind)
    if source is None:
        what = "source" if table.kind == TableKind.GROUND else "outdoor"
        return not_available(ReasonCode.CONDITIONS_NOT_KNOWN, what=what)
    outdoor = _mean(trace[source], group, count)
    known = np.bincount(
        group, np.isfinite(trace[source]), count
    ) >= BY_INTERVAL_KNOWN * np.bincount(group)
    outdoor[~known] = np.nan
    sink = _sink(installation, trace, table.kind, outdoor, group, count)
    if isinstance(sink, NotAvailable):
        return sink
    flow, flow_limit, words = sink
    total = np.bincount(group, np.nan_to_num(heat), count).astype(np.float64)
    with np.errstate(invalid="ignore", divide="ignore"):
        delivered = total / (hours * HOUR)
    sized = installation.rated is not None and installation.rated.gives_capacity
    space = shapes.cop(outdoor, flow, delivered if sized else None)
    share, share_limit = _hot_water(installation, total, hours / 24, outdoor)
    water = _water_cop(installation, shapes, outdoor)
    with np.errstate(invalid="ignore", divide="ignore"):
        cop = np.where(share > 0, 1 / ((1 - share) / space + share / water), space)
        apart = np.where(share > 0, share_limit * np.abs(space / water - 1), 0.0)
    cop /= 1 + STARTS / 2
    frost = np.zeros(count, np.bool_)
    if not table.includes_defrost and installation.unit.kind != UnitKind.GROUND_SOURCE:
        with np.errstate(invalid="ignore"):
            frost = outdoor < FROST_BELOW
        cop[frost] /= 1 + DEFROSTS / 2
    heated = (total > 0) & (share <= MOST_HOT_WATER) & np.isfinite(outdoor)
    inside = heated & np.isfinite(cop)
    weight = np.where(inside, total, 0.0)
    whole = max(float(weight.sum()), 1.0)
    levels = shapes.levels
    at = (
        float(weight @ np.nan_to_num(outdoor)) / whole,
        float(weight @ np.nan_to_num(flow)) / whole,
    )
    per_flow = levels[len(levels) // 2].slope(at, 1)
    per_outdoor = levels[len(levels) // 2].slope(at, 0)
    assumed = (
        (f"{words}, ± {flow_limit:g} K", per_flow * flow_limit),
        (say("weather_runs", when_it_runs=WHEN_IT_RUNS), per_outdoor * WHEN_IT_RUNS),
        (say("starts_standby_electricity", starts=STARTS), STARTS / 2),
        (say("defrosts_not_seen"), DEFROSTS / 2 * float(weight[frost].sum()) / whole),
        (say("hot_water_share"), float(weight @ np.nan_to_num(apart)) / whole),
    )
    return ByInterval(
        np.where(inside, cop, 0.0)[group],
        int(cells[heated].sum()),
        int(cells[heated & ~inside].sum()),
        tuple(a for a in assumed if a[1]),
        at,
        say("whole_intervals_between", words=words),
    )


def _mean(values: Floats, group: Ints, count: int, weight: Floats | None = None) -> Floats:
    """Mean of what is known in each interval, (count,); else NaN."""
    known = np.isfinite(values)
    w = known.astype(np.float64) if weight is None else np.where(known, weight, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean: Floats = np.bincount(group, w * np.where(known, values, 0.0), count) / np.bincount(
            group, w, count
        )
    return mean


def _source(installation: Installation, trace: Trace, kind: TableKind) -> str | None:
    if kind == TableKind.GROUND:
        return next((c for c in trace.channels if quantity_of(c).name == "source_temp"), None)
    channel = installation.outdoor.channel
    return channel if channel in trace and np.isfinite(trace[channel]).any() else None


def _sink(
    installation: Installation,
    trace: Trace,
    kind: TableKind,
    outdoor: Floats,
    group: Ints,
    count: int,
) -> tuple[Floats, float, str] | NotAvailable:
    """Flow or room temperature of each interval, its error limit [K], and how it is known."""
    house = installation.house
    if kind == TableKind.AIR:
        room = next((c for c in trace.channels if quantity_of(c).name == "room_temp"), None)
        if room is not None:
            return _mean(trace[room], group, count), 1.0, say("logged_room_temperature")
        indoor = house.design_indoor if house is not None else 20.0
        return np.full(count, indoor), 2.0, say("room_temperature_design")
    named = [(c.flow_temp, c.return_temp) for c in installation.circuits]
    named.append(("flow_temp", "return_temp"))
    for flow, back in named:
        if flow in trace and np.isfinite(trace[flow]).any():
            warmed = None
            if back in trace:  # water that is not warmed says little
                warmed = np.nan_to_num(np.maximum(trace[flow] - trace[back], 0.0)) + 1e-3
            low, high = FLOW_LOGGED
            mean = _mean(trace[flow], group, count, warmed) + (low + high) / 2
            words = say("mean_flow_temperature", low=low, high=high)
            return mean, (high - low) / 2, words
    asked = None if house is None else asked_flow(house, outdoor, house.design_outdoor)
    if asked is None:
        return not_available(ReasonCode.FLOW_NOT_DESCRIBED)
    return asked.flow, asked.limit, asked.words


def _hot_water(
    installation: Installation, heat: Floats, days: Floats, outdoor: Floats
) -> tuple[Floats, Floats]:
    """Hot water's share of the heat of each interval, and how far that may be off, (count,)."""
    if installation.tank is None:
        return np.zeros(len(heat)), np.zeros(len(heat))
    low, high = HOT_WATER_DAY
    with np.errstate(invalid="ignore"):
        warm = (outdoor > BY_INTERVAL_WARM) & (heat > 0)
    if days[warm].sum() >= LEAST_WARM:
        mean = float(heat[warm].sum() / days[warm].sum())
        low, high = (1 - LEARNED) * mean, (1 + LEARNED) * mean
    with np.errstate(invalid="ignore", divide="ignore"):
        most, least = (
            np.where(heat > 0, np.minimum(x * days / heat, 1.0), 0.0) for x in (high, low)
        )
    return (most + least) / 2, (most - least) / 2


def _water_cop(installation: Installation, shapes: Surfaces, outdoor: Floats) -> Floats:
    """Rated COP of hot water, at the warmest flow that the table has where it is made hotter."""
    tank = installation.tank
    wanted = HOT_WATER_TEMP if tank is None or tank.set_point is None else tank.set_point
    warmest = float(shapes.levels[len(shapes.levels) // 2].flow[-1])
    return shapes.cop(outdoor, np.full(len(outdoor), min(wanted, warmest)), None)
