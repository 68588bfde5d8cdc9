"""What may be wrong with defrosts, as far as the readings show it."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.basis.series import Bools, Ints
from ember.description.thresholds import Thresholds
from ember.events.defrosts import DEFROSTS_FEW, Defrosts, How
from ember.events.frost import LEAST_POTENTIAL, Frost, unevenness
from ember.messages import words_of

say = words_of(__name__)

# All common practice:
DEFROST_JUDGEMENT_SUSPICIOUS = 27.0  # minutes, 25 and half a reading
AT_LIMIT = 0.5  # of the defrosts end at their longest
EVEN_INTERVAL = 0.12  # quartile range over median of intervals by the clock
UNEVEN_AIR = 0.25  # of the frost that grows in them
OVERDUE = 2.0  # times its usual frost
ICE_LEFT = 0.95  # of the clean coil's ratio, below which ice is left
CLEAN_SHARE = 0.25  # of the electricity looked at, that a clean coil must have been seen with
DEFROST_JUDGEMENT_ALIKE = 4.0  # defrosts that say about the same


class Judged(StrEnum):
    """What may be wrong with defrosts."""

    NEEDLESS = "needless"
    TIMED = "timed"
    TOO_OFTEN = "too often"
    INEFFECTIVE = "ineffective"
    ICE_LEFT = "ice left"
    OVERDUE = "overdue"


@dataclass(frozen=True)
class Judgement:
    """One of them: how many of the defrosts, and what shows it, in words."""

    kind: Judged
    count: int
    words: str


def _ice_left(found: Defrosts, pick: Ints) -> list[Judgement]:
    """Whether the unit does worse right after its defrosts than with a coil long clear: what is
    left on it after each then grows from one to the next."""
    after, used = found.after_expected[pick], found.after_used[pick]
    seen = used > 0
    clean = float(found.clean_expected[pick].sum()), float(found.clean_used[pick].sum())
    if seen.sum() < 2 * DEFROSTS_FEW or clean[1] <= 0 or clean[1] < CLEAN_SHARE * float(used.sum()):
        return []
    ratio = float(after.sum() / used.sum()) * clean[1] / clean[0]
    each = after[seen] / used[seen]
    error = 2 * float(np.std(each)) / np.sqrt(seen.sum() / DEFROST_JUDGEMENT_ALIKE)
    if ratio + error >= ICE_LEFT:
        return []
    return [
        Judgement(
            Judged.ICE_LEFT,
            int(seen.sum()),
            say("quarter_hour_after", seen=seen.sum(), pick=len(pick), ratio=ratio),
        )
    ]


def needless(found: Defrosts) -> Bools:
    """Which were made though the air could not frost the coil, (d,): even a coil colder by what
    the approach may err would hardly have frosted."""
    with np.errstate(invalid="ignore"):
        mask: Bools = found.surely < LEAST_POTENTIAL
    return mask


def overdue(found: Defrosts, learned: Frost | None) -> Bools:
    """Which came long after the usual load of frost had grown, (d,)."""
    if learned is None or learned.load is None:
        return np.zeros(len(found), np.bool_)
    with np.errstate(invalid="ignore"):
        mask: Bools = found.load > OVERDUE * learned.load
    return mask


def judged(
    found: Defrosts, learned: Frost | None, pick: Ints, step: int, limits: Thresholds
) -> list[Judgement]:
    """What is wrong with some of the defrosts, as far as the readings show it.

    Parameters
    ----------
    pick : array, (p,)
        Indices of those that are looked at.
    limits : Thresholds
        the analyst's: from which interval they are heavy, from which share a fault is spoken of.

    Source: intervals and shares, common practice.
    """
    said: list[Judgement] = []
    if len(pick) < DEFROSTS_FEW:
        return said
    idle = int(needless(found)[pick].sum())
    if idle >= limits.defrost_share * len(pick):
        said.append(
            Judgement(
                Judged.NEEDLESS,
                idle,
                say("made_air_could", idle=idle, pick=len(pick)),
            )
        )
    running = found.running[pick]
    load = found.load[pick]
    near = np.isfinite(running) & np.isfinite(load)
    if near.sum() >= 2 * DEFROSTS_FEW:
        even, air = unevenness(running[near]), unevenness(load[near])
        if even <= EVEN_INTERVAL and air >= UNEVEN_AIR:
            said.append(
                Judgement(
                    Judged.TIMED,
                    int(near.sum()),
                    say(
                        "every_min_running",
                        running=np.median(running[near]) / 60,
                        even=even,
                        air=air,
                    ),
                )
            )
    known = running[np.isfinite(running)] / 60
    if len(known) >= DEFROSTS_FEW:
        often = int(np.count_nonzero(known < DEFROST_JUDGEMENT_SUSPICIOUS))
        middle = float(np.median(known))
        if middle < limits.defrost_interval:
            weight = (
                say("suspicious_any_weather")
                if middle < DEFROST_JUDGEMENT_SUSPICIOUS
                else say("heavy")
            )
            said.append(
                Judgement(
                    Judged.TOO_OFTEN,
                    max(often, 1),
                    say("half_them_come", middle=middle, weight=weight),
                )
            )
    at_limit = found.ended[pick] == How.TIME_LIMIT
    if at_limit.mean() >= AT_LIMIT:
        longest = float(np.median((found.stop - found.start)[pick][at_limit])) * step / 60
        said.append(
            Judgement(
                Judged.INEFFECTIVE,
                int(at_limit.sum()),
                say("end_same_min", at_limit=at_limit.sum(), pick=len(pick), longest=longest),
            )
        )
    said += _ice_left(found, pick)
    late = int(overdue(found, learned)[pick].sum())
    if late >= limits.defrost_share * len(pick):
        said.append(
            Judgement(
                Judged.OVERDUE,
                late,
                say("came_after_twice", late=late, pick=len(pick)),
            )
        )
    return said
