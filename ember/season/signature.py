"""The energy signature: what a house takes a day at an outdoor temperature, with its knee."""

from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.basis.series import Floats
from ember.messages import NotAvailable, Source, because

LEAST_DAYS = 20  # of a signature, common practice, chosen
LEAST_BESIDE = 5  # days on either side of a knee, common practice, chosen
LEAST_SPAN = 6.0  # of outdoor temperatures below the knee [K], common practice, chosen
SIGNATURE_STEP = 0.1  # between knees that are tried first [K]
FINER = 20  # knees tried between two of those


@dataclass(frozen=True)
class Signature:
    """Energy a day = base + slope · max(knee − outdoor temperature, 0).

    Attributes
    ----------
    base, slope, knee : float
        [kWh/d], [kWh/(K·d)], [degC].
    errors : array, (3,)
        their standard errors (k = 1), in the same units, robust to days that resemble the day
        before.
    covariance : array, (3, 3)
        of base, slope and knee.
    days : int
        that it rests on.
    scatter : float
        standard deviation of a day about it [kWh/d].
    cv : float
        scatter ÷ mean, the CV(RMSE).
    r2 : float
        share of the variance that it explains.
    kinship : float
        autocorrelation of a day's residual with that of the day before.
    bends : bool
        whether days without a slope are among them; else the knee is not seen, and all days lie
        on the slope.
    """

    base: float
    slope: float
    knee: float
    errors: Floats
    covariance: Floats
    days: int
    scatter: float
    cv: float
    r2: float
    kinship: float
    bends: bool

    def at(self, outdoor: Floats) -> Floats:
        """Energy of days, (n,) [kWh/d], at outdoor temperatures, (n,) [degC]."""
        found: Floats = self.base + self.slope * np.maximum(self.knee - outdoor, 0.0)
        return found

    @property
    def estimates(self) -> tuple[Estimate, Estimate, Estimate]:
        """Base [kWh/d], slope [kWh/(K·d)] and knee [degC] with the errors of the fit."""
        units = ("kWh", "kWh", "degC")
        values = (self.base, self.slope, self.knee)
        scatter = Source(SourceCode.DAYS_SCATTER)
        base, slope, knee = (
            Estimate(value, unit, (UncertaintyComponent(scatter, float(error)),) if error else ())
            for value, unit, error in zip(values, units, self.errors, strict=True)
        )
        return base, slope, knee

    def line(self, outdoor: Floats) -> tuple[Floats, Floats]:
        """Corners of its line over the days, (2 or 3,) [degC] and [kWh/d]."""
        low, high = float(outdoor.min()), float(outdoor.max())
        corners = np.array([low, self.knee, high] if low < self.knee < high else [low, high])
        return corners, self.at(corners)

    def sum_error(self, outdoor: Floats, shares: Floats, least: float = 0.0) -> float:
        """Standard error of Σ share · energy over days that were not measured [kWh].

        Parameters
        ----------
        outdoor, shares : array, (n,)
            outdoor temperature [degC] and the share of each day that is asked for.
        least : float
            standard error that the sum of what the days would usually take has at least [kWh].

        Source: variance of a prediction, σ² of the days (widened by their kinship) + that of the
        fitted values; Draper & Smith, Applied Regression Analysis, 3rd ed., 3.4, from memory.
        """
        total = (shares[:, None] * self._jacobian(outdoor)).sum(axis=0)
        fitted = max(float(total @ self.covariance @ total), least**2)
        # An autocorrelation from n residuals falls short by about (1 + 3 ρ) ÷ n (Marriott and Pope,
        # Biometrika 41 (1954) 390, from memory).
        kin = min(max(self.kinship + (1 + 3 * self.kinship) / self.days, 0.0), 0.9)
        days = float((shares**2).sum()) * self.scatter**2 * (1 + kin) / (1 - kin)
        return float(np.sqrt(fitted + days))

    def _jacobian(self, outdoor: Floats) -> Floats:
        return jacobian(outdoor, self.knee, self.slope, self.bends)


def jacobian(outdoor: Floats, knee: float, slope: float, bends: bool) -> Floats:
    """Derivatives of a day's energy by base, slope and knee, (n, 3)."""
    below = np.maximum(knee - outdoor, 0.0)
    by_knee = slope * (outdoor < knee) if bends else np.zeros_like(outdoor)
    return np.column_stack([np.ones_like(outdoor), below, by_knee])


def signature(outdoor: Floats, energy: Floats) -> Signature | NotAvailable:
    """The signature of some days, in order of time.

    Parameters
    ----------
    outdoor, energy : array, (n,)
        mean outdoor temperature [degC] and energy [kWh/d] of each day, finite.

    Source: three-parameter change-point model, least squares over all knees (ASHRAE Guideline 14
    and the inverse models of RP-1050, from memory); errors after Newey and West, Econometrica 55
    (1987) 703, with n/(n − 3), over as many days as their kinship asks for (`lags_of`), widened
    for these not being few beside the days (`fixed_share`).
    """
    if len(outdoor) < LEAST_DAYS:
        return NotAvailable(because(ReasonCode.TOO_FEW_DAYS, days=len(outdoor), least=LEAST_DAYS))
    if np.ptp(outdoor) < LEAST_SPAN:
        return NotAvailable(because(ReasonCode.WEATHER_ALIKE, span=f"{np.ptp(outdoor):.1f}"))
    knee, bends = _best_knee(outdoor, energy)
    below = np.maximum(knee - outdoor, 0.0)
    (base, slope), *_ = np.linalg.lstsq(
        np.column_stack([np.ones_like(below), below]), energy, rcond=None
    )
    if slope <= 0:
        return NotAvailable(because(ReasonCode.NO_SLOPE))
    residual = energy - base - slope * below
    by = jacobian(outdoor, knee, float(slope), bends)
    used = by if bends else by[:, :2]
    free = len(outdoor) - used.shape[1]
    covariance = np.zeros((3, 3))
    size = used.shape[1]
    covariance[:size, :size] = newey_west(used, residual) * fixed_share(residual) ** 2
    scatter = float(np.sqrt((residual**2).sum() / free))
    spread = float(((energy - energy.mean()) ** 2).sum())
    steady = float((residual**2).sum())
    return Signature(
        base=float(base),
        slope=float(slope),
        knee=knee,
        errors=np.sqrt(np.diag(covariance)),
        covariance=covariance,
        days=len(outdoor),
        scatter=scatter,
        cv=scatter / abs(float(energy.mean())) if energy.mean() else float("inf"),
        r2=1 - steady / spread if spread else 0.0,
        kinship=kinship_of(residual),
        bends=bends,
    )


def _best_knee(outdoor: Floats, energy: Floats) -> tuple[float, bool]:
    """The knee with the least squares, to a two-hundredth of a kelvin; and whether it is one.

    A knee has days on either side of it; where none fits better than a straight line through all
    days, the warmest day is taken, beyond which nothing was seen.
    """
    ordered = np.sort(outdoor)
    low, high = ordered[LEAST_BESIDE], ordered[-LEAST_BESIDE - 1]
    low = max(low, ordered[0] + LEAST_SPAN / 2)
    straight = _squares(outdoor, energy, ordered[-1:])[0]
    if low >= high:
        return float(ordered[-1]), False
    tried = np.append(np.arange(low, high, SIGNATURE_STEP), high)
    squares = _squares(outdoor, energy, tried)
    k = int(np.argmin(squares))
    near = np.linspace(tried[max(k - 1, 0)], tried[min(k + 1, len(tried) - 1)], 2 * FINER + 1)
    finer = _squares(outdoor, energy, near)
    best = int(np.argmin(finer))
    # A bend must explain more than chance would: F of one further parameter above 4.
    free = len(outdoor) - 3
    if straight - finer[best] <= 4.0 * finer[best] / free:
        return float(ordered[-1]), False
    return float(near[best]), True


def _squares(outdoor: Floats, energy: Floats, knees: Floats) -> Floats:
    """Sum of squared residuals of the best base and slope at each knee, (k,)."""
    below = np.maximum(knees[:, None] - outdoor[None, :], 0.0)
    centred = below - below.mean(axis=1, keepdims=True)
    about = energy - energy.mean()
    sxx = (centred**2).sum(axis=1)
    sxy = centred @ about
    with np.errstate(invalid="ignore", divide="ignore"):
        explained = np.where(sxx > 0, sxy**2 / sxx, 0.0)
    found: Floats = float((about**2).sum()) - explained
    return found


def kinship_of(residual: Floats) -> float:
    """Autocorrelation of residuals, (n,), with those of the day before."""
    steady = float((residual**2).sum())
    return float((residual[1:] * residual[:-1]).sum() / steady) if steady else 0.0


def lags_of(kinship: float, count: int) -> int:
    """Days over which kindred residuals are followed.

    Source: Andrews, Econometrica 59 (1991) 817, Bartlett kernel and a first-order plug-in, from
    memory: 1.1447 (α n)^(1/3), α = 4 ρ² ÷ (1 − ρ²)²; at least ⌊4 (n/100)^(2/9)⌋.
    """
    kin = min(abs(kinship), 0.97)
    alpha = 4 * kin**2 / (1 - kin**2) ** 2
    asked = int(np.ceil(1.1447 * (alpha * count) ** (1 / 3)))
    return min(max(asked, int(4 * (count / 100) ** (2 / 9))), count // 3)


def fixed_share(residual: Floats) -> float:
    """By how much errors after Newey and West fall short where the lags are not few beside the
    days: the 95 % point of their quotient over that of the normal distribution.

    Source: Kiefer and Vogelsang, Econometric Theory 21 (2005) 1130, Bartlett kernel, from memory:
    1.9600 + 2.9694 b + 0.4160 b² − 0.5324 b³, b = lags ÷ days.
    """
    b = (lags_of(kinship_of(residual), len(residual)) + 1) / len(residual)
    return (1.96 + 2.9694 * b + 0.4160 * b**2 - 0.5324 * b**3) / 1.96


def newey_west(by: Floats, residual: Floats) -> Floats:
    """Covariance of least-squares parameters, (p, p), with residuals that are akin, (n,)."""
    count, size = by.shape
    lags = lags_of(kinship_of(residual), count)
    scores = by * residual[:, None]
    middle = scores.T @ scores
    for lag in range(1, lags + 1):
        across = scores[lag:].T @ scores[:-lag]
        middle += (1 - lag / (lags + 1)) * (across + across.T)
    bread = np.linalg.pinv(by.T @ by)
    found: Floats = bread @ middle @ bread * (count / (count - size))
    return found
