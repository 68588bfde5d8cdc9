"""Other settings and another unit: what each would have saved by itself."""

from dataclasses import dataclass, replace

import numpy as np

from ember.basis.clock import DAY, HOUR
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.errors import TableError
from ember.basis.practice import KELVIN_SAVES
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.basis.series import Bools, Floats, Ints
from ember.description.house import Emitters, House
from ember.description.installation import RatedTable, TableKind
from ember.messages import Reason, Source, because, words_of
from ember.operation.within import Within
from ember.rated import surface
from ember.views.defrosts import defrosts_seen
from ember.views.flow import FLOW_EXPONENT, SLOPE_ROUGH
from ember.views.hot_water import water_seen
from ember.views.modes import modes
from ember.views.starts import starts_seen
from ember.what_if.asked import WhatIfAsked
from ember.what_if.effect import UsePart, WhatIfCode, WhatIfEffect
from ember.what_if.parts import UseParts

say = words_of(__name__)

FLOOR_EXPONENT = 1.1  # of heated floors (EN 1264, from memory)
LEAST_EXCESS = 3.0  # of the flow over the room that is left [K], common practice, chosen
TAP, COLD_WATER = 40.0, 10.0  # mixed at the tap, and cold [degC], common practice
HYGIENE = 60.0  # below which stored water can grow legionella [degC], common practice
# kelvins of a charge's flow a kelvin of the set point, and what that leaves open with the slope of
# the COP, as a share (rectangular between a half and one), common practice, chosen
CHARGE_SHARE, CHARGE_ROUGH = 0.75, 0.31
LEAST_IN_TABLE = 0.8  # of the heat, for another unit's table to be asked, common practice, chosen


@dataclass(frozen=True)
class _Heating:
    """Hours of settled heating, (h,) each.

    Attributes
    ----------
    source, flow, water : Floats
        outdoor temperature, flow, mean of flow and return [degC].
    heat, electricity : Floats
        of the settled time [J].
    given : Floats
        heat of all the hour [J].
    day : Ints
        which day each hour lies in, an index into `busy`.
    busy : Floats
        share of the time left by hot water in which the unit heats, of each day, (d,).
    """

    source: Floats
    flow: Floats
    water: Floats
    heat: Floats
    electricity: Floats
    given: Floats
    day: Ints
    busy: Floats


def _heating(within: Within) -> _Heating:
    of, inside = within.found.hours.of, within.hours()
    use = inside & (of["settled"] > 0) & (of["electricity"] > 0)
    use &= np.isfinite(of["flow"]) & np.isfinite(of["outdoor"]) & np.isfinite(of["heat"])
    water = np.where(np.isfinite(of["back"]), (of["flow"] + of["back"]) / 2, of["flow"])
    day = (within.found.hours.start + HOUR * np.arange(len(use))) // DAY
    day -= day[0] if len(day) else 0
    count = int(day[-1]) + 1 if len(day) else 0
    free = np.where(inside, np.maximum(HOUR - of["hot_water"] - of["unknown"], 0.0), 0.0)
    heats = np.where(inside, np.maximum(of["on"] - of["hot_water"] - of["cooling"], 0.0), 0.0)
    busy = np.bincount(day, heats, count) / np.maximum(np.bincount(day, free, count), 1.0)
    return _Heating(
        source=of["outdoor"][use],
        flow=of["flow"][use],
        water=water[use],
        heat=of["heat"][use],
        electricity=of["electricity"][use],
        given=of["given"][use],
        day=day[use],
        busy=np.minimum(busy, 1.0),
    )


def measures(parts: UseParts, asked: WhatIfAsked) -> list[WhatIfEffect]:
    """Each of the settings and the unit that are asked for, by itself. Where no COP may be stated
    none can be told."""
    found = []
    if asked.unit is not None:
        found.append(_other_unit(parts, asked.unit))
    if asked.flow_lower:
        found.append(_flow_lower(parts, asked.flow_lower))
    if asked.fewer_starts:
        found.append(_fewer_starts(parts, asked.fewer_starts))
    if asked.defrosts_as_expected:
        found.append(_fewer_defrosts(parts))
    if asked.hot_water_lower:
        found.append(_hot_water_lower(parts, asked.hot_water_lower))
    if asked.heaters_off:
        found.append(_heaters_off(parts))
    why = parts.within.analysis.cop_reason
    if why is not None:
        found = [
            replace(one, electricity=None, money=None, assumptions=(), comfort=(), reason=why)
            for one in found
        ]
    return found


def _made(
    parts: UseParts,
    code: WhatIfCode,
    part: UsePart,
    name: str,
    saved: Estimate | Reason,
    formula: str,
    assumptions: tuple[str, ...] = (),
    comfort: tuple[str, ...] = (),
) -> WhatIfEffect:
    if isinstance(saved, Reason):
        return WhatIfEffect(code, name, formula, None, None, assumptions, comfort, saved, part)
    tariff, price = parts.within.analysis.installation.tariff, parts.prices.get(part)
    money = saved.scaled(price, tariff.currency) if tariff and price is not None else None
    return WhatIfEffect(code, name, formula, saved, money, assumptions, comfort, None, part)


def _share_of(used: Estimate, share: float, rough: float) -> Estimate:
    """A share of a metered electricity, with the error of how it is worked out."""
    saved = used.scaled(share)
    method = UncertaintyComponent(
        Source(SourceCode.METHOD, detail=say("rough")), saved.value * rough
    )
    return Estimate(saved.value, "kWh", merge((*saved.budget, method)))


def _ratio(
    table: RatedTable | None, source: Floats, flow: Floats, lower: Floats
) -> tuple[Floats, Bools]:
    """What is used with so much lower a flow, as a share of what was, (k,); and where the table
    says it. Elsewhere by what a kelvin is known to save."""
    ratio = np.exp(-KELVIN_SAVES * lower)
    told = np.zeros(len(flow), np.bool_)
    if table is not None and table.kind == TableKind.WATER:  # one over brine asks for the brine's
        try:
            shape = surface(table)
        except TableError:
            return ratio, told
        with np.errstate(invalid="ignore", divide="ignore"):
            by_table = shape.cop(source, flow) / shape.cop(source, flow - lower)
        told = np.isfinite(by_table)
        ratio = np.where(told, by_table, ratio)
    return ratio, told


def _flow_lower(parts: UseParts, by: float) -> WhatIfEffect:
    """The flow of heating so much lower.

    Source: rated COP at both temperatures; radiator output ∝ (mean water − room)^1.3 (EN 442).
    """
    within = parts.within
    house = within.analysis.installation.house
    used, seen = parts.electricity.get(UsePart.HEATING), _heating(within)
    name, formula = say("flow", by=by), say("flow_formula")
    if used is None or not len(seen.flow):
        why = because(ReasonCode.NO_SETTLED_HEATING)
        return _made(parts, WhatIfCode.FLOW, UsePart.HEATING, name, why, formula)
    lower, short = _allowed(house, seen, by)
    ratio, told = _ratio(within.analysis.installation.rated, seen.source, seen.flow, lower)
    weight = seen.electricity / seen.electricity.sum()
    share = 1 - float((ratio * weight).sum())
    comfort = [say("rooms_held", power=_exponent(house), room=house.design_indoor)]
    if short:
        mean = float((lower * weight).sum())
        comfort = [say("rooms_limit", days=short, power=_exponent(house), mean=mean)]
    return _made(
        parts, WhatIfCode.FLOW, UsePart.HEATING, name, _share_of(used, share, SLOPE_ROUGH), formula,
        (_told(weight, told), say("same_heat")), tuple(comfort),
    )  # fmt: skip


def _told(weight: Floats, told: Bools) -> str:
    """By what the COP at another temperature is known."""
    share = float(weight[told].sum())
    if share > 0.995:
        return say("by_table_all")
    return say("by_table", share=share) if share else say("by_practice")


def _exponent(house: House) -> float:
    return FLOOR_EXPONENT if house.emitters == Emitters.UNDERFLOOR else FLOW_EXPONENT


def _allowed(house: House, seen: _Heating, by: float) -> tuple[Floats, int]:
    """By how much the flow of each hour may be lower [K], (h,), and on how many days by less than
    asked: so much that the emitters still give the day's heat within the time that the day has.

    Source: output ∝ (mean water − room)^n, n = 1.3 of radiators (EN 442).
    """
    excess = np.maximum(seen.water - house.design_indoor, 0.0)
    weight = np.bincount(seen.day, seen.electricity, len(seen.busy))
    mean = np.bincount(seen.day, seen.electricity * excess, len(seen.busy))
    mean = np.divide(mean, weight, out=np.zeros_like(mean), where=weight > 0)
    most = mean * (1 - seen.busy ** (1 / _exponent(house)))
    lower = np.minimum(most[seen.day], by)
    return np.minimum(lower, np.maximum(excess - LEAST_EXCESS, 0.0)), int(
        ((most < by) & (weight > 0)).sum()
    )


def _fewer_starts(parts: UseParts, share: float) -> WhatIfEffect:
    """Fewer starts, each of which cost what those of the period did on average."""
    seen = starts_seen(parts.within, drawn=False)
    name, formula = say("starts", share=share), say("starts_formula")
    if seen.loss is None or UsePart.HEATING not in parts.electricity:
        why = seen.reason or because(ReasonCode.NO_SETTLED_HEATING)
        return _made(parts, WhatIfCode.STARTS, UsePart.HEATING, name, why, formula)
    said = (say("starts_assumed", count=seen.count, days=parts.within.days),)
    return _made(
        parts, WhatIfCode.STARTS, UsePart.HEATING, name, _share_of(seen.loss, share, SLOPE_ROUGH),
        formula, said,
        (say("starts_comfort"),),
    )  # fmt: skip


def _fewer_defrosts(parts: UseParts) -> WhatIfEffect:
    """No more defrosts than the frost asks for."""
    seen = defrosts_seen(parts.within, 0)
    name, formula = say("defrosts"), say("defrosts_formula")

    def without(why: Reason) -> WhatIfEffect:
        return _made(parts, WhatIfCode.DEFROSTS, UsePart.HEATING, name, why, formula)

    if seen.reason is not None:
        return without(seen.reason)
    if seen.expected is None or seen.cost is None or not seen.count:
        return without(because(ReasonCode.WHAT_IF_NO_FROST))
    if seen.expected >= seen.count:
        return without(
            because(
                ReasonCode.WHAT_IF_NONE_NEEDLESS, count=seen.count, expected=f"{seen.expected:.0f}"
            )
        )
    share = 1 - seen.expected / seen.count
    # The count that is expected errs as a count does, and the load by as much as its quartiles.
    rough = min(float(np.sqrt(max(seen.expected, 1.0))) / (seen.count - seen.expected) + 0.25, 1.0)
    said = (say("defrosts_assumed", count=seen.count, expected=seen.expected),)
    return _made(
        parts, WhatIfCode.DEFROSTS, UsePart.HEATING, name, _share_of(seen.cost, share, rough),
        formula,
        said, (say("defrosts_comfort"),),
    )  # fmt: skip


def _hot_water_lower(parts: UseParts, by: float) -> WhatIfEffect:
    """A lower set point of the hot water: a cooler flow at the end of charges, and less lost."""
    within, used = parts.within, parts.electricity.get(UsePart.HOT_WATER)
    name, formula = say("hot_water", by=by), say("hot_water_formula")
    found = within.found.charges
    pick = within.pick(found.start)
    known = np.isfinite(found.flow[pick]) & np.isfinite(found.outdoor[pick])
    if used is None or not known.any():
        why = because(ReasonCode.NO_CHARGE)
        return _made(parts, WhatIfCode.HOT_WATER, UsePart.HOT_WATER, name, why, formula)
    pick = pick[known]
    weight = np.nan_to_num(found.electricity[pick])
    weight = weight / weight.sum() if weight.sum() > 0 else np.full(len(pick), 1 / len(pick))
    # From the reheat band on all of a charge is cooler, from cold on only its end: between half and
    # all of the kelvins, three quarters on average.
    flow, outdoor = found.flow[pick], found.outdoor[pick]
    ratio, told = _ratio(
        within.analysis.installation.rated, outdoor, flow, np.full(len(pick), CHARGE_SHARE * by)
    )
    saved = _share_of(used, 1 - float((ratio * weight).sum()), CHARGE_ROUGH)
    seen = water_seen(within, drawn=False)
    if seen.standing is not None and seen.total is not None and seen.total.cop is not None:
        hours = (within.period.stop - within.period.start) / 3600
        heat = seen.standing.watts / seen.standing.difference * by * hours / 1000
        less = heat / seen.total.cop.value
        method = UncertaintyComponent(Source(SourceCode.STANDING_LOSS), less * SLOPE_ROUGH)
        saved = saved + Estimate(less, "kWh", (method,))
    comfort = []
    tank, warmest = within.analysis.installation.tank, seen.warmest
    if tank is not None and warmest is not None:
        litres = [
            tank.volume_l * tank.effective_share * max(t - COLD_WATER, 0) / (TAP - COLD_WATER)
            for t in (warmest, warmest - by)
        ]
        comfort.append(say("litres", now=litres[0], then=litres[1]))
    if warmest is None or warmest - by < HYGIENE:
        comfort.append(say("hygiene"))
    return _made(
        parts, WhatIfCode.HOT_WATER, UsePart.HOT_WATER, name, saved, formula,
        (_told(weight, told), say("same_water")), tuple(comfort),
    )  # fmt: skip


def _heaters_off(parts: UseParts) -> WhatIfEffect:
    """The heat of the metered heaters from the unit."""
    used = parts.electricity.get(UsePart.HEATERS)
    name, formula = say("heaters"), say("heaters_formula")
    found = [one.reckoning.cop for one in modes(parts.within) if one.reckoning.cop is not None]
    if used is None or not found:
        why = because(
            ReasonCode.WHAT_IF_HEATERS_REST if parts.heaters else ReasonCode.WHAT_IF_NO_HEATER
        )
        return _made(parts, WhatIfCode.HEATERS, UsePart.HEATERS, name, why, formula)
    cop = found[-1]  # of hot water, where it is told apart: the worse of the two
    saved = _share_of(used, 1 - 1 / cop.value, min(cop.u / cop.value + 0.1, 1.0))
    seen = water_seen(parts.within, drawn=False)
    comfort = [say("heaters_comfort")]
    if seen.reachable is not None:
        comfort.append(say("reachable", temperature=seen.reachable))
    comfort.append(say("hygiene"))
    return _made(
        parts, WhatIfCode.HEATERS, UsePart.HEATERS, name, saved, formula,
        (say("heaters_assumed", cop=cop.value),), tuple(comfort),
    )  # fmt: skip


def _other_unit(parts: UseParts, table: RatedTable) -> WhatIfEffect:
    """The settled heating of the period by another unit's table, at the same temperatures.

    Source: Σ heat ÷ rated COP at the conditions of each hour, common practice.
    """
    within = parts.within
    used, seen = parts.electricity.get(UsePart.HEATING), _heating(within)
    name, formula = say("unit", name=table.name or say("other_unit")), say("unit_formula")

    def without(why: Reason) -> WhatIfEffect:
        return _made(parts, WhatIfCode.UNIT, UsePart.HEATING, name, why, formula)

    own = within.analysis.installation.rated
    if table.kind != TableKind.WATER or (own is not None and own.kind != table.kind):
        return without(because(ReasonCode.WHAT_IF_OTHER_KIND))
    if used is None or not len(seen.flow):
        return without(because(ReasonCode.NO_SETTLED_HEATING))
    try:
        shape = surface(table)
    except TableError as error:
        return without(because(ReasonCode.WHAT_IF_TABLE, words=str(error)))
    cop = shape.cop(seen.source, seen.flow)
    inside = np.isfinite(cop)
    covered = float(seen.heat[inside].sum() / seen.heat.sum())
    if covered < LEAST_IN_TABLE:
        return without(because(ReasonCode.WHAT_IF_OUTSIDE, share=f"{covered:.0%}"))
    theirs = float((seen.heat[inside] / cop[inside]).sum())
    share = 1 - theirs / float(seen.electricity[inside].sum())
    spent = used.scaled(1 - share)
    saved = used.scaled(share)
    budget = [
        *saved.budget,
        UncertaintyComponent(Source(SourceCode.RATED_TABLE), spent.value * table.tolerance),
        UncertaintyComponent(
            Source(SourceCode.METHOD, detail=say("rough")), abs(saved.value) * 0.1
        ),
    ]
    heat = within.total(within.found.runs.start, within.found.runs.stop)
    if heat is not None and heat.heat is not None and heat.heat.value:
        budget.append(
            UncertaintyComponent(
                Source(SourceCode.HEAT_METER), spent.value * heat.heat.u / heat.heat.value
            )
        )
    capacity = shape.capacity_at(seen.source, seen.flow)
    short = np.isfinite(capacity) & (seen.given / 3600 > capacity)
    comfort = [say("unit_holds")]
    if short.any():
        lacking = float((seen.given - capacity * 3600)[short].sum()) / 3.6e6
        comfort = [say("unit_short", hours=int(short.sum()), kwh=lacking)]
    assumptions = (say("unit_assumed", share=covered), say("unit_as_rated"))
    return _made(
        parts, WhatIfCode.UNIT, UsePart.HEATING, name, Estimate(saved.value, "kWh", merge(budget)),
        formula, assumptions, tuple(comfort),
    )  # fmt: skip
