"""Runs of a period: the table, how long they are, how often they start, and what rest costs."""

from dataclasses import dataclass

import numpy as np

from ember.balance.sums import ratios_of
from ember.basis.clock import local_from_utc
from ember.basis.quantity import KWH, Estimate, added
from ember.description.installation import Consumer
from ember.description.thresholds import Thresholds
from ember.events.runs import MANY_AN_HOUR, RUNS_SHORT, Ended, most_in_an_hour
from ember.messages import words_of
from ember.operation.within import Within, finite, middle, one
from ember.reckoning.tally import Tally, validity
from ember.states.state import Known, State

say = words_of(__name__)

RUNS_FEW = 10  # runs, from which short cycling is spoken of
LENGTHS = (0, 5, 10, 20, 40, 80, 160, 320)  # [min]
SPARK = (2, 4, 6, 8, 10, 14, 18, 22, 26, 29)  # minutes since the start
LEAST_COMPARED = (
    300.0  # of running that fits the table, for a run to be judged [s], common practice
)
RUNS_ORDERS = ("time", "length", "electricity", "heat", "cop", "outdoor", "pause")


@dataclass(frozen=True)
class Which:
    """Which runs to list.

    Attributes
    ----------
    by : str | None
        one of RUNS_ORDERS but the time; None for no limit.
    least, most : float | None
        of it, in its unit: length, pause [s], electricity, heat [kWh], outdoor [degC].
    mode : str | None
        in words; None for all.
    """

    by: str | None = None
    least: float | None = None
    most: float | None = None
    mode: str | None = None


@dataclass(frozen=True)
class RunRow:
    """One run. start, stop [s].

    Attributes
    ----------
    mode, ended : str
        in words. electricity, heat [kWh]
    cop : Estimate | None
        at the level; cop is the EER where it cools. outdoor, flow [degC], humidity [%] : means.
    pause : float | None
        before it [s].
    since_start : list[float | None]
        COP since the start at the minutes of `minutes`.
    ratio : Estimate | None
        performance ratio of the running that fits the table.
    paid : Estimate | None
        for all metered electricity meanwhile, at the prices of its moments.
    """

    start: float
    stop: float
    mode: str
    electricity: Estimate | None
    heat: Estimate | None
    cop: Estimate | None
    outdoor: float | None
    humidity: float | None
    flow: float | None
    pause: float | None
    defrosts: int
    ended: str
    since_start: list[float | None]
    ratio: Estimate | None
    paid: Estimate | None


@dataclass(frozen=True)
class Length:
    """Runs between two lengths [min]; high is None for the longest.

    Attributes
    ----------
    electricity : float | None
        share
    short : bool
        so short that a run hardly settles.
    """

    low: float
    high: float | None
    runs: int
    electricity: float | None
    short: bool


@dataclass(frozen=True)
class RunsSeen:
    """Runs of a period. count of them

    Attributes
    ----------
    rows : list[RunRow]
        one page of those that were asked for, in the order asked for
    fit : int
        how many were asked for, on all pages
    modes : list[str]
        what the unit did in them.
    starts_a_day : float | None
        None for less than a day.
    most_an_hour : int
        most starts within an hour, with the instant [s]
    too_many : bool
        six and more.
    short : int
        how many of those that ended by themselves, `ended`, were under ten minutes
    mostly_short : bool
        more of them than the analyst's limit.
    minutes : float | None
        median length.
    run_fraction : float | None
        share of the known time with the unit running.
    standby, pump_only : Estimate | None
        electricity at rest, and of the pump while nothing is made [kWh]; hours of each.
    cycling : str | None
        what that means, in words; None where nothing is wrong.
    basis : dict[str, Known]
        state or event → how it is known
    notes : list[str]
        what could not be told.
    """

    level: str | None
    count: int
    starts_a_day: float | None
    most_an_hour: int
    most_at: float | None
    too_many: bool
    short: int
    ended: int
    short_share: float
    mostly_short: bool
    minutes: float | None
    run_fraction: float | None
    lengths: list[Length]
    by_hour: list[int]
    standby: Estimate | None
    standby_hours: float
    pump_only: Estimate | None
    pump_only_hours: float
    cycling: str | None
    basis: dict[str, Known]
    notes: list[str]
    minutes_shown: list[int]
    rows: list[RunRow]
    fit: int
    modes: list[str]


def runs_seen(
    within: Within,
    order: str = "time",
    descending: bool = False,
    first: int = 0,
    count: int = 100,
    which: Which = Which(),
) -> RunsSeen:
    """Runs that begin in a period.

    Parameters
    ----------
    order : str
        one of RUNS_ORDERS.
    first, count : int
        which rows of that order.
    which : Which
        which of the period's runs to list; all else is said of every one.

    Raises
    ------
    ValueError
        for another order.
    """
    table, step = within.found.runs, within.found.step
    pick = within.pick(table.start)
    length = (table.stop - table.start) * step
    by_itself = pick[
        (table.begun[pick] > 0)
        & (table.ended[pick] != Ended.READINGS)
        & (table.ended[pick] != Ended.STILL_RUNNING)
    ]
    lengths = length[by_itself]
    short = int(np.count_nonzero(lengths < RUNS_SHORT))
    share = short / len(lengths) if len(lengths) else 0.0
    most = most_in_an_hour(table.start[pick], step)
    at = None
    if most:
        starts = table.start[pick]
        last = np.searchsorted(starts, starts + 3600 // step)
        at = within.instants(starts[[int((last - np.arange(len(starts))).argmax())]])[0]
    of = within.found.hours.of
    inside = within.hours()
    known = float(inside.sum()) * 3600 - float(of["unknown"][inside].sum())
    standby, pump_only = at_rest(within)
    limits = within.analysis.described.thresholds
    listed = pick[_fits(within, pick, which)]
    return RunsSeen(
        level=within.found.level,
        count=len(pick),
        starts_a_day=len(pick) / within.days if within.days >= 0.99 else None,
        most_an_hour=most,
        most_at=at,
        too_many=most >= limits.starts_an_hour,
        short=short,
        ended=len(by_itself),
        short_share=share,
        mostly_short=share > limits.short_runs,
        minutes=middle(lengths / 60),
        run_fraction=float(of["on"][inside].sum()) / known if known > 0 else None,
        lengths=_lengths(within, by_itself, lengths / 60),
        by_hour=_by_hour(within, pick),
        standby=standby,
        standby_hours=float(of["standby"][inside].sum()) / 3600,
        pump_only=pump_only,
        pump_only_hours=float(of["pump_only"][inside].sum()) / 3600,
        cycling=_cycling(len(pick), most, share, limits),
        basis=dict(within.analysis.facts.basis),
        notes=list(within.found.notes),
        minutes_shown=list(SPARK),
        rows=_rows(within, _ordered(within, listed, order, descending)[first : first + count]),
        fit=len(listed),
        modes=[State(int(mode)).words for mode in np.unique(table.mode[pick])],
    )


def _cycling(count: int, most: int, share: float, limits: Thresholds) -> str | None:
    if most >= limits.starts_an_hour:
        return say("starts_within_hour", most=most, starts_an_hour=limits.starts_an_hour)
    if count >= RUNS_FEW and share > limits.short_runs:
        return say("runs_shorter_than", share=share)
    if most > MANY_AN_HOUR:
        return say("starts_within_hour_most", most=most)
    return None


def _lengths(within: Within, pick: np.ndarray, minutes: np.ndarray) -> list[Length]:
    energy = within.found.runs.electricity[pick]
    total = float(np.nansum(energy))
    found = []
    for low, high in zip(LENGTHS, (*LENGTHS[1:], None), strict=True):
        here = (minutes >= low) & (minutes < (np.inf if high is None else high))
        share = float(np.nansum(energy[here])) / total if total else None
        short = high is not None and high * 60 <= RUNS_SHORT
        found.append(Length(low, high, int(here.sum()), share, short))
    return found


def _by_hour(within: Within, pick: np.ndarray) -> list[int]:
    """Starts by the local hour of the day, 24 numbers."""
    instants = np.array(within.instants(within.found.runs.start[pick]), np.int64)
    if not len(instants):
        return [0] * 24
    hour = local_from_utc(instants, within.analysis.zone) % 86_400 // 3600
    counts: list[int] = np.bincount(hour, minlength=24).tolist()
    return counts


def at_rest(within: Within) -> tuple[Estimate | None, Estimate | None]:
    """Electricity while the unit rests, at the level; of the pump while nothing is made."""
    segments, installation = within.analysis.segments, within.analysis.installation
    groups = np.where(segments.within(within.period.start, within.period.stop), 0, -1)
    standby = None
    combination = within.combination
    if combination is not None:
        names = tuple(dict.fromkeys(n for _, n in combination.electricity))
        counted, _ = validity(segments, names)
        tally = Tally(segments, names, counted, groups, 1)
        parts = [
            tally.state(name, state).scaled(sign)
            for sign, name in combination.electricity
            for state in (State.OFF, State.STANDBY)
        ]
        standby = added(parts, 1)[0] if parts else None
    pump = None
    held = [(m.name, m.includes) for m in installation.electricity]
    held += [(m.name, m.includes) for m in installation.fixed]
    for name, includes in held:
        if set(includes) == {Consumer.DISTRIBUTION_PUMP} and name in segments.meters:
            counted, _ = validity(segments, (name,))
            tally = Tally(segments, (name,), counted, groups, 1)
            pump = tally.state(name, State.PUMP_OVERRUN)[0]
    return standby, pump


def _values(within: Within, pick: np.ndarray, order: str) -> np.ndarray:
    """What runs are ordered and chosen by; length, pause [s], energies [kWh], outdoor [degC]."""
    table, step = within.found.runs, within.found.step
    with np.errstate(invalid="ignore", divide="ignore"):
        of = {
            "time": table.start,
            "length": (table.stop - table.start) * step,
            "electricity": table.electricity / KWH,
            "heat": table.heat / KWH,
            "cop": table.heat / table.electricity,
            "outdoor": table.outdoor,
            "pause": table.pause,
        }
    if order not in of:
        raise ValueError(f"order: '{order}' is none of {', '.join(RUNS_ORDERS)}.")
    values: np.ndarray = of[order][pick].astype(np.float64)
    return values


def _fits(within: Within, pick: np.ndarray, which: Which) -> np.ndarray:
    fits = np.ones(len(pick), np.bool_)
    if which.by is not None:
        values = _values(within, pick, which.by)
        with np.errstate(invalid="ignore"):
            if which.least is not None:
                fits &= values >= which.least
            if which.most is not None:
                fits &= values <= which.most
    if which.mode is not None:
        modes = [State(int(mode)).words for mode in within.found.runs.mode[pick]]
        fits &= np.array([mode == which.mode for mode in modes], np.bool_)
    return fits


def _ordered(within: Within, pick: np.ndarray, order: str, descending: bool) -> np.ndarray:
    values = _values(within, pick, order)
    unknown = np.isnan(values)
    ranked = np.lexsort((np.where(unknown, 0.0, -values if descending else values), unknown))
    result: np.ndarray = pick[ranked]
    return result


def _rows(within: Within, shown: np.ndarray) -> list[RunRow]:
    table = within.found.runs
    order = np.argsort(table.start[shown])
    first, last = table.start[shown][order], table.stop[shown][order]
    sums = within.sums(first, last)
    chills = within.sums(first, last, True) if (table.mode[shown] == State.COOLING).any() else sums
    place = np.empty(len(shown), np.int64)
    place[order] = np.arange(len(shown))
    paid = within.paid(first, last)
    ratios = ratios_of(within.analysis, within.groups(first, last), len(first), LEAST_COMPARED)
    starts = within.instants(table.start[shown])
    stops = within.instants(table.stop[shown])
    rows = []
    for k, run in enumerate(shown.tolist()):
        mode = State(int(table.mode[run]))
        of = chills if mode == State.COOLING else sums
        summed = of[int(place[k])] if of else None
        cop = summed.cop if summed else None
        rows.append(
            RunRow(
                start=starts[k],
                stop=stops[k],
                mode=mode.words,
                electricity=summed.electricity if summed else None,
                heat=summed.heat if summed else None,
                cop=cop,
                outdoor=one(table.outdoor, run),
                humidity=one(table.humidity, run),
                flow=one(table.flow, run),
                pause=one(table.pause, run),
                defrosts=int(table.defrosts[run]),
                ended=Ended(int(table.ended[run])).words,
                since_start=_since_start(within, run),
                ratio=ratios[int(place[k])],
                paid=paid[int(place[k])],
            )
        )
    return rows


def _since_start(within: Within, run: int) -> list[float | None]:
    """COP since the start, at the minutes of SPARK."""
    found = within.found.starts
    if found is None:
        return []
    k = int(np.searchsorted(found.run, run))
    if k >= len(found.run) or found.run[k] != run:
        return []
    with np.errstate(invalid="ignore", divide="ignore"):
        cop = np.cumsum(found.heat[k].astype(float)) / np.cumsum(found.power[k].astype(float))
    at = [min(len(cop) - 1, round(60 * minute / found.step)) for minute in SPARK]
    return finite(cop[at])
