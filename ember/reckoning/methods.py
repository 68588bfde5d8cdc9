"""All ways in which heat was measured over the same time, side by side."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.quantity import Estimate
from ember.basis.series import Bools, Ints
from ember.boundary import MeterCombination
from ember.boundary.combinations import Share
from ember.reckoning.reckon import metered
from ember.reckoning.segments import Segments
from ember.states import State

METHODS_ALIKE = 0.05  # by which two ways may always differ, common practice, chosen


@dataclass(frozen=True)
class HeatMethod:
    """One way of measuring heat over the time in which it and the chosen way are both known.

    Attributes
    ----------
    heat : Estimate
        by this way
    other : Estimate
        by the chosen one over the same cells [kWh].
    ratio : Estimate | None
        of the two, what they share cancelled.
    agrees : bool | None
        whether they lie within their joint U.
    used : bool
        the chosen way itself.
    hours : float
        compared. Defrosts are set aside where the way is a register.
    one_sided : bool
        it may only be too small, as a tank that knows nothing of what is drawn meanwhile.
    """

    name: str
    method: str
    loads: str
    heat: Estimate
    other: Estimate
    ratio: Estimate | None
    agrees: bool | None
    used: bool
    hours: float
    one_sided: bool


def heat_methods(
    segments: Segments,
    combination: MeterCombination,
    names: Sequence[str],
    groups: Ints,
    hot_water_only: Sequence[str] = (),
    not_alike: Collection[str] = (),
) -> list[HeatMethod]:
    """Every way of measuring heat against the one in use, over one group of segments.

    Parameters
    ----------
    combination : MeterCombination
        of the level whose heat is looked at.
    names : Sequence[str]
        of all energies of heat.
    groups : array, (m,)
        0 where a segment belongs to what is asked for, −1 elsewhere.
    hot_water_only : Sequence[str]
        meter energies that know the tank alone.
    not_alike : Collection[str]
        those that are not expected to agree, because they count with sensors that have been
        corrected.

    Source: difference of two measured values against its U (normalised error, ISO/IEC 17043).
    """
    chosen: tuple[Share, ...] = combination.heat
    used = {name for _, name in chosen}
    found = []
    for name in names:
        mine: tuple[Share, ...] = ((1, name),)
        pick = (groups == 0) & _known(segments, [name, *used])
        if name in hot_water_only:
            pick &= segments.state == State.HOT_WATER
        if not pick.any():
            continue
        if segments.meters[name].step_energy and name not in used:
            pick &= segments.state != State.DEFROST  # a register does not run backwards
        inside = np.where(pick, 0, -1)
        heat, cells = metered(segments, mine, inside, 1)
        other, _ = metered(segments, chosen, inside, 1)
        ratio = heat[0].over(other[0], "") if other[0].value > 0 and name not in used else None
        agrees = None
        if ratio is not None and name not in not_alike:
            # A tank knows nothing of what is drawn meanwhile: it may only be too small.
            apart = ratio.value - 1 if name in hot_water_only else abs(ratio.value - 1)
            agrees = apart <= max(ratio.U, METHODS_ALIKE)
        meter = segments.meters[name]
        found.append(
            HeatMethod(
                name=name,
                method=meter.method,
                loads=meter.loads,
                heat=heat[0],
                other=other[0],
                ratio=ratio,
                agrees=agrees,
                used=name in used,
                hours=float(cells[0]) * segments.step / 3600,
                one_sided=name in hot_water_only,
            )
        )
    return sorted(found, key=lambda w: not w.used)


def _known(segments: Segments, names: Sequence[str]) -> Bools:
    known: Bools = segments.excluded < 0
    for name in names:
        known = known & np.isfinite(segments.energy(name))
    return known
