"""What a check says."""

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.description.installation import Correction
from ember.messages import check_name


class Soundness(StrEnum):
    """What can be said of the metering in one respect."""

    SOUND = "sound"
    DOUBTFUL = "doubtful"
    BROKEN = "broken"
    NOT_CHECKABLE = "not checkable"


class Affects(StrEnum):
    """What a fault makes doubtful."""

    HEAT = "heat"
    ELECTRICITY = "electricity"
    CONDITIONS = "conditions"  # the comparison with the rated table, not the COP itself
    COUNTS = "counts"  # starts and defrosts
    TOTALS = "totals"  # energies of the whole period; the COP of what is covered stands
    MOMENTS = "moments"  # a minute or a run; a season averages it out


@dataclass(frozen=True)
class Series:
    """Points of a picture; y None where there is none."""

    name: str
    x: tuple[float, ...]
    y: tuple[float | None, ...]
    style: Literal["line", "dots", "bars"]


@dataclass(frozen=True)
class Picture:
    """What shows it.

    Attributes
    ----------
    time : bool
        x is instants [s].
    limits : tuple[tuple[str, float], ...]
        horizontal lines by name.
    """

    x_label: str
    y_label: str
    time: bool
    series: tuple[Series, ...]
    limits: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Effect:
    """The widest Reckoning before and after what a check proposes: heat and electricity [kWh],
    COP, performance ratio; None for what can't be stated."""

    heat_now: Estimate | None
    heat_then: Estimate | None
    electricity_now: Estimate | None
    electricity_then: Estimate | None
    cop_now: Estimate | None
    cop_then: Estimate | None
    ratio_now: Estimate | None
    ratio_then: Estimate | None


@dataclass(frozen=True)
class Check:
    """One check of the metering.

    Attributes
    ----------
    code : CheckCode
        which
    name : str
        that in words.
    sentence : str
        what was found, with the measured value against its limit.
    spans : tuple[Period, ...]
        where.
    remedy : str
        what to do.
    proposals : tuple[Correction, ...]
        corrections the analyst may accept into the description.
    affects : tuple[Affects, ...]
        what is in doubt if it is not sound.
    effect : Effect | None
        of accepting the proposals, where there are any.
    """

    code: CheckCode
    soundness: Soundness
    sentence: str
    spans: tuple[Period, ...]
    remedy: str
    proposals: tuple[Correction, ...]
    affects: tuple[Affects, ...] = ()
    picture: Picture | None = None
    effect: Effect | None = None
    name: str = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", check_name(self.code))

    @property
    def unsound(self) -> bool:
        """Whether it found something."""
        return self.soundness in (Soundness.DOUBTFUL, Soundness.BROKEN)


def not_checkable(code: CheckCode, why: str, remedy: str = "") -> Check:
    """A check for which something is lacking.

    Parameters
    ----------
    remedy : str
        what would allow it.
    """
    return Check(code, Soundness.NOT_CHECKABLE, why, (), remedy, ())


def sound(code: CheckCode, sentence: str, picture: Picture | None = None) -> Check:
    """A check that found nothing."""
    return Check(code, Soundness.SOUND, sentence, (), "", (), picture=picture)


def series(
    name: str,
    x: ArrayLike,
    y: ArrayLike,
    style: Literal["line", "dots", "bars"] = "dots",
    most: int = 400,
) -> Series:
    """Points for a picture, thinned evenly to `most`."""
    every_x, every_y = np.asarray(x, float), np.asarray(y, float)
    thin = max(1, -(-len(every_x) // most))
    shown_x, shown_y = every_x[::thin], every_y[::thin]
    points = tuple(round(float(v), 5) if np.isfinite(v) else None for v in shown_y)
    return Series(name, tuple(round(float(v), 4) for v in shown_x), points, style)
