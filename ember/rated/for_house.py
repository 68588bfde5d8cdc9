"""A rated table against a house, before anything is logged: capacity and need, the balance point,
what heaters must make up, and the season in any weather."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.errors import TableError
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.basis.series import Floats, Trace
from ember.description.declared import Climate
from ember.description.house import Built, House
from ember.description.installation import RatedTable, TableKind
from ember.messages import NotAvailable, Reason, Source, because, not_available, words_of
from ember.properties.moist_air import dry_air_density, pressure_at
from ember.rated.climates import CLIMATES, NO_LOAD
from ember.rated.design import AskedFlow, asked_flow
from ember.rated.scop import ScopBin, seasonal
from ember.rated.surface import Surface, surface

say = words_of(__name__)

FOR_HOUSE_HOURS = 8760.0
FOR_HOUSE_LEAST_DAYS = 330  # of readings, for a site's own weather to stand for a year
BRINE = 0.0  # entry temperature taken for a ground source [degC], as EN 14825 has it
HEAT_OF_AIR = 1006.0  # [J/(kg K)], ASHRAE Fundamentals ch. 1
AT_SEVEN = 7.0  # outdoors, to which capacity in the cold is compared [degC]
LOSS_DESCRIBED, LOSS_BY_AGE = 0.15, 0.40  # how far a heat loss may be off, common practice
# Usual heat loss by age of the house at its design temperature [W/m2], common practice.
BY_AGE = {
    Built.BEFORE_1920: 110.0, Built.TO_1950: 110.0, Built.TO_1980: 95.0, Built.TO_2000: 65.0,
    Built.TO_2015: 45.0, Built.SINCE_2015: 30.0,
}  # fmt: skip
LEAKS = 20.0  # air changes at 50 Pa over those in use, common practice, agreed
ROOM_HEIGHT = 2.5  # [m], common practice
AIR_VOLUME = 0.335  # heat of air [Wh/(m3 K)], at 20 °C


@dataclass(frozen=True)
class Weather:
    """Hours of a year by outdoor temperature, one kelvin each. name

    Attributes
    ----------
    design : float
        usual there [degC]; outdoor [degC]
    hours : Floats
        arrays, (n,).
    """

    name: str
    design: float
    outdoor: Floats
    hours: Floats


@dataclass(frozen=True)
class Need:
    """What the house needs.

    Attributes
    ----------
    watts : float
        at design_outdoor [W], falling in a line to nothing at 16 °C
    limit : float
        how far that may be off, as a share
    words : str
        where it is from.
    leakage : float | None
        of it by air, [kW]; per_area [W/m2]; None where not described.
    """

    watts: float
    design_outdoor: float
    limit: float
    words: str
    leakage: float | None
    per_area: float | None

    def at(self, outdoor: Floats) -> Floats:
        """Need at outdoor temperatures, (n,) [degC] → [W]. Source: EN 14825."""
        share: Floats = (NO_LOAD - outdoor) / (NO_LOAD - self.design_outdoor)
        return self.watts * np.clip(share, 0.0, None)


@dataclass(frozen=True)
class At:
    """At one outdoor temperature [degC]: flow, or indoor temperature, and what is supplied by air
    [degC]; need, capacity, input [kW]; COP. None where the table does not say it."""

    outdoor: float
    flow: float
    supply: float | None
    need: float
    capacity: float | None
    input: float | None
    cop: float | None


@dataclass(frozen=True)
class ForHouse:
    """A table in a house.

    Attributes
    ----------
    reason : Reason | None
        where nothing can be said.
    lines : list[At]
        by outdoor temperature.
    balance : float | None
        where capacity meets the need [degC]
    balance_kw : float | None
        both there; None where they do not meet.
    need, capacity, makeup : float | None
        at the design temperature [kW].
    kept : float | None
        of the capacity at 7 °C, what is left there. low_limit [degC].
    heat, electricity, makeup_energy : Estimate | None
        of the year [kWh]
    spf : Estimate | None
        their quotient, the heaters in it.
    heat_per_area : float | None
        of floor [kWh/m2].
    bins : list[ScopBin]
        the sum.
    assumed_share : float
        of the heat in bins outside the table.
    notes : list[str]
        what was taken.
    """

    name: str
    pair: str | None
    reason: Reason | None
    lines: list[At] = field(default_factory=list)
    balance: float | None = None
    balance_kw: float | None = None
    design_outdoor: float | None = None
    need: float | None = None
    capacity: float | None = None
    makeup: float | None = None
    kept: float | None = None
    low_limit: float | None = None
    heat: Estimate | None = None
    electricity: Estimate | None = None
    makeup_energy: Estimate | None = None
    spf: Estimate | None = None
    heat_per_area: float | None = None
    bins: list[ScopBin] = field(default_factory=list)
    assumed_share: float = 0.0
    notes: list[str] = field(default_factory=list)


def climate_weather(climate: Climate) -> Weather:
    """A reference climate. Source: EN 14825, from memory."""
    one = CLIMATES[climate]
    outdoor = one.first + np.arange(len(one.hours), dtype=np.float64)
    name = say("climate_en", climate=climate.value)
    return Weather(name, one.design, outdoor, np.array(one.hours, np.float64))


def binned_weather(name: str, temps: Floats, hours: Floats, design: float) -> Weather:
    """Weather of outdoor temperatures, (n,) [degC], each for some hours, by the kelvin."""
    bins = np.floor(temps).astype(np.int64)
    first = int(bins.min())
    total = np.bincount(bins - first, hours).astype(np.float64)
    outdoor = first + 0.5 + np.arange(len(total), dtype=np.float64)
    use = (total > 0) & (outdoor < NO_LOAD)
    return Weather(name, design, outdoor[use], total[use])


def hourly_weather(name: str, temps: Floats) -> Weather:
    """Weather of hourly outdoor temperatures, (n,) [degC], brought to a year; the design
    temperature is that below which 1 % of its hours lie (ASHRAE's 99 %)."""
    known = temps[np.isfinite(temps)]
    share = np.full(len(known), FOR_HOUSE_HOURS / len(known))
    return binned_weather(name, known, share, float(np.percentile(known, 1)))


def logged_weather(name: str, trace: Trace, channel: str) -> Weather | NotAvailable:
    """Weather of a logged year, from its hourly means; or why it does not stand for one."""
    temps = trace[channel] if channel in trace else np.empty(0)
    per = max(3600 // trace.step, 1)
    whole = temps[: len(temps) // per * per].reshape(-1, per)
    known = np.isfinite(whole)
    with np.errstate(invalid="ignore", divide="ignore"):
        hourly: Floats = np.where(known, whole, 0.0).sum(axis=1) / known.sum(axis=1)
    days = float(np.isfinite(hourly).sum()) * max(trace.step, 3600) / 86_400
    if days < FOR_HOUSE_LEAST_DAYS:
        return not_available(ReasonCode.WEATHER_TOO_SHORT, days=f"{days:.0f}")
    return hourly_weather(name, hourly)


def need_of(house: House, weather: Weather) -> Need | NotAvailable:
    """What a house needs, or what is to be described for it.

    Source: a line to 16 °C, EN 14825; by age of the house, common practice; air changes in use are
    a twentieth of those at 50 Pa, common practice.
    """
    at = weather.design if house.design_outdoor is None else house.design_outdoor
    if at >= NO_LOAD:
        return not_available(ReasonCode.DESIGN_TOO_WARM)
    area = house.floor_area_m2
    if house.heat_loss_kw is not None:
        watts, limit, words = house.heat_loss_kw * 1000, LOSS_DESCRIBED, say("heat_loss_described")
    elif area is not None and house.built is not None:
        watts, limit = BY_AGE[house.built] * area, LOSS_BY_AGE
        words = say("usual_age_floor", by_age=BY_AGE[house.built])
    else:
        return not_available(ReasonCode.HEAT_LOSS_NOT_DESCRIBED)
    leakage = None
    if area is not None and house.airtightness_ach50 is not None:
        changes = house.airtightness_ach50 / LEAKS
        leakage = changes * area * ROOM_HEIGHT * AIR_VOLUME * (house.design_indoor - at) / 1000
    return Need(watts, at, limit, words, leakage, watts / area if area else None)


@lru_cache(maxsize=512)
def by_table_alone(
    table: RatedTable, house: House, low_limit: float | None, least_share: float | None
) -> str | None:
    """What a table says of a house in the average climate, in one sentence, before anything is
    logged; None where the house is not described."""
    weather = climate_weather(Climate.AVERAGE)
    try:
        found = for_house(table, house, weather, "", low_limit, least_share)
    except TableError:  # a table that spans no area says nothing; Rating says why
        return None
    said = []
    if found.spf is not None:
        said.append(say("expected_spf", spf=found.spf, name=weather.name))
    if found.makeup:
        said.append(say("heaters_make_up", makeup=found.makeup))
    if found.balance is not None:
        said.append(say("balance_point", balance=found.balance))
    return say("rated_table", said=", ".join(said)) if said else None


def for_house(
    table: RatedTable,
    house: House,
    weather: Weather,
    name: str,
    low_limit: float | None = None,
    least_share: float | None = None,
    airflow: float | None = None,
    altitude: float = 0.0,
) -> ForHouse:
    """A table against a house in some weather.

    Parameters
    ----------
    low_limit : float | None
        outdoors, below which the unit stops [degC].
    least_share : float | None
        of its capacity, down to which it goes.
    airflow : float | None
        indoors [m3/h], for the supply temperature; altitude [m].

    A table without capacities is taken to carry the house alone; one without COPs gives no
    electricity. Source: bin method as EN 14825; supply temperature = room + capacity ÷ (ρ·c·V̇).
    """
    need = need_of(house, weather)
    if isinstance(need, NotAvailable):
        return _none(table, name, need.reason)
    flowing = _flow(table, house, weather.outdoor, need.design_outdoor)
    if flowing is None:
        return _none(table, name, because(ReasonCode.HOUSE_FLOW_NOT_DESCRIBED))
    limit = table.low_outdoor_limit if low_limit is None else low_limit
    shape = surface(table, table.speeds[-1] if table.gives_capacity else table.main, airflow)

    def season(loss: float = 1.0, warmer: float = 0.0) -> list[ScopBin]:
        return _season(table, shape, weather, need, flowing.flow + warmer, limit, least_share, loss)

    bins = season()
    heat, used, _ = _sums(bins)
    gives = table.gives_cop
    grid = np.arange(min(np.floor(need.design_outdoor), weather.outdoor[0]), NO_LOAD + 0.5)
    lines = _lines(table, shape, house, need, grid, limit, _blown(table, airflow), altitude)
    asked = [
        (SourceCode.HEAT_LOSS, need.limit, {"loss": 1 + need.limit}),
        (SourceCode.FLOW_TEMPERATURE, flowing.limit, {"warmer": flowing.limit}),
    ]

    def estimate(of: Callable[[list[ScopBin]], float], unit: str, table_acts: float) -> Estimate:
        value = of(bins)
        parts = [
            UncertaintyComponent(Source(source), rectangular(of(season(**change)) - value))
            for source, _, change in asked
            if not ("warmer" in change and table.kind == TableKind.AIR)
        ]
        parts.append(
            UncertaintyComponent(
                Source(SourceCode.RATED_TABLE), value * rectangular(table.tolerance) * table_acts
            )
        )
        return Estimate(value, unit, tuple(p for p in parts if p.u))

    design = _lines(
        table, shape, house, need, np.array([need.design_outdoor, AT_SEVEN]), limit, None, altitude
    )
    cold, mild = design[0].capacity, design[1].capacity
    assumed = sum(b.heat for b in bins if b.assumed) / heat if heat else 0.0
    area = house.floor_area_m2
    return ForHouse(
        name,
        table.pair,
        None,
        lines,
        *_balance(lines),
        need.design_outdoor,
        need.watts / 1000,
        cold,
        None if cold is None else max(need.watts / 1000 - cold, 0.0),
        cold / mild if cold and mild else None,
        limit,
        estimate(lambda b: _sums(b)[0], "kWh", 0.0),
        estimate(lambda b: _sums(b)[1], "kWh", -1.0) if gives and used else None,
        estimate(lambda b: _sums(b)[2], "kWh", 0.0) if table.gives_capacity else None,
        estimate(lambda b: _sums(b)[0] / _sums(b)[1], "", 1.0) if gives and used else None,
        heat / area if area else None,
        bins,
        assumed,
        _said(table, need, flowing.words, assumed, limit, least_share),
    )


def _flow(table: RatedTable, house: House, outdoor: Floats, design: float) -> AskedFlow | None:
    """Of a water or brine table the flow that the house asks for; of air the room's temperature."""
    if table.kind == TableKind.AIR:
        room = house.design_indoor
        return AskedFlow(np.full(len(outdoor), room), 0.0, say("room", room=room))
    return asked_flow(house, outdoor, design)


def _season(
    table: RatedTable,
    shape: Surface,
    weather: Weather,
    need: Need,
    flow: Floats,
    limit: float | None,
    least_share: float | None,
    loss: float,
) -> list[ScopBin]:
    """The bins; below the unit's limit heaters carry everything."""
    outdoor, hours = weather.outdoor, weather.hours
    load = loss * need.at(outdoor)
    source = np.full(len(outdoor), BRINE) if table.kind == TableKind.GROUND else outdoor
    bins = seasonal(table, source, hours, load, flow, least_share)
    found = []
    for one, out in zip(bins, outdoor.tolist(), strict=True):
        one = replace(one, outdoor=out)
        if limit is not None and out < limit:
            one = replace(
                one, capacity=0.0, cop=1.0, backup=one.load, electricity=one.heat, assumed=False
            )
        found.append(one)
    return found


def _sums(bins: list[ScopBin]) -> tuple[float, float, float]:
    """Heat, electricity, and what heaters make [kWh]."""
    return (
        sum(b.heat for b in bins),
        sum(b.electricity for b in bins),
        sum(b.backup * b.hours for b in bins),
    )


def _blown(table: RatedTable, airflow: float | None) -> float | None:
    """Airflow indoors [m3/h]: as given, else the middle one of the table."""
    rows = sorted({p.airflow_m3h for p in table.points if p.airflow_m3h is not None})
    if airflow is not None or not rows:
        return airflow
    return rows[len(rows) // 2]


def _lines(
    table: RatedTable,
    shape: Surface,
    house: House,
    need: Need,
    grid: Floats,
    limit: float | None,
    airflow: float | None,
    altitude: float,
) -> list[At]:
    flowing = _flow(table, house, grid, need.design_outdoor)
    assert flowing is not None
    source = np.full(len(grid), BRINE) if table.kind == TableKind.GROUND else grid
    cop = shape.cop(source, flowing.flow)
    capacity = shape.capacity_at(source, flowing.flow)
    if limit is not None:
        capacity, cop = np.where(grid < limit, 0.0, capacity), np.where(grid < limit, np.nan, cop)
    wanted = need.at(grid)
    supply = np.full(len(grid), np.nan)
    if table.kind == TableKind.AIR and airflow is not None:
        density = dry_air_density(
            np.array([house.design_indoor]), np.array([0.0]), pressure_at(altitude)
        )
        carried = float(density[0]) * HEAT_OF_AIR * airflow / 3600
        supply = house.design_indoor + capacity / carried

    def known(value: float) -> float | None:
        return float(value) if np.isfinite(value) else None

    with np.errstate(invalid="ignore", divide="ignore"):
        used = capacity / cop
    return [
        At(
            float(grid[k]),
            float(flowing.flow[k]),
            known(supply[k]),
            float(wanted[k]) / 1000,
            known(capacity[k] / 1000),
            known(used[k] / 1000),
            known(cop[k]),
        )
        for k in range(len(grid))
    ]


def _balance(lines: list[At]) -> tuple[float | None, float | None]:
    """The outdoor temperature at which capacity meets the need, the warmest of several [degC], and
    what both are there [kW]."""
    known = [
        (one.outdoor, one.capacity - one.need, one.need)
        for one in lines
        if one.capacity is not None
    ]
    for (cold, short, more), (warm, spare, less) in reversed(list(pairwise(known))):
        if short < 0 <= spare:
            place = -short / (spare - short)
            return cold + (warm - cold) * place, more + (less - more) * place
    return None, None


def _said(
    table: RatedTable,
    need: Need,
    flow: str,
    assumed: float,
    limit: float | None,
    least_share: float | None,
) -> list[str]:
    found = [
        say(
            "need_kw_falling",
            words=need.words,
            watts=need.watts / 1000,
            design_outdoor=need.design_outdoor,
            no_load=NO_LOAD,
            limit=need.limit,
        ),
        say("taken", flow=flow),
    ]
    if need.leakage is not None:
        found.append(say("need_about_kw", leakage=need.leakage))
    if table.kind == TableKind.GROUND:
        found.append(say("brine_enters_throughout", brine=BRINE))
    if not table.gives_capacity:
        found.append(say("table_no_capacity"))
    elif len(table.speeds) < 2 and least_share is None:
        found.append(say("table_one_speed"))
    elif len(table.speeds) < 2:
        found.append(say("table_one_speed_cop", least_share=least_share))
    if not table.gives_cop:
        found.append(say("table_no_cop"))
    if assumed > 0.005:
        found.append(say("heat_lies_weather", assumed=assumed))
    if limit is None:
        found.append(say("no_low_outdoor"))
    if not table.includes_defrost:
        found.append(say("table_leaves_out"))
    return found


def _none(table: RatedTable, name: str, why: Reason) -> ForHouse:
    return ForHouse(name, table.pair, why, low_limit=table.low_outdoor_limit)
