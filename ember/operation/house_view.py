"""The house over a period: what a buffer costs and may save, and whether the room is held."""

from dataclasses import dataclass

import numpy as np

from ember.operation.within import KWH, Within, middle
from ember.trace import Bools

LEAST_HOURS = 24
SELDOM = 0.05  # of the time that a held room may be below that
HELD = 1.0  # of its median that a room may be below [K]


@dataclass(frozen=True)
class Buffer:
    """What mixing in a buffer costs. blending : primary less secondary flow temperature, mean [K];
    cost [kWh of the period], from the slope of the rated COP; starts : all their losses together
    [kWh]; each : of a start [kWh]; worth : starts a day that the buffer must save to earn its
    cost."""

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
    if both.sum() < LEAST_HOURS:
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
    if known.sum() < LEAST_HOURS:
        return None
    room = of["room"][known]
    median = float(np.median(room))
    cold = room < median - HELD
    low, high = (float(v) for v in np.percentile(room, [5, 95]))
    coldest = None
    words = "held: it is hardly ever more than 1 K below its median"
    if cold.mean() > SELDOM:
        outdoors = of["outdoor"][known]
        coldest, rest = middle(outdoors[cold]), middle(outdoors[~cold])
        words = f"more than 1 K below its median for {cold.mean():.0%} of the time"
        if coldest is not None and rest is not None and coldest < rest - 3:
            words += ", mostly when it is cold outdoors"
    return Held(median, low, high, float(cold.mean()), bool(cold.mean() <= SELDOM), coldest, words)
