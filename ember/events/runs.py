"""Runs: compressor on → off, what each took and gave, and what ended it."""

from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from ember.basis.series import Floats, Ints
from ember.events.cells import CellArrays, at, means, sums
from ember.messages import words_of
from ember.states.state import State

say = words_of(__name__)

RUNS_SHORT = 600.0  # a run that never reaches efficiency [s], common practice, agreed
MANY_AN_HOUR = 3  # starts, the most that is sensible, common practice, agreed
OVER_CURVE = 2.0  # above its own mean that the flow temperature stands at a run's end [K]
TANK_REACHED = 1.5  # below the usual warmest that a tank is at a charge's end [K]


class Ended(IntEnum):
    """What ended a run, as far as the readings tell."""

    NO_CALL = 0
    FLOW_WARM = 1
    TANK_WARM = 2
    TANK_GIVEN_UP = 3
    READINGS = 4
    STILL_RUNNING = 5

    @property
    def words(self) -> str:
        """For people."""
        return {
            Ended.NO_CALL: say("no_more_call"),
            Ended.FLOW_WARM: say("flow_temperature_reached"),
            Ended.TANK_WARM: say("tank_set_point"),
            Ended.TANK_GIVEN_UP: say("hot_water_given"),
            Ended.READINGS: say("readings_stop"),
            Ended.STILL_RUNNING: say("still_running"),
        }[self]


@dataclass(frozen=True)
class Runs:
    """All runs of a record, arrays (k,).

    Attributes
    ----------
    start, stop : Ints
        cells.
    mode : Ints
        the State in which most of it was spent, without start-up and defrost.
    heat, electricity : Floats
        [J], NaN where something is unknown.
    outdoor, humidity, flow : Floats
        means [degC], [%], [degC].
    pause : Floats
        since the run before [s], NaN where that is not known.
    defrosts : Ints
        how many.
    ended : Ints
        code of Ended.
    begun : Ints
        whether the start itself was seen.
    frost : Floats
        potential × time [kg/kg·s], NaN where humidity is not known.
    """

    start: Ints
    stop: Ints
    mode: Ints
    heat: Floats
    electricity: Floats
    outdoor: Floats
    humidity: Floats
    flow: Floats
    pause: Floats
    defrosts: Ints
    ended: Ints
    begun: Ints
    frost: Floats

    def __len__(self) -> int:
        return len(self.start)


def runs(cells: CellArrays, frosting: Floats | None = None) -> Runs:
    """The table of runs.

    Parameters
    ----------
    frosting : array, (n,)
        Frosting potential in each cell [kg/kg].

    Source: what ended a run, common practice.
    """
    state, step, n = cells.states.state, cells.step, len(cells)
    spans = cells.states.runs
    start = np.array([span.start for span in spans], np.int64)
    stop = np.array([span.stop for span in spans], np.int64)
    in_mode = {
        mode: sums((state == mode).astype(np.float64), start, stop)
        for mode in (State.HEATING, State.HOT_WATER, State.COOLING, State.RUNNING)
    }
    amounts = np.array(list(in_mode.values())).reshape(4, -1)
    amounts[0] += 0.5  # a run of nothing but start-up heats
    mode = np.array(list(in_mode), np.int64)[amounts.argmax(axis=0)]
    before = at(state.astype(np.float64), start - 1)
    begun = (start > 0) & (before != State.UNKNOWN)
    pause = np.full(len(start), np.nan)
    if len(start) > 1:
        gaps = sums((state == State.UNKNOWN).astype(np.float64), stop[:-1], start[1:])
        pause[1:] = np.where(gaps == 0, (start[1:] - stop[:-1]) * step, np.nan)
    defrost_starts = np.array([d.start for d in cells.states.defrosts], np.int64)
    counted = np.searchsorted(defrost_starts, stop) - np.searchsorted(defrost_starts, start)
    flow = means(cells.flow, start, stop)
    return Runs(
        start=start,
        stop=stop,
        mode=mode,
        heat=sums(cells.heat, start, stop),
        electricity=sums(cells.electricity, start, stop),
        outdoor=means(cells.outdoor, start, stop),
        humidity=means(cells.humidity, start, stop),
        flow=flow,
        pause=pause,
        defrosts=counted.astype(np.int64),
        ended=_ended(cells, stop, mode, flow, n),
        begun=begun.astype(np.int64),
        frost=sums(frosting, start, stop) * step,
    )


def _ended(cells: CellArrays, stop: Ints, mode: Ints, flow: Floats, n: int) -> Ints:
    state = cells.states.state
    ended = np.full(len(stop), Ended.NO_CALL, np.int64)
    last = at(state.astype(np.float64), stop - 1)
    with np.errstate(invalid="ignore"):
        over = at(cells.flow, stop - 1) > flow + OVER_CURVE
    ended[over & (mode == State.HEATING)] = Ended.FLOW_WARM
    hot = last == State.HOT_WATER
    if hot.any() and cells.tank is not None:
        tank = at(cells.tank, stop - 1)
        known = tank[hot & np.isfinite(tank)]
        usual = float(np.percentile(known, 75)) if len(known) else np.inf
        with np.errstate(invalid="ignore"):
            warm = tank >= usual - TANK_REACHED
        ended[hot] = np.where(warm[hot], Ended.TANK_WARM, Ended.TANK_GIVEN_UP)
    after = at(state.astype(np.float64), stop)
    ended[(after == State.UNKNOWN) & (stop < n)] = Ended.READINGS
    ended[stop >= n] = Ended.STILL_RUNNING
    return ended


def most_in_an_hour(start: Ints, step: int) -> int:
    """The most starts within any hour."""
    if not len(start):
        return 0
    last = np.searchsorted(start, start + 3600 // step)
    return int((last - np.arange(len(start))).max())
