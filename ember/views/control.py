"""Control of a period: the weather curve that is really followed, ΔT, pumps, buffer, rooms."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import HOUR, local_from_utc
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.practice import NIGHT, NIGHT_HOURS
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent, rectangular
from ember.basis.series import Bools, Floats
from ember.comparison.performance_ratio import FLOW_TEMP_LIMIT
from ember.description.thresholds import Thresholds
from ember.messages import Reason, Source, because, words_of
from ember.operation.within import Spread, Within, finite, middle, quartiles
from ember.rated import Promise
from ember.views.house import HOUSE_LEAST_HOURS, Buffer, Held, buffer_seen, room_held, warm_ups

say = words_of(__name__)

CONTROL_LEAST_SETTLED = 600.0  # of settled heating in an hour that counts [s]
LEAST_SPAN = 5.0  # of outdoor temperature, for a curve to be seen in it [K]
FLAT = 0.15  # K per K outdoors: no weather curve, common practice, chosen
TIGHT = 2.5  # scatter of a fixed flow temperature [K]
SCATTERED = 3.0  # [K]
SETBACK = 2.0  # by which the flow is lower at night [K]
CONTROL_FULL = 0.7  # of the rated capacity, from which load is called full, common practice, chosen
POINTS = 700


@dataclass(frozen=True)
class Curve:
    """The line through flow over outdoor temperature: flow = at_zero + slope · outdoor [degC].

    Attributes
    ----------
    scatter : float
        standard deviation about it [K]
    low, high : float
        outdoors, between which it was seen.
    """

    at_zero: float
    slope: float
    scatter: float
    low: float
    high: float
    hours: int


@dataclass(frozen=True)
class LoadBand:
    """Hours of a band of outdoor temperature, or of load: means while settled. load [kW]."""

    low: float
    high: float
    hours: int
    flow: float | None
    delta: float | None
    water: float | None
    load: float | None
    room: float | None
    cop: float | None


@dataclass(frozen=True)
class ControlSeen:
    """Control of a period.

    Attributes
    ----------
    points : list[list[float | None]]
        hours of settled heating: outdoor, flow [degC], and local hour of the day.
    by_hour : list[float | None]
        median distance from the curve by local hour [K]
    on_by_hour : list[float | None]
        share of the time with the unit running, 24 numbers each.
    warm_up : Spread | None
        minutes of running per kelvin of the room, over warm_ups of them.
    set_curve : list[list[float]]
        the one that is set, where described, outdoor and flow [degC]
    above_set : Estimate | None
        median of the flow run over it [K].
    setback : float | None
        by which the flow is lower at night [K]
    night_rest : float | None
        share of the day's running that the night has, where it is half or less
    recovery : float | None
        by how much the electricity of the morning hours lies above the day's, as a share.
    per_kelvin : float | None
        what 1 K less flow temperature saves, as a share, from the rated table. pump_hours,
        pump_energy [kWh] : of pumps running with nothing made.
    said : list[str]
        what that means, sentences.
    night : list[int]
        local hours that count as night, from and to.
    """

    reason: Reason | None
    curve: Curve | None
    said: list[str]
    points: list[list[float | None]]
    by_hour: list[float | None]
    on_by_hour: list[float | None]
    set_curve: list[list[float]]
    above_set: Estimate | None
    setback: float | None
    night_rest: float | None
    recovery: float | None
    per_kelvin: float | None
    weather: list[LoadBand]
    load: list[LoadBand]
    pump_hours: float
    pump_share: float | None
    pump_needless: bool
    pump_energy: float | None
    buffer: Buffer | None
    room: Held | None
    warm_up: Spread | None
    warm_ups: int
    night: list[int]


def control_seen(within: Within) -> ControlSeen:
    """How flow temperature, flow and rooms were held over a period, from its hours.

    Source: limits common practice; the slope of the COP from the rated table.
    """
    of, inside = within.found.hours.of, within.hours()
    use = inside & (of["settled"] >= CONTROL_LEAST_SETTLED)
    use &= np.isfinite(of["outdoor"]) & np.isfinite(of["flow"])
    instants = within.found.hours.start + HOUR * np.arange(len(use), dtype=np.int64)
    hour = local_from_utc(instants, within.analysis.zone) % 86_400 // 3600
    enough = use.sum() >= HOUSE_LEAST_HOURS and np.ptp(of["outdoor"][use]) >= LEAST_SPAN
    curve = _curve(of["outdoor"][use], of["flow"][use]) if enough else None
    why = None
    if not use.any():
        logged = np.isfinite(of["flow"]).any()
        why = because(ReasonCode.NO_SETTLED_HEATING if logged else ReasonCode.FLOW_NOT_LOGGED)
    promise = within.analysis.facts.promise
    per_kelvin = promise.per_kelvin_flow if isinstance(promise, Promise) else None
    by_hour, setback = _by_hour(within, use, hour, curve)
    on_by_hour, night_rest = _on_by_hour(within, inside, hour)
    recovery = _recovery(within, use, hour) if setback or night_rest else None
    of_pump = of["pump_energy"][inside]
    pump_hours = float(of["pump_only"][inside].sum()) / 3600
    known = float(inside.sum()) - float(of["unknown"][inside].sum()) / 3600
    limits = within.analysis.described.thresholds
    needless = bool(known and pump_hours / known > limits.pump_idle)
    bands = _bands(within, use, of["outdoor"], 2.0)
    load = _load_bands(within, use)
    room = room_held(within, inside)
    warming = warm_ups(within)
    buffer = buffer_seen(within, use, per_kelvin)
    capacity = within.analysis.installation.unit.capacity_kw
    set_curve, above = _against_set(within, of["outdoor"][use], of["flow"][use])
    said = _said(
        curve,
        setback,
        night_rest,
        recovery,
        load,
        capacity,
        pump_hours,
        known,
        per_kelvin,
        limits,
        within.analysis.installation.unit.on_air,
    )
    if above is not None:
        said.insert(1, _of_set(above))
    at = np.flatnonzero(use)
    at = at[:: max(1, -(-len(at) // POINTS))]
    return ControlSeen(
        reason=why,
        curve=curve,
        said=said,
        points=[finite(np.array([of["outdoor"][k], of["flow"][k], hour[k]])) for k in at.tolist()],
        by_hour=by_hour,
        on_by_hour=on_by_hour,
        set_curve=set_curve,
        above_set=above,
        setback=setback,
        night_rest=night_rest,
        recovery=recovery,
        per_kelvin=per_kelvin,
        weather=bands,
        load=load,
        pump_hours=pump_hours,
        pump_share=pump_hours / known if known else None,
        pump_needless=needless,
        pump_energy=float(np.nansum(of_pump)) / KWH if np.isfinite(of_pump).any() else None,
        buffer=buffer,
        room=room,
        warm_up=quartiles(warming),
        warm_ups=len(warming),
        night=list(NIGHT),
    )


def _against_set(
    within: Within, outdoor: Floats, flow: Floats
) -> tuple[list[list[float]], Estimate | None]:
    """The curve that is set, over the weather seen, and by how much the flow lies above it.

    Source: median over the hours of settled heating; limits of the outdoor sensor, by the curve's
    own slope, and of the flow sensor, common practice.
    """
    installation = within.analysis.installation
    house = installation.house
    if house.curve is None or not len(outdoor):
        return [], None
    grid = np.linspace(float(outdoor.min()), float(outdoor.max()), 25)
    wanted = house.curve.flow_at(grid, house.design_indoor)
    points = [[float(a), float(b)] for a, b in zip(grid, wanted, strict=True)]
    if len(outdoor) < HOUSE_LEAST_HOURS:
        return points, None
    middle = float(np.median(outdoor))
    ends = house.curve.flow_at(np.array([middle - 1, middle + 1]), house.design_indoor)
    slope = abs(float(ends[1] - ends[0])) / 2
    value = float(np.median(flow - house.curve.flow_at(outdoor, house.design_indoor)))
    parts = (
        UncertaintyComponent(
            Source(SourceCode.OUTDOOR_SENSOR), slope * rectangular(installation.outdoor.limit_k)
        ),
        UncertaintyComponent(Source(SourceCode.FLOW_TEMPERATURE), rectangular(FLOW_TEMP_LIMIT)),
    )
    return points, Estimate(value, "kelvin", parts)


def _of_set(above: Estimate) -> str:
    if abs(above.value) <= above.U:
        return say("runs_curve_set", uncertainty=above.U)
    side = say("above") if above.value > 0 else say("below")
    size = f"{abs(above.value):.1f} ± {above.U:.1f} K"
    return say("runs_curve_set_look", size=size, side=side)


def _curve(outdoor: Floats, flow: Floats) -> Curve:
    """Least squares, once more without what lies far from the first line."""
    slope, at_zero = np.polyfit(outdoor, flow, 1) if np.ptp(outdoor) > 1 else (0.0, flow.mean())
    away = flow - (at_zero + slope * outdoor)
    near = np.abs(away) <= 2.5 * max(float(away.std()), 0.1)
    if np.ptp(outdoor[near]) > 1:
        slope, at_zero = np.polyfit(outdoor[near], flow[near], 1)
    away = flow - (at_zero + slope * outdoor)
    return Curve(
        float(at_zero),
        float(slope),
        float(away[near].std()),
        float(outdoor.min()),
        float(outdoor.max()),
        len(flow),
    )


DAYTIME = slice(9, 21)
LEAST_OF_AN_HOUR = 8  # hours with the same time of day, for their median to be shown
LEAST_NIGHT = 4  # of its hours in which it heats, for a set-back of the flow to be seen
RESTS = 0.5  # of the day's running, or less, at night: it is told to rest


def _by_hour(
    within: Within, use: Bools, hour: np.ndarray, curve: Curve | None
) -> tuple[list[float | None], float | None]:
    """Distance from the curve by hour of the day, and the night's set-back of the flow [K]."""
    of = within.found.hours.of
    if curve is None:
        return [None] * 24, None
    away = of["flow"] - (curve.at_zero + curve.slope * of["outdoor"])
    profile = np.full(24, np.nan)
    for k in range(24):
        here = use & (hour == k)
        if here.sum() >= LEAST_OF_AN_HOUR:
            profile[k] = float(np.median(away[here]))
    night, day = middle(profile[list(NIGHT_HOURS)]), middle(profile[DAYTIME])
    deep = None
    if night is not None and day is not None and day - night >= SETBACK:
        seen = int(np.isfinite(profile[list(NIGHT_HOURS)]).sum())
        deep = day - night if seen >= LEAST_NIGHT else None
    return finite(profile), deep


def _on_by_hour(
    within: Within, inside: Bools, hour: np.ndarray
) -> tuple[list[float | None], float | None]:
    """Share of the time with the unit running, without hot water, by hour of the day."""
    of = within.found.hours.of
    cold = inside & (of["outdoor"] < 12.0) & (of["unknown"] == 0)
    ran = (of["on"] - of["hot_water"]) / HOUR
    profile = np.full(24, np.nan)
    for k in range(24):
        here = cold & (hour == k)
        if here.sum() >= 7:
            profile[k] = float(ran[here].mean())
    night, day = profile[list(NIGHT_HOURS)].mean(), profile[DAYTIME].mean()
    rests = float(night / day) if np.isfinite(night) and day > 0.1 else None
    return finite(profile), rests if rests is not None and rests <= RESTS else None


def _recovery(within: Within, use: Bools, hour: np.ndarray) -> float | None:
    """By how much the power of the hours after a set-back lies above that of the rest of the
    day."""
    of = within.found.hours.of
    with np.errstate(invalid="ignore", divide="ignore"):
        power = of["electricity"] / of["settled"]
    after = middle(power[use & (hour >= 5) & (hour < 8)])
    later = middle(power[use & (hour >= 9) & (hour < 21)])
    return after / later - 1 if after is not None and later else None


def _bands(within: Within, use: Bools, by: Floats, width: float) -> list[LoadBand]:
    found = []
    key = np.floor(np.nan_to_num(by) / width)
    for k in np.unique(key[use]).tolist():
        here = use & (key == k)
        if here.sum() >= 3:
            found.append(_band(within, here, k * width, (k + 1) * width))
    return found


def _load_bands(within: Within, use: Bools) -> list[LoadBand]:
    """Bands of the heat given while settled, five of equal width up to its usual greatest."""
    of = within.found.hours.of
    if within.analysis.cop_reason:
        return []
    with np.errstate(invalid="ignore", divide="ignore"):
        load = of["heat"] / of["settled"] / 1000
    use = use & np.isfinite(load)
    if use.sum() < HOUSE_LEAST_HOURS:
        return []
    top = float(np.percentile(load[use], 98))
    return _bands(within, use, load, top / 5) if top > 0 else []


def _band(within: Within, here: Bools, low: float, high: float) -> LoadBand:
    of = within.found.hours.of
    seconds = float(of["settled"][here].sum())
    heat, used = float(np.nansum(of["heat"][here])), float(np.nansum(of["electricity"][here]))
    stated = within.analysis.cop_reason is None and used > 0 and heat > 0
    return LoadBand(
        low=low,
        high=high,
        hours=int(here.sum()),
        flow=middle(of["flow"][here]),
        delta=middle(of["flow"][here] - of["back"][here]),
        water=middle(of["water"][here]),
        load=heat / seconds / 1000 if stated else None,
        room=middle(of["room"][here]),
        cop=heat / used if stated else None,
    )


def _said(
    curve: Curve | None,
    setback: float | None,
    night_rest: float | None,
    recovery: float | None,
    load: list[LoadBand],
    capacity: float | None,
    pump_hours: float,
    known: float,
    per_kelvin: float | None,
    limits: Thresholds,
    on_air: bool,
) -> list[str]:
    said = []
    if curve is not None:
        flat = curve.slope > -FLAT and curve.high - curve.low > 6
        if flat and curve.scatter < TIGHT:
            said.append(say("no_weather_curve", at_zero=curve.at_zero))
        elif flat:
            said.append(say("no_weather_curve_can"))
        else:
            said.append(
                say(
                    "weather_curve_followed",
                    at_zero=curve.at_zero,
                    slope=-curve.slope,
                    scatter=curve.scatter,
                )
            )
            if curve.scatter > SCATTERED:
                said.append(say("scatters_controller_reads", scatter=curve.scatter))
    if per_kelvin is not None and curve is not None:
        said.append(say("each_kelvin_less", per_kelvin=per_kelvin))
    if setback is not None:
        said.append(say("night_flow_lower", setback=setback))
    if night_rest is not None:
        said.append(say("runs_does_day", night_rest=night_rest))
    if recovery is not None and recovery > 0.05:
        said.append(say("takes_more_power", recovery=recovery))
    strongest = load[-1] if load else None
    if strongest is not None and capacity and (strongest.load or 0.0) >= CONTROL_FULL * capacity:
        full = strongest.delta
        if full is not None and full > limits.delta_wide:
            said.append(say("delta_full_load", full=full))
        elif full is not None and full < limits.delta_narrow:
            said.append(say("delta_full_load_more", full=full))
    if known and pump_hours / known > limits.pump_idle:
        what = say("indoor_fans") if on_air else say("pumps")
        said.append(say("ran_nothing_made", what=what, pump_hours=pump_hours))
    return said
