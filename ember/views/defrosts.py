"""Defrosts of a period: what they took, and whether the air asked for them."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import local_from_utc, wall_clock
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.practice import NIGHT
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent
from ember.basis.series import Floats, Ints
from ember.events.defrost_judgement import Judged, judged, needless, overdue
from ember.events.defrosts import How
from ember.messages import Reason, Source, because
from ember.operation.within import Spread, Within, middle, money, one, quartiles
from ember.states import Basis

DEFROSTS_OUTDOOR_STEP = 2.0  # of the map [K]
HUMIDITY_STEP = 10.0  # [%]
DEFROSTS_ROWS = 5000
THAW = 1200.0  # of rest, after which frost is gone in mild air [s], common practice
THAW_ABOVE = 1.0  # [degC]


@dataclass(frozen=True)
class DefrostRow:
    """One defrost. start [s], length [s]

    Attributes
    ----------
    interval : float | None
        running time since the one before [s]. electricity, taken, cost [kWh].
    back_after : float | None
        until the COP is back at 90 % [s].
    potential : float | None
        mean while running before it [g/kg].
    """

    start: float
    length: float
    interval: float | None
    electricity: float | None
    taken: float | None
    cost: float | None
    back_after: float | None
    outdoor: float | None
    humidity: float | None
    potential: float | None
    ended: str
    marks: list[str]


@dataclass(frozen=True)
class MapCell:
    """Defrosts between two outdoor temperatures [degC] and humidities [%].

    Attributes
    ----------
    hours : float
        of running.
    potential : float
        mean while running [g/kg].
    interval : float | None
        median of running time between them [min]
    expected : float | None
        from the unit's own frost load.
    """

    outdoor: float
    humidity: float
    hours: float
    potential: float
    defrosts: int
    interval: float | None
    expected: float | None


@dataclass(frozen=True)
class Month:
    """Defrosts of a calendar month, of which at night (22 to 6), and their cost [kWh]."""

    month: str
    defrosts: int
    night: int
    cost: float | None


@dataclass(frozen=True)
class DefrostNote:
    """One judgement, in words."""

    code: Judged
    count: int
    words: str


@dataclass(frozen=True)
class DefrostsSeen:
    """Defrosts of a period.

    Attributes
    ----------
    basis : str
        how they are known. count
    expected : float | None
        by the potential and the unit's own load of frost, None where that is not learned.
    night : int
        between 22 and 6.
    length, interval, back_after : Spread | None
        quartiles [s].
    electricity, taken, recovery, cost : Estimate | None
        all together [kWh]
    taken_cost : float | None
        electricity for what was taken [kWh]
    share : float | None
        of the electricity of the period.
    approach : str | None
        how the coil is known, in words. surely_idle : how many the air did not ask for. single :
        whether single ones could be summed.
    """

    level: str | None
    reason: Reason | None
    basis: str
    count: int
    expected: float | None
    night: int
    night_share: float
    length: Spread | None
    interval: Spread | None
    back_after: Spread | None
    electricity: Estimate | None
    taken: Estimate | None
    taken_cost: float | None
    recovery: Estimate | None
    cost: Estimate | None
    money: Estimate | None
    share: float | None
    ended: dict[str, int]
    approach: str | None
    load: float | None
    said: list[DefrostNote]
    map: list[MapCell]
    by_hour: list[int]
    months: list[Month]
    rows: list[DefrostRow]


def defrosts_seen(within: Within, rows: int = DEFROSTS_ROWS, drawn: bool = True) -> DefrostsSeen:
    """Defrosts that begin in a period.

    Parameters
    ----------
    rows : int
        how many of them one by one, the latest first.
    drawn : bool
        with what a screen draws and lists: the map of the air, the months and the rows.

    Source: intervals common practice; potential as in `ember.events.frost`.
    """
    found, facts = within.found.defrosts, within.analysis.facts
    why = None
    if facts.defrosts_by == Basis.NOT_KNOWN:
        why = because(ReasonCode.DEFROSTS_NOT_KNOWN, words=facts.basis["defrost"].words)
    elif within.analysis.swapped:
        why = because(ReasonCode.DEFROSTS_SWAPPED)
    pick = within.pick(found.start) if why is None else np.empty(0, np.int64)
    learned = within.found.frost
    instants = np.array(within.instants(found.start[pick]), np.int64)
    zone = within.analysis.zone
    hour = local_from_utc(instants, zone) % 86_400 // 3600
    night = (hour >= NIGHT[0]) | (hour < NIGHT[1])
    how = np.bincount(found.ended[pick], minlength=len(How)).tolist()
    electricity, taken = _metered(within, pick)
    recovery, cost = _worked_out(within, pick, electricity)
    used = _in_period(within)
    marks = needless(found), overdue(found, learned)
    return DefrostsSeen(
        level=within.found.level,
        reason=why,
        basis=facts.basis["defrost"].words,
        count=len(pick),
        expected=_expected(within) if why is None else None,
        night=int(night.sum()),
        night_share=float(night.mean()) if len(night) else 0.0,
        length=quartiles(((found.stop - found.start)[pick] * within.found.step).astype(float)),
        interval=quartiles(found.running[pick]),
        back_after=quartiles(found.back_after[pick]),
        electricity=electricity,
        taken=taken,
        taken_cost=_taken_cost(within, pick),
        recovery=recovery,
        cost=cost,
        money=money(cost, within.price(), within.currency),
        share=cost.value / used if cost is not None and used else None,
        ended={How(k).words: n for k, n in enumerate(how) if n},
        approach=learned.by if learned else None,
        load=learned.load if learned else None,
        said=[
            DefrostNote(j.kind, j.count, j.words)
            for j in judged(
                found,
                learned,
                pick,
                within.found.step,
                within.analysis.described.thresholds,
            )
        ],
        map=_map(within, pick) if drawn else [],
        by_hour=np.bincount(hour, minlength=24).tolist() if len(hour) else [0] * 24,
        months=_months(within, pick, instants, night) if drawn else [],
        rows=[_row(within, k, marks) for k in pick[::-1][: rows if drawn else 0].tolist()],
    )


def _in_period(within: Within) -> float | None:
    """All electricity of the period at the level [kWh]."""
    first, last = within.cell(within.period.start), within.cell(within.period.stop)
    whole = within.total(np.array([first]), np.array([last]))
    return whole.electricity.value if whole is not None and whole.covered else None


def _metered(within: Within, pick: Ints) -> tuple[Estimate | None, Estimate | None]:
    """Electricity of the defrosts, and heat taken back, positive."""
    found = within.found.defrosts
    total = within.total(found.start[pick], found.stop[pick])
    if total is None or not total.covered:
        return None, None
    return total.electricity, total.heat.scaled(-1.0) if total.heat is not None else None


def _worked_out(
    within: Within, pick: Ints, electricity: Estimate | None
) -> tuple[Estimate | None, Estimate | None]:
    """Recovery and cost of all together. Their error: that of the electricity meter, and of the
    moments at which each begins and ends, to half a cell of its power (GUM 4.3.7)."""
    found = within.found.defrosts
    cost, recovery = found.cost[pick], found.recovery[pick]
    known = np.isfinite(cost)
    if electricity is None or not known.any() or within.analysis.cop_reason:
        return None, None
    share = electricity.u / electricity.value if electricity.value else 0.0
    length = np.maximum(found.stop - found.start, 1)[pick][known]
    power = (found.electricity[pick][known] + found.taken[pick][known] / found.cop[pick][known]) / (
        length * within.found.step
    )
    moment = float(np.sqrt(((power * within.found.step) ** 2).sum() / 6)) / KWH

    def estimate(values: Floats) -> Estimate:
        value = float(np.nansum(values)) / KWH
        return Estimate(
            value,
            "kWh",
            (
                UncertaintyComponent(Source(SourceCode.ELECTRICITY_METER), value * share),
                UncertaintyComponent(Source(SourceCode.BEGIN_AND_END), moment, True),
            ),
        )

    return estimate(recovery[known]), estimate(cost[known])


def _taken_cost(within: Within, pick: Ints) -> float | None:
    """Electricity that made the heat taken back, by the COP before each [kWh]."""
    found = within.found.defrosts
    with np.errstate(invalid="ignore", divide="ignore"):
        cost = found.taken[pick] / found.cop[pick]
    known = np.isfinite(cost)
    return float(cost[known].sum()) / KWH if known.any() else None


def _expected(within: Within) -> float | None:
    """How many defrosts the potential asks for, by the unit's own load of frost. Frost that is left
    when the unit rests in mild air melts without one."""
    learned, table = within.found.frost, within.found.runs
    if learned is None or not learned.load:
        return None
    pick = within.pick(table.start)
    if not len(pick):
        return 0.0
    with np.errstate(invalid="ignore"):
        thawed = ~(table.pause[pick] < THAW) & ~(table.outdoor[pick] < THAW_ABOVE)
    chain = np.cumsum(thawed)
    grown = np.bincount(chain, np.nan_to_num(table.frost[pick])) / learned.load
    return float(np.floor(grown).sum())


def _map(within: Within, pick: Ints) -> list[MapCell]:
    """Defrosts over outdoor temperature × humidity."""
    of, learned = within.found.hours.of, within.found.frost
    inside = within.hours() & np.isfinite(of["outdoor"]) & np.isfinite(of["humidity"])
    inside &= (of["on"] > 0) & (of["outdoor"] < 12.0)
    found = within.found.defrosts

    def cell(outdoor: Floats, humidity: Floats) -> Ints:
        row = np.floor(np.nan_to_num(outdoor, nan=-99) / DEFROSTS_OUTDOOR_STEP).astype(np.int64)
        column = np.floor(np.minimum(np.nan_to_num(humidity, nan=-99), 99.9) / HUMIDITY_STEP)
        result: Ints = row * 100 + column.astype(np.int64)
        return result

    where = cell(of["outdoor"], of["humidity"])
    mine = cell(found.outdoor[pick], found.humidity[pick])
    cells = []
    for key in np.unique(where[inside]).tolist():
        here = inside & (where == key)
        ran = float(of["on"][here].sum())
        frost = float(np.nansum(of["frost"][here]))
        these = pick[mine == key]
        expected = None
        if learned is not None and learned.load and frost > 0:
            expected = learned.load / (frost / ran) / 60
        column = key % 100
        interval = middle(found.running[these])
        cells.append(
            MapCell(
                (key - column) / 100 * DEFROSTS_OUTDOOR_STEP,
                column * HUMIDITY_STEP,
                ran / 3600,
                frost / ran * 1000 if ran else 0.0,
                len(these),
                None if interval is None else interval / 60,
                expected,
            )
        )
    return cells


def _months(within: Within, pick: Ints, instants: Ints, night: np.ndarray) -> list[Month]:
    names = [wall_clock(t, within.analysis.zone).strftime("%Y-%m") for t in instants.tolist()]
    cost = within.found.defrosts.cost[pick]
    found = []
    for name in dict.fromkeys(names):
        here = np.array([n == name for n in names])
        paid = cost[here]
        total = float(np.nansum(paid)) / KWH if np.isfinite(paid).any() else None
        found.append(Month(name, int(here.sum()), int(night[here].sum()), total))
    return found


def _row(within: Within, k: int, marks: tuple[np.ndarray, np.ndarray]) -> DefrostRow:
    found, step = within.found.defrosts, within.found.step
    named = [name for name, mask in zip(("needless", "overdue"), marks, strict=True) if mask[k]]
    if found.ended[k] == How.TIME_LIMIT:
        named.append("time limit")
    return DefrostRow(
        start=within.instants(found.start[[k]])[0],
        length=float(found.stop[k] - found.start[k]) * step,
        interval=one(found.running, k),
        electricity=one(found.electricity, k, 1 / KWH),
        taken=one(found.taken, k, 1 / KWH),
        cost=one(found.cost, k, 1 / KWH),
        back_after=one(found.back_after, k),
        outdoor=one(found.outdoor, k),
        humidity=one(found.humidity, k),
        potential=one(found.potential, k, 1000.0),
        ended=How(int(found.ended[k])).words,
        marks=named,
    )
