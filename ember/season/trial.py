"""A trial: two settings alternated by days, planned before, told apart by the weather after."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.basis.series import Bools, Floats
from ember.messages import NotAvailable, Source, because, words_of
from ember.season.before_after import Worth, worth_of
from ember.season.season import SeasonSeen
from ember.season.signature import Signature, fixed_share, newey_west

say = words_of(__name__)

CONFIDENCE, POWER = 1.96, 0.84  # of the normal distribution: 95 % two-sided, 80 %
FEW = 1.1  # by which the interval of so few kindred days is wider (`fixed_share`)
LONGEST_TRIAL = 730  # days
LEAST_SHARE = 0.001  # of the electricity, that a trial may be asked to show
LEAST_EACH = 7  # counted days of each setting, common practice, chosen


@dataclass(frozen=True)
class TrialPlan:
    """How two settings, A and B, are alternated.

    Attributes
    ----------
    first : date
        local day on which the first block begins.
    days : int
        in all.
    block : int
        days for which one setting holds.
    carry : int
        first days of a block that are not counted: the house still remembers the other setting.
    seed : int
        of the order: in each pair of blocks either comes first by chance.
    """

    first: date
    days: int
    block: int
    carry: int
    seed: int

    def __post_init__(self) -> None:
        if not 1 <= self.block <= 60:
            raise DescriptionError("block: 1 to 60 days.", "block")
        if not 0 <= self.carry < self.block:
            raise DescriptionError("carry: fewer days than a block has.", "carry")
        if not 2 * self.block <= self.days <= LONGEST_TRIAL:
            raise DescriptionError(
                f"days: from one block of each setting to {LONGEST_TRIAL}.", "days"
            )


@dataclass(frozen=True)
class TrialDay:
    """A day of the schedule: which setting holds, whether it begins that day, whether it counts."""

    day: date
    setting: str
    begins: bool
    counts: bool


def schedule(plan: TrialPlan) -> list[TrialDay]:
    """The days of a trial.

    Source: blocks in pairs, the order within each by chance, so that a trend or a day of the week
    falls on both (randomised blocks; Box, Hunter and Hunter, Statistics for Experimenters, 2nd ed.,
    ch. 4, from memory).
    """
    draw = np.random.default_rng(plan.seed)
    pairs = -(-plan.days // (2 * plan.block))
    order = [s for _ in range(pairs) for s in (("A", "B") if draw.random() < 0.5 else ("B", "A"))]
    found: list[TrialDay] = []
    since = 0
    for k in range(plan.days):
        setting = order[k // plan.block]
        begins = not found or found[-1].setting != setting
        since = 0 if begins else since + 1
        # A setting that simply goes on has nothing of the other left.
        counts = since >= plan.carry
        found.append(TrialDay(plan.first + timedelta(days=k), setting, begins, counts))
    return found


def days_needed(seen: SeasonSeen, share: float, block: int, carry: int) -> int | NotAvailable:
    """Days that a trial must have to show a difference, by the scatter of the days so far.

    Parameters
    ----------
    seen : SeasonSeen
        of days like those of the trial.
    share : float
        difference in electricity that is to be shown, of the mean day.
    block, carry : int
        as in TrialPlan.

    Source: two means of n days each with a common scatter s: n = 2 (1.96 + 0.84)² s² ÷ d², for 95 %
    confidence and 80 % power (Montgomery, Design and Analysis of Experiments, from memory); s about
    the signature, days within a block widened by their kinship, the 1.96 by what few days ask for.
    """
    if not LEAST_SHARE <= share <= 1:
        raise DescriptionError(f"share: a share from {LEAST_SHARE:g} to 1, as 0.05.", "share")
    fit = seen.electricity
    if isinstance(fit, NotAvailable):
        return fit
    assert seen.daily is not None
    mean = float(seen.daily.electricity[seen.used].mean())
    kin = min(max(fit.kinship, 0.0), 0.9)
    counted = block - carry
    # Of the mean of a block of kindred days, as a multiple of that of days that are not.
    lags = np.arange(1, counted)
    widened = 1 + 2 * float(((1 - lags / counted) * kin**lags).sum())
    each = 2 * (FEW * CONFIDENCE + POWER) ** 2 * fit.scatter**2 * widened / (share * mean) ** 2
    blocks = max(int(np.ceil(max(each, LEAST_EACH) / counted)), 1)
    days = 2 * blocks * block
    if days > LONGEST_TRIAL:
        return NotAvailable(because(ReasonCode.TRIAL_TOO_LONG, days=days, most=LONGEST_TRIAL))
    return days


@dataclass(frozen=True)
class TrialResult:
    """What a trial has shown.

    Attributes
    ----------
    days_a, days_b : int
        that are counted.
    less : Estimate
        electricity that B takes less than A on the same day's weather [kWh/d].
    share : float
        of what A takes.
    heat_less : Estimate | None
        the same of the heat: a lower need is no better unit.
    room : float | None
        mean room temperature with B less that with A [K], where it is logged.
    worth : Worth
        by the 95 % interval: B saves, uses more, or cannot be told yet.
    """

    days_a: int
    days_b: int
    less: Estimate
    share: float
    heat_less: Estimate | None
    room: float | None
    worth: Worth


def trial_result(
    seen: SeasonSeen, setting: list[str | None], room: Floats | None = None
) -> TrialResult | NotAvailable:
    """What a trial has shown so far.

    Parameters
    ----------
    seen : SeasonSeen
        of the trial's days.
    setting : list of str or None, (d,)
        that counts on each of its days: A, B; None where none does.
    room : array, (d,) | None
        mean room temperature of each day [degC].

    Source: least squares of the day's energy on the signature of all days and on the setting, its
    errors after Newey and West (as in `ember.season.signature`).
    """
    daily = seen.daily
    if daily is None or isinstance(seen.electricity, NotAvailable):
        why = seen.electricity
        return why if isinstance(why, NotAvailable) else NotAvailable(because(ReasonCode.NO_LEVEL))
    is_a = np.array([one == "A" for one in setting]) & seen.used
    is_b = np.array([one == "B" for one in setting]) & seen.used
    days = int(is_a.sum()), int(is_b.sum())
    if min(days) < LEAST_EACH:
        return NotAvailable(because(ReasonCode.TOO_FEW_DAYS, days=min(days), least=LEAST_EACH))
    use = is_a | is_b
    less, level = _effect(daily.outdoor[use], daily.electricity[use], is_b[use], seen.electricity)
    heat = None
    if not isinstance(seen.heat, NotAvailable):
        heat, _ = _effect(daily.outdoor[use], daily.heat[use], is_b[use], seen.heat)
    warmer = None
    if room is not None and np.isfinite(room[is_a]).any() and np.isfinite(room[is_b]).any():
        warmer = float(np.nanmean(room[is_b]) - np.nanmean(room[is_a]))
    share = less.value / level if level else 0.0
    return TrialResult(*days, less, share, heat, warmer, worth_of(less))


def _effect(
    outdoor: Floats, energy: Floats, with_b: Bools, fit: Signature
) -> tuple[Estimate, float]:
    """By how much B lies below A at the same weather [kWh/d], and the mean day of A at the mean
    weather."""
    below = np.maximum(fit.knee - outdoor, 0.0)
    by = np.column_stack([np.ones_like(below), below, with_b.astype(np.float64)])
    found, *_ = np.linalg.lstsq(by, energy, rcond=None)
    residual = energy - by @ found
    error = float(np.sqrt(newey_west(by, residual)[2, 2])) * fixed_share(residual)
    part = UncertaintyComponent(Source(SourceCode.DAYS_SCATTER), error)
    level = float(found[0] + found[1] * below.mean())
    return Estimate(-float(found[2]), "kWh/d", (part,)), level


ROOM_MATTERS = 0.2  # difference of the rooms from which it is said [K], common practice, chosen


def said(result: TrialResult, a: str, b: str) -> str:
    """A result in one sentence, and one more where the rooms were not alike.

    Parameters
    ----------
    a, b : str
        what the settings are.
    """
    interval = CONFIDENCE / 2 * result.less.U
    sign = -1 if result.worth == Worth.USED_MORE else 1
    value = sign * result.less.value
    low, high = value - interval, value + interval
    one, two, share = result.days_a, result.days_b, abs(result.share)
    if result.worth == Worth.NOT_TOLD:
        words = say("not_told", a=a, b=b, value=value, low=low, high=high, days_a=one, days_b=two)
    elif result.worth == Worth.SAVED:
        words = say(
            "saved", a=a, b=b, value=value, low=low, high=high, days_a=one, days_b=two, share=share
        )
    else:
        words = say(
            "used_more", a=a, b=b, value=value, low=low, high=high, days_a=one, days_b=two,
            share=share,
        )  # fmt: skip
    if result.room is None or abs(result.room) < ROOM_MATTERS:
        return words
    side = say("side_warmer") if result.room > 0 else say("side_colder")
    return f"{words} {say('warmer', room=abs(result.room), side=side, b=b)}"
