"""Whether the performance ratio changed at a date, and how surely."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ember.balance.days import DAYS_LEAST_HOURS
from ember.balance.sums import groups_of, ratios_of
from ember.basis.clock import local_days
from ember.basis.periods import Period
from ember.basis.quantity import K_FACTOR
from ember.basis.series import Floats
from ember.operation.within import Within

DRIFT_LEAST_DAYS = 10  # with a ratio, on either side of a change
# times its standard error, from which a step is spoken of: the date was searched for
DRIFT_SURE = 5.0
DRIFT_WITHIN = 3.84  # of the chi-square by which a date may differ (95 %, one parameter)


@dataclass(frozen=True)
class DayRatio:
    """A day's performance ratio with its U (k = 2), and the day's outdoor temperature [degC]."""

    start: float
    ratio: float
    U: float
    outdoor: float | None


@dataclass(frozen=True)
class StepChange:
    """A step of the ratio.

    Attributes
    ----------
    at : float
        the first day after it [s]
    first, last : float
        between which days it lies (95 %).
    before, after : float
        mean ratios at the same weather.
    step : float
        relative
    se : float
        its standard error.
    sure : bool
        more than SURE times it.
    """

    at: float
    first: float
    last: float
    before: float
    after: float
    step: float
    se: float
    sure: bool

    @property
    def U(self) -> float:
        """Expanded uncertainty of the step, k = 2."""
        return K_FACTOR * self.se


@dataclass(frozen=True)
class Drift:
    """The ratio day by day, and its greatest step, None with too few days."""

    days: list[DayRatio]
    change: StepChange | None


def day_ratios(within: Within) -> list[DayRatio]:
    """The ratio of each local day of a period with enough compared running, with its weather."""
    analysis, period = within.analysis, within.period
    _, edges = local_days(int(period.start), int(period.stop), analysis.zone)
    limits = np.clip(edges, period.start, period.stop).astype(float).tolist()
    asked = list(pairwise(limits))
    groups = groups_of(analysis, [Period("day", a, b) for a, b in asked])
    of, first = within.found.hours.of["outdoor"], within.found.hours.start
    found = []
    ratios = ratios_of(analysis, groups, len(asked), DAYS_LEAST_HOURS * 3600)
    values, expanded = ratios.of.values.tolist(), ratios.of.U.tolist()
    for k in np.flatnonzero(ratios.known).tolist():
        a, b = asked[k]
        here = of[max(int((a - first) // 3600), 0) : int((b - first) // 3600)]
        known = here[np.isfinite(here)]
        outdoor = float(known.mean()) if len(known) else None
        found.append(DayRatio(a, values[k], expanded[k], outdoor))
    return found


def drift(points: list[DayRatio]) -> Drift:
    """Looks for one step in a series of days.

    Parameters
    ----------
    points : list[DayRatio]
        days in order.

    The weather goes into the model, as a line with a knee at 5 °C, so that a mild spell is no
    change. Source: least squares for every possible date, the date by the least residual; its
    interval by the likelihood ratio; errors widened by the autocorrelation of the residuals.
    """
    known = [p for p in points if p.outdoor is not None]
    if len(known) < 2 * DRIFT_LEAST_DAYS + 5:
        return Drift(points, None)
    y = np.log([max(p.ratio, 0.05) for p in known])
    temp = np.array([p.outdoor for p in known], float)
    base = np.column_stack([np.ones(len(y)), temp, np.maximum(temp - 5.0, 0.0)])
    dates = range(DRIFT_LEAST_DAYS, len(y) - DRIFT_LEAST_DAYS + 1)
    left = _residuals(base, y, dates)
    best = int(left.argmin())
    at = dates[best]
    step, error, scale = _step(base, y, at)
    near = np.flatnonzero(left <= left[best] + DRIFT_WITHIN * scale)
    sides = y[:at], y[at:]
    mean = [float(np.exp(side.mean())) for side in sides]
    before = mean[0]
    change = StepChange(
        at=known[at].start,
        first=known[dates[int(near.min())]].start,
        last=known[dates[int(near.max())]].start,
        before=before,
        after=before * float(np.exp(step)),
        step=float(np.exp(step) - 1),
        se=error,
        sure=abs(step) > DRIFT_SURE * error,
    )
    return Drift(points, change)


def _residuals(base: Floats, y: Floats, dates: range) -> Floats:
    """Sum of squared residuals with a step at each date beside the base, (d,).

    Source: Frisch and Waugh (1933): what the base explains is taken out of both first.
    """
    q, _ = np.linalg.qr(base)
    steps = (np.arange(len(y))[:, None] >= np.array(dates)).astype(np.float64)
    of_y, of_steps = y - q @ (q.T @ y), steps - q @ (q.T @ steps)
    explained = (of_steps.T @ of_y) ** 2 / (of_steps**2).sum(axis=0)
    left: Floats = of_y @ of_y - explained
    return left


def _step(base: Floats, y: Floats, at: int) -> tuple[float, float, float]:
    """The step, its standard error, and the variance by which dates are compared."""
    x = np.column_stack([base, np.arange(len(y)) >= at])
    solved, *_ = np.linalg.lstsq(x, y, rcond=None)
    left = y - x @ solved
    rho = float(np.corrcoef(left[:-1], left[1:])[0, 1]) if left.std() > 1e-12 else 0.0
    wider = (1 + min(max(rho, 0.0), 0.95)) / (1 - min(max(rho, 0.0), 0.95))
    variance = float(left @ left) / max(len(y) - x.shape[1], 1)
    cov = np.linalg.pinv(x.T @ x) * variance * wider
    return float(solved[-1]), float(np.sqrt(cov[-1, -1])), variance * wider
