"""The house over a period: what a buffer costs and may save, and whether the room is held."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import HOUR
from ember.basis.quantity import KWH
from ember.basis.series import Bools, Floats, edges_of
from ember.messages import words_of
from ember.operation.within import Within, middle

say = words_of(__name__)

HOUSE_LEAST_HOURS = 24
HOUSE_SELDOM = 0.05  # of the time that a held room may be below that
HELD = 1.0  # of its median that a room may be below [K]


@dataclass(frozen=True)
class Buffer:
    """What mixing in a buffer costs.

    Attributes
    ----------
    blending : float
        primary less secondary flow temperature, mean [K]; cost [kWh of the period], from the slope
        of the rated COP
    starts : float | None
        all their losses together [kWh]
    each : float | None
        of a start [kWh]
    worth : float | None
        starts a day that the buffer must save to earn its cost.
    """

    blending: float
    cost: float | None
    starts: float | None
    each: float | None
    worth: float | None
    minutes: float | None


@dataclass(frozen=True)
class Held:
    """The room: median, and how much of the time it lay more than 1 K below it."""

    median: float
    low: float
    high: float
    below: float
    held: bool
    coldest_outdoors: float | None
    words: str


def buffer_seen(within: Within, use: Bools, per_kelvin: float | None) -> Buffer | None:
    """Both sides of the question, from this house's data: what mixing costs, and what starts do."""
    of = within.found.hours.of
    both = use & np.isfinite(of["secondary"])
    if both.sum() < HOUSE_LEAST_HOURS:
        return None
    weight = of["electricity"][both]
    gap = (of["flow"] - of["secondary"])[both]
    total = float(np.nansum(weight))
    blending = float(np.nansum(gap * weight) / total) if total > 0 else float(gap.mean())
    cost = None
    if per_kelvin is not None and total > 0:
        cost = float(np.nansum(np.maximum(gap, 0.0) * weight)) * per_kelvin / KWH
    table, starts = within.found.runs, within.found.starts
    spent = each = worth = None
    if starts is not None:
        pick = within.pick(table.start[starts.run])
        loss = starts.loss[pick][np.isfinite(starts.loss[pick])] / KWH
        if len(loss):
            spent, each = float(loss.sum()), float(np.median(loss))
            if cost is not None and each > 0 and within.days:
                worth = cost / each / within.days
    mine = within.pick(table.start)
    minutes = middle((table.stop - table.start)[mine] * within.found.step / 60)
    return Buffer(blending, cost, spent, each, worth, minutes)


def room_held(within: Within, inside: Bools) -> Held | None:
    of = within.found.hours.of
    known = inside & np.isfinite(of["room"])
    if known.sum() < HOUSE_LEAST_HOURS:
        return None
    room = of["room"][known]
    median = float(np.median(room))
    cold = room < median - HELD
    low, high = (float(v) for v in np.percentile(room, [5, 95]))
    coldest = None
    words = say("held_hardly_ever")
    if cold.mean() > HOUSE_SELDOM:
        outdoors = of["outdoor"][known]
        coldest, rest = middle(outdoors[cold]), middle(outdoors[~cold])
        words = say("more_than_below", cold=cold.mean())
        if coldest is not None and rest is not None and coldest < rest - 3:
            words += say("mostly_when_cold")
    return Held(
        median, low, high, float(cold.mean()), bool(cold.mean() <= HOUSE_SELDOM), coldest, words
    )


HOUSE_LEAST_RISE = 1.0  # of a room, over which its warming is seen [K]
NEARLY_ALL = 0.75  # of an hour that the unit runs, while it warms the room


def warm_ups(within: Within) -> Floats:
    """Minutes of running per kelvin that the room grew warmer, of each stretch of hours in which
    the unit ran nearly all the time and the room rose by a kelvin or more, (k,) [min/K].

    Source: common practice; hourly means, so that single readings do not count.
    """
    of, inside = within.found.hours.of, within.hours()
    room, on = of["room"], of["on"]
    runs = inside & (on >= NEARLY_ALL * HOUR) & (of["hot_water"] < 600) & (of["cooling"] == 0)
    rising = np.zeros(len(room), np.bool_)
    with np.errstate(invalid="ignore"):
        rising[1:] = runs[1:] & (np.diff(room) > 0)
    edges = edges_of(rising)
    found = []
    for first, stop in edges.reshape(-1, 2).tolist():
        rise = float(room[stop - 1] - room[first - 1])
        if np.isfinite(rise) and rise >= HOUSE_LEAST_RISE:
            found.append(float(on[first:stop].sum()) / 60 / rise)
    return np.array(found)
