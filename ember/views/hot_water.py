"""Hot water of a period: charges, COP by stage of the tank, what it loses and what it reaches."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.clock import local_from_utc
from ember.basis.codes import KnownBy, ReasonCode
from ember.basis.quantity import KWH, Estimate
from ember.basis.series import Floats, Ints
from ember.description.installation import HEATERS, working
from ember.events.hot_water_charges import COIL_APPROACH, STAGES, STALL, pasteurisations
from ember.messages import NotAvailable, Reason, because, not_available, words_of
from ember.operation.calorimeter import (
    CALORIMETER_CLEARLY,
    Calorimeter,
    Stage,
    calorimeter,
    heat_of_each,
)
from ember.operation.within import Spread, Within, middle, one, quartiles
from ember.properties import Fluid, liquid
from ember.reckoning import Reckoning
from ember.reckoning.tally import Tally, validity

say = words_of(__name__)

USUAL_ROOM = 18.0  # around the tank where it is not logged [degC], common practice
HOT_WATER_QUIET = 0.25  # of the hours without a charge cool slowest: no water is drawn in them
LEAST_QUIET = 12  # hours
SET_POINT_STEP = 3.0  # by which charges are told apart [K]
HOT_WATER_OFTEN = 0.25  # of the charges
HOT_WATER_ROWS = 400
USED_AT, HOT_WATER_COLD = 40.0, 10.0  # water at the tap and from the main [degC], common practice
HOT_WATER_LEAST_STAGE = 0.05  # electricity in a stage for a COP to be shown [kWh]


@dataclass(frozen=True)
class ChargeRow:
    """One charge. start [s]

    Attributes
    ----------
    length : float
        of the reheating [s]
    low, high : float | None
        of the tank [degC]. electricity, heat [kWh]
    cop : Estimate | None
        at the level.
    heater : float | None
        electricity of heaters meanwhile [kWh].
    tank_heat : Estimate | None
        into the tank by the tank alone, of a charge without draws [kWh].
    dwell : float | None
        at the top [s].
    litres : float | None
        of 40 °C that the charge gives with cold water of 10 °C.
    paid : Estimate | None
        for all metered electricity meanwhile, at the prices of its moments.
    """

    start: float
    length: float
    low: float | None
    high: float | None
    electricity: Estimate | None
    heat: Estimate | None
    tank_heat: Estimate | None
    cop: Estimate | None
    heater: float | None
    flow: float | None
    outdoor: float | None
    defrosts: int
    dwell: float | None
    litres: float | None
    marks: list[str]
    paid: Estimate | None


@dataclass(frozen=True)
class Alike:
    """Charges of one kind: to about the same temperature, or begun in the same part of the day.

    Attributes
    ----------
    paid : Estimate | None
        for all metered electricity meanwhile, at the prices of its moments.
    each : Estimate | None
        of it a charge.
    """

    name: str
    charges: int
    electricity: Estimate | None
    heat: Estimate | None
    cop: Estimate | None
    minutes: float | None
    outdoor: float | None
    flow: float | None
    paid: Estimate | None
    each: Estimate | None


@dataclass(frozen=True)
class StandingLoss:
    """What the tank loses: power [W], kWh a day, at a mean difference to the room [K]; from so many
    quiet hours."""

    watts: float
    kwh_a_day: float
    difference: float
    hours: int


@dataclass(frozen=True)
class WaterSeen:
    """Hot water of a period.

    Attributes
    ----------
    reason : Reason | None
        where nothing can be shown.
    count : int
        of charges
    pasteurisations : int
        of these.
    reheat : Spread | None
        quartiles [s]
    per_kelvin : Spread | None
        of the minutes that a kelvin of the tank takes.
    stalls : int
        charges that dwelt at the top
    stalls_often : bool
        in a quarter of the charges.
    reachable : float | None
        the highest flow temperature less the coil's approach [degC], against warmest : median of
        the charges' highest
    out_of_reach : bool
        the latter lies above.
    heaters : Estimate | None
        electricity of heaters in the period, share : of heat into the tank by them during charges.
    calorimeter : Calorimeter | None
        what the tank itself says of its charges
    stages_by_tank : bool
        whether the stages are by it, heat not being metered.
    """

    level: str | None
    reason: Reason | None
    basis: str
    count: int
    pasteurisations: int
    a_day: float | None
    total: Alike | None
    reheat: Spread | None
    per_kelvin: Spread | None
    low: float | None
    warmest: float | None
    reachable: float | None
    out_of_reach: bool
    stalls: int
    stalls_often: bool
    heaters: Estimate | None
    immersion_share: float | None
    standing: StandingLoss | None
    standing_reason: Reason | None
    stages: list[Stage]
    stages_by_tank: bool
    set_points: list[Alike]
    schedules: list[Alike]
    rows: list[ChargeRow]
    calorimeter: Calorimeter | None


def water_seen(within: Within, rows: int = HOT_WATER_ROWS, drawn: bool = True) -> WaterSeen:
    """Charges that begin in a period.

    Parameters
    ----------
    rows : int
        how many of them one by one, the latest first.
    drawn : bool
        with what a screen lists: charges by set point and by time of day, and the rows.

    Source: approach of the coil and stages, common practice.
    """
    found, level = within.found.charges, within.found.level
    basis = within.analysis.facts.basis["hot water"]
    pick = within.pick(found.start)
    hygiene = pasteurisations(found)
    usual = pick[~hygiene[pick]]
    why = None
    if not len(pick):
        absent = basis.by in (KnownBy.NONE_THERE, KnownBy.NOTHING)
        why = because(ReasonCode.NO_CHARGE)
        if absent:
            why = because(ReasonCode.HOT_WATER_NOT_KNOWN, words=basis.words)
    whole = usual[found.whole[usual] > 0]
    lengths = ((found.stop - found.start) * within.found.step).astype(float)
    flow = found.flow[usual][np.isfinite(found.flow[usual])]
    warmest = middle(found.high[whole])
    reachable = float(np.percentile(flow, 95)) - COIL_APPROACH if len(flow) else None
    if reachable is not None:  # what was reached without a heater can be
        helped = bool(working(within.analysis.installation) & HEATERS)
        plain = whole[found.heater[whole] == 0] if helped else whole
        reached = found.high[plain][np.isfinite(found.high[plain])]
        reachable = max([reachable, *np.percentile(reached, [90])]) if len(reached) else reachable
    stalls = int(np.count_nonzero(np.nan_to_num(found.dwell[usual]) >= STALL))
    standing = _standing(within)
    told = calorimeter(within, pick)
    stages = _stages(within, usual)
    by_tank = bool(told and told.stages) and not any(one.cop for one in stages)
    if told and by_tank:
        stages = told.stages
    return WaterSeen(
        level=level,
        reason=why,
        basis=basis.words,
        count=len(pick),
        pasteurisations=int(hygiene[pick].sum()),
        a_day=len(pick) / within.days if within.days >= 0.99 else None,
        total=_alike(within, [("all", pick)])[0] if len(pick) else None,
        reheat=quartiles(lengths[whole]),
        per_kelvin=quartiles(_per_kelvin(within, whole, lengths)),
        low=middle(found.low[whole]),
        warmest=warmest,
        reachable=reachable,
        out_of_reach=reachable is not None and warmest is not None and warmest > reachable,
        stalls=stalls,
        stalls_often=stalls > HOT_WATER_OFTEN * len(usual),
        heaters=heaters_used(within),
        immersion_share=_immersion(within, pick),
        standing=standing if isinstance(standing, StandingLoss) else None,
        standing_reason=standing.reason if isinstance(standing, NotAvailable) else None,
        stages=stages,
        stages_by_tank=by_tank,
        set_points=_by_set_point(within, whole) if drawn else [],
        schedules=_by_schedule(within, whole) if drawn else [],
        rows=_rows(within, pick[::-1][: rows if drawn else 0], hygiene, reachable),
        calorimeter=told,
    )


def _per_kelvin(within: Within, pick: Ints, lengths: Floats) -> Floats:
    """Minutes per kelvin of each of some charges that rose by 2 K or more, (k,)."""
    found = within.found.charges
    rise = found.high[pick] - found.low[pick]
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(rise >= 2.0, lengths[pick] / 60 / rise, np.nan)


def _alike(within: Within, named: Sequence[tuple[str, Ints]]) -> list[Alike]:
    """Charges by the name of their group; no charge is in two."""
    found = within.found.charges
    spans = [(found.start[pick], found.stop[pick]) for _, pick in named]
    totals, paid = within.totals(spans), within.paid_together(spans)
    return [
        _one_group(within, name, pick, totals[k] if totals else None, paid[k])
        for k, (name, pick) in enumerate(named)
    ]


def _one_group(
    within: Within, name: str, pick: Ints, total: Reckoning | None, paid: Estimate | None
) -> Alike:
    found = within.found.charges
    minutes = (found.stop - found.start)[pick] * within.found.step / 60
    return Alike(
        name=name,
        charges=len(pick),
        electricity=total.electricity
        if total
        else within.used_together(found.start[pick], found.stop[pick]),
        heat=total.heat if total else None,
        cop=total.cop if total else None,
        minutes=middle(minutes),
        outdoor=middle(found.outdoor[pick]),
        flow=middle(found.flow[pick]),
        paid=paid,
        each=paid.scaled(1 / len(pick)) if paid and len(pick) else None,
    )


def _stages(within: Within, pick: Ints) -> list[Stage]:
    found = within.found.charges
    if within.analysis.cop_reason or not len(pick):
        return []
    electricity = found.by_electricity[pick] / KWH
    heat = found.by_heat[pick] / KWH
    stages = []
    for k in range(len(STAGES) - 1):
        used, given = float(np.nansum(electricity[:, k])), float(np.nansum(heat[:, k]))
        if used < HOT_WATER_LEAST_STAGE:
            continue
        charges = int(np.count_nonzero(electricity[:, k] > 0))
        cop = given / used if given > 0 else None
        stages.append(Stage(float(STAGES[k]), float(STAGES[k + 1]), used, given, cop, charges))
    return stages


def _by_set_point(within: Within, pick: Ints) -> list[Alike]:
    high = within.found.charges.high[pick]
    groups = np.round(np.nan_to_num(high, nan=-99) / SET_POINT_STEP).astype(np.int64)
    found = []
    for key in np.unique(groups).tolist():
        here = pick[groups == key]
        if key < 0 or len(here) < 2:
            continue
        found.append((say("to_about", temperature=key * SET_POINT_STEP), here))
    return _alike(within, found)


PARTS = ((0, 6, "night, 0 to 6"), (6, 12, "morning, 6 to 12"), (12, 18, "afternoon, 12 to 18"),
         (18, 24, "evening, 18 to 24"))  # fmt: skip


def _by_schedule(within: Within, pick: Ints) -> list[Alike]:
    instants = np.array(within.instants(within.found.charges.start[pick]), np.int64)
    if not len(instants):
        return []
    hour = local_from_utc(instants, within.analysis.zone) % 86_400 / 3600
    found = []
    for first, last, name in PARTS:
        here = pick[(hour >= first) & (hour < last)]
        if len(here) >= 2:
            found.append((name, here))
    return _alike(within, found)


def heaters_used(within: Within) -> Estimate | None:
    """Electricity of the heaters that have meters of their own [kWh]."""
    segments = within.analysis.segments
    groups = np.where(segments.within(within.period.start, within.period.stop), 0, -1)
    found: Estimate | None = None
    for meter in within.analysis.installation.electricity:
        if meter.name not in segments.meters or not set(meter.includes) <= HEATERS:
            continue
        counted, _ = validity(segments, (meter.name,))
        mine = Tally(segments, (meter.name,), counted, groups, 1).total(meter.name)[0]
        found = mine if found is None else found + mine
    return found


def _immersion(within: Within, pick: Ints) -> float | None:
    """Share of the heat into the tank that heaters gave during charges."""
    found = within.found.charges
    heater, heat = found.heater[pick], found.heat[pick]
    known = np.isfinite(heater) & np.isfinite(heat)
    if not known.any():
        return None
    total = float(heater[known].sum() + heat[known].sum())
    return float(heater[known].sum()) / total if total > 0 else None


def _standing(within: Within) -> StandingLoss | NotAvailable:
    """What the tank loses, from the hours in which it cools slowest.

    Source: energy balance of the store; that nothing is drawn in them, common practice.
    """
    tank = within.analysis.installation.tank
    of, inside = within.found.hours.of, within.hours()
    if tank is None:
        return not_available(ReasonCode.NO_TANK)
    if not np.isfinite(of["tank"]).any():
        return not_available(ReasonCode.TANK_NOT_LOGGED)
    temp = np.where(inside, of["tank"], np.nan)
    quiet = of["hot_water"] == 0
    # Over three hours none of which heats the tank.
    calm = quiet[:-2] & quiet[1:-1] & quiet[2:]
    fall = np.where(calm, (temp[:-2] - temp[2:]) / 2, np.nan)
    mean = temp[1:-1]
    room = np.where(np.isfinite(of["room"][1:-1]), of["room"][1:-1], USUAL_ROOM)
    above = mean - room
    known = np.isfinite(fall) & (above > 10) & (fall > 0)
    if known.sum() < 4 * LEAST_QUIET:
        return not_available(ReasonCode.TANK_SELDOM_QUIET)
    rate = fall[known] / above[known]  # [1/h], the same whatever the temperature
    slowest = rate <= np.percentile(rate, 100 * HOT_WATER_QUIET)
    coefficient = float(np.median(rate[slowest]))
    water = liquid(Fluid())
    at = np.array([float(np.median(mean[known]))])
    capacity = tank.volume_l / 1000 * float(water.rho(at)[0]) * float(water.cp(at)[0])  # [J/K]
    difference = float(np.median(above[known]))
    watts = coefficient * difference * capacity / 3600
    return StandingLoss(watts, watts * 24 / 1000, difference, int(slowest.sum()))


def _rows(
    within: Within, shown: Ints, hygiene: np.ndarray, reachable: float | None
) -> list[ChargeRow]:
    found, step = within.found.charges, within.found.step
    order = shown[::-1]
    sums = within.sums(found.start[order], found.stop[order])[::-1]
    used = [] if sums else within.used(found.start[order], found.stop[order])[::-1]
    paid = within.paid(found.start[order], found.stop[order])[::-1]
    by_tank = heat_of_each(within, shown)
    rows = []
    for k, charge in enumerate(shown.tolist()):
        summed = sums[k] if sums else None
        dwell = one(found.dwell, charge)
        marks = []
        if hygiene[charge]:
            marks.append("pasteurisation")
        if dwell is not None and dwell >= STALL:
            near = reachable is not None and found.high[charge] >= reachable - 2.0
            marks.append(say("stall_reachable_limit") if near else say("dwell_top"))
        if not found.whole[charge]:
            marks.append(say("cut_gap"))
        if found.drawn[charge] == 1 and (summed is None or summed.heat is None):
            marks.append(say("water_drawn"))  # it matters only where the tank has to tell the heat
        rows.append(
            ChargeRow(
                start=within.instants(found.start[[charge]])[0],
                length=float(found.stop[charge] - found.start[charge]) * step,
                low=one(found.low, charge),
                high=one(found.high, charge),
                electricity=summed.electricity if summed else used[k],
                heat=summed.heat if summed else None,
                tank_heat=by_tank[k],
                cop=summed.cop if summed else None,
                heater=one(found.heater, charge, 1 / KWH),
                flow=one(found.flow, charge),
                outdoor=one(found.outdoor, charge),
                defrosts=int(found.defrosts[charge]),
                dwell=dwell,
                litres=_litres(within, one(found.high, charge)),
                marks=marks,
                paid=paid[k],
            )
        )
    return rows


def _litres(within: Within, high: float | None) -> float | None:
    """Water of 40 °C that a tank gives, mixed with cold [L]; None below 40 °C.

    Source: mixing of equal heat capacities; cold water of 10 °C common practice."""
    tank = within.analysis.installation.tank
    if tank is None or high is None or high < USED_AT:
        return None
    if tank.phase_change is not None:
        if high < tank.phase_change.melts_at + CALORIMETER_CLEARLY:
            return None
        water = liquid(Fluid())
        at = np.array([(USED_AT + HOT_WATER_COLD) / 2])
        litre = float(water.rho(at)[0]) * float(water.cp(at)[0]) / 1000
        return tank.phase_change.kwh * KWH / (litre * (USED_AT - HOT_WATER_COLD))
    return (
        tank.volume_l * tank.effective_share * (high - HOT_WATER_COLD) / (USED_AT - HOT_WATER_COLD)
    )
