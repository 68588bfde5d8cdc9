"""What a consumer without a meter may take: the range of a COP that cannot be stated."""

from dataclasses import dataclass, replace

import numpy as np

from ember.basis.quantity import KWH, Estimate
from ember.basis.series import Ints
from ember.boundary import Level, MeterCombination
from ember.description.meters import Consumer
from ember.reckoning.reckon import reckon
from ember.reckoning.segments import Segments
from ember.states import State
from ember.states.state import is_on

# Power from … to [W], and while what it runs; common practice. Heaters are not guessed.
TYPICAL = {
    Consumer.DISTRIBUTION_PUMP: (20.0, 120.0, "while the water flows"),
    Consumer.SOURCE: (40.0, 250.0, "while the compressor runs"),
    Consumer.CONTROLS: (5.0, 50.0, "always"),
}


@dataclass(frozen=True)
class MissingPart:
    """The COP of a level if what is missing takes a usual power: between low and high [-].

    Attributes
    ----------
    least, most : float
        of the missing electricity [kWh].
    """

    level: Level
    low: Estimate
    high: Estimate
    least: float
    most: float
    words: str


def missing_part(
    segments: Segments, combination: MeterCombination, groups: Ints, asked: tuple[float, float]
) -> MissingPart | None:
    """The range of a COP at a level that lacks a meter, or None where none can be given.

    Parameters
    ----------
    groups : array, (m,)
        0 where a segment belongs to what is asked for, −1 elsewhere.

    Source: usual powers × running time, common practice.
    """
    if (
        not combination.lacking
        or not combination.heat
        or any(c not in TYPICAL for c in combination.lacking)
    ):
        return None
    base = reckon(segments, replace(combination, reason=None), groups, [asked])[0]
    if base.cop is None or base.heat is None:
        return None
    seconds = np.bincount(
        segments.state[groups == 0], segments.cells[groups == 0], minlength=len(State)
    ) * float(segments.step)
    on = float(seconds[is_on(np.arange(len(State), dtype=np.int8))].sum())
    hours = {
        "while the compressor runs": on,
        "while the water flows": on + float(seconds[State.PUMP_OVERRUN]),
        "always": float(seconds.sum()),
    }
    least = sum(TYPICAL[c][0] * hours[TYPICAL[c][2]] for c in combination.lacking) / KWH
    most = sum(TYPICAL[c][1] * hours[TYPICAL[c][2]] for c in combination.lacking) / KWH
    heat, used = base.heat, base.electricity
    high = heat.over(Estimate(used.value + least, "kWh", used.budget), "")
    low = heat.over(Estimate(used.value + most, "kWh", used.budget), "")
    named = " and ".join(
        f"the {c.value.replace('_', ' ')} takes {low_w:.0f}–{high_w:.0f} W {when}"
        for c, (low_w, high_w, when) in ((c, TYPICAL[c]) for c in combination.lacking)
    )
    words = f"if {named}: {least:.0f} to {most:.0f} kWh"
    return MissingPart(combination.level, low, high, least, most, words)
