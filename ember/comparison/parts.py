"""The shape of the performance ratio over the conditions: where a unit is weak tells why."""

from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.days import DayKind, kind_of
from ember.balance.sums import compared_in
from ember.basis.periods import Period
from ember.basis.quantity import K_FACTOR, KWH, Estimate
from ember.basis.series import Bools, Floats, Ints
from ember.boundary import MeterCombination
from ember.boundary.combinations import nearest_to_table
from ember.comparison.matched import MatchedHours
from ember.comparison.performance_ratio import Comparison, compare
from ember.messages import NotAvailable, words_of
from ember.reckoning import reckon
from ember.reckoning.tally import validity

say = words_of(__name__)

FROST = (-4.0, 4.0)  # outdoors, where frost grows most, common practice, agreed [degC]
HIGH_FLOW = 42.0  # [degC], common practice
SMALL_LOAD = 0.45  # of the rated capacity, common practice, chosen
PARTS_LEAST_HOURS = 40  # on either side of a division
PARTS_OUTDOOR_STEP, FLOW_STEP = 3.0, 5.0  # of the grid [K]
THIRDS = (0.4, 0.7)  # of the rated capacity, between small, middle and large load


@dataclass(frozen=True)
class ShapePart:
    """A part of the conditions against the rest.

    Attributes
    ----------
    name : str
        of the part.
    inside, outside : Comparison
        comparisons.
    ratio : Estimate
        of their performance ratios; what their meters and the table share cancels.
    alone : float
        its effect once load, flow and frost are told apart, as a relative change of the ratio, with
        its standard error.
    """

    name: str
    inside: Comparison
    outside: Comparison
    ratio: Estimate
    alone: float
    alone_se: float

    @property
    def alone_U(self) -> float:
        """Expanded uncertainty of its own effect, k = 2."""
        return K_FACTOR * self.alone_se


@dataclass(frozen=True)
class Parts:
    """Frost band, high flow temperature, small load; None where a side has too few hours."""

    frost: ShapePart | None
    high_flow: ShapePart | None
    small_load: ShapePart | None


def parts(
    analysis: RecordAnalysis, period: Period, same: MatchedHours, capacity: float | None
) -> Parts:
    """Divides the compared hours in three ways.

    Parameters
    ----------
    capacity : float | None
        nominal heat output [W], against which load is small.

    Source: the shape over outdoor temperature, flow temperature and load, common practice; effects
    told apart by weighted least squares of the log of the ratio.
    """
    frost = (same.outdoor >= FROST[0]) & (same.outdoor <= FROST[1])
    high = same.flow >= HIGH_FLOW
    small = same.load <= SMALL_LOAD * capacity if capacity else np.zeros(len(same), np.bool_)
    divisions = {"frost": frost, "high_flow": high, "small_load": small}
    usable = {
        name: mask
        for name, mask in divisions.items()
        if mask.sum() >= PARTS_LEAST_HOURS and (~mask).sum() >= PARTS_LEAST_HOURS
    }
    effects = _effects(same, usable)
    names = {
        "frost": say("outdoors", low=FROST[0], high=FROST[1]),
        "high_flow": say("flow_more", high_flow=HIGH_FLOW),
        "small_load": say("load_below_capacity", small_load=SMALL_LOAD),
    }

    def part(name: str) -> ShapePart | None:
        if name not in usable:
            return None
        count = len(analysis.segments.state)
        mask = usable[name]
        one = compared_in(analysis, period, same.mask(mask, count)).comparison
        rest = compared_in(analysis, period, same.mask(~mask, count)).comparison
        if one is None or rest is None or min(one.ratio.value, rest.ratio.value) <= 0:
            return None
        return ShapePart(names[name], one, rest, one.ratio.over(rest.ratio, ""), *effects[name])

    return Parts(part("frost"), part("high_flow"), part("small_load"))


def _effects(same: MatchedHours, masks: dict[str, Bools]) -> dict[str, tuple[float, float]]:
    """Each division's own effect on the ratio and its standard error.

    Hours are not independent: the error is widened by the autocorrelation of the residuals, taken
    as that of a first-order process.
    """
    if not masks:
        return {}
    good = (same.expected > 0) & (same.used > 0)
    y = np.log(same.expected[good] / same.used[good])
    weight = np.sqrt(same.expected[good] / same.expected[good].mean())
    x = np.column_stack([np.ones(good.sum()), *(mask[good] for mask in masks.values())])
    a = x * weight[:, None]
    solved, *_ = np.linalg.lstsq(a, y * weight, rcond=None)
    left = y * weight - a @ solved
    rho = float(np.corrcoef(left[:-1], left[1:])[0, 1]) if len(left) > 2 else 0.0
    rho = min(max(rho, 0.0), 0.95)
    freedom = max(len(left) - x.shape[1], 1)
    cov = np.linalg.pinv(a.T @ a) * float(left @ left) / freedom * (1 + rho) / (1 - rho)
    error = np.sqrt(np.diag(cov))
    return {
        name: (float(np.exp(solved[k]) - 1), float(error[k])) for k, name in enumerate(masks, 1)
    }


@dataclass(frozen=True)
class Cell:
    """A cell of the grid: from these outdoor and flow temperatures [degC] on

    Attributes
    ----------
    load : int
        0 all, 1 small, 2 middle, 3 large. hours of compared running.
    kind : DayKind
        how its ratio stands to the analyst's limit, with all of its U
    open : bool
        U leaves open on which side of the limit it lies.
    """

    outdoor: float
    flow: float
    load: int
    hours: float
    measured: Estimate
    rated: Estimate
    ratio: Estimate
    kind: DayKind
    open: bool


def grid(
    analysis: RecordAnalysis, period: Period, same: MatchedHours, capacity: float | None
) -> list[Cell]:
    """Performance ratio over outdoor × flow temperature, for all loads and by load."""
    combination, promise = nearest_to_table(analysis.facts.combinations), analysis.facts.promise
    if isinstance(promise, NotAvailable) or combination is None:
        return []
    row = np.floor(same.outdoor / PARTS_OUTDOOR_STEP).astype(np.int64)
    column = np.floor(same.flow / FLOW_STEP).astype(np.int64)
    third = 1 + np.searchsorted(np.array(THIRDS) * (capacity or np.inf), same.load)
    place = row * 1000 + column
    found = _cells(analysis, combination, period, same, place * 10, 0)
    if capacity:
        found += _cells(analysis, combination, period, same, place * 10 + third, None)
    return found


def _cells(
    analysis: RecordAnalysis,
    combination: MeterCombination,
    period: Period,
    same: MatchedHours,
    key: Ints,
    load: int | None,
) -> list[Cell]:
    keys, label = np.unique(key, return_inverse=True)
    groups = np.full(len(analysis.segments.state), -1, np.int64)
    here = same.hour >= 0
    groups[same.segments[here]] = label[same.hour[here]]
    asked = [(period.start, period.stop)] * len(keys)
    measured = reckon(analysis.segments, combination, groups, asked)
    counted, _ = validity(analysis.segments, tuple(name for _, name in combination.meters))
    pick = counted & (groups >= 0)
    rated: Floats = (
        np.bincount(groups[pick], analysis.segments.sums["expected"][pick], len(keys)) / KWH
    )
    assert not isinstance(analysis.facts.promise, NotAvailable)
    cells, limits = [], analysis.installation.thresholds
    for k, one in enumerate(keys.tolist()):
        found = compare(analysis.installation, analysis.facts.promise, measured[k], float(rated[k]))
        if found is None or found.measured.cop is None:
            continue
        place, third = divmod(one, 10)
        row = (place + 500) // 1000
        cells.append(
            Cell(
                row * PARTS_OUTDOOR_STEP,
                (place - row * 1000) * FLOW_STEP,
                third if load is None else load,
                found.hours,
                found.measured.cop,
                found.rated_cop,
                found.ratio,
                kind_of(found.ratio, limits),
                abs(found.ratio.value - limits.below_rated) < found.ratio.U,
            )
        )
    return cells
