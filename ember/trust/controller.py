"""The controller's heat against the meter's."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.trust.check import (
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext, by_day
from ember.trust.ratios import named
from ember.trust.transfer import transfer

CONTROLLER_MOST = 0.10  # by which they may disagree, common practice
SAME = 0.002  # spread of the daily ratio below which both show one sensor
CONTROLLER_NEAR = 0.01  # within which a ratio is called a mistake of unit
CONTROLLER_LEAST = 50 * 3.6e6  # [J]


def controller(context: CheckContext) -> Check:
    """What the unit's controller reports against what is measured, over time; neither is chosen.

    Source: handbook of the trade (two displays of one sensor are not two sources); limits common
    practice.
    """
    reported = next(
        (r for r in context.installation.reported if r.name in context.meter_energies.every), None
    )
    measured = [n for n in context.meter_energies.heat if reported is None or n != reported.name]
    if reported is None or not measured:
        return not_checkable(
            CheckCode.CONTROLLER_AGAINST_METER,
            "Heat is not both measured and reported by the controller.",
        )
    name = measured[0]
    one = context.meter_energies.every[reported.name].energy
    other = context.meter_energies.heat[name].energy
    known = np.isfinite(one) & np.isfinite(other) & ~context.left_out
    total = float(other[known].sum())
    if total < CONTROLLER_LEAST:
        return not_checkable(CheckCode.CONTROLLER_AGAINST_METER, "Too little heat to compare.")
    ratio = float(one[known].sum()) / total
    mine = by_day(np.where(known, one, 0.0), context.days)
    theirs = by_day(np.where(known, other, 0.0), context.days)
    good = theirs > 3 * 3.6e6
    with np.errstate(invalid="ignore", divide="ignore"):
        daily = np.where(good, mine / theirs, np.nan)
    at = context.day_instants
    picture = Picture(
        "day",
        f"'{reported.name}' ÷ '{name}'",
        True,
        (series("day", at, daily),),
        (("", 1 - CONTROLLER_MOST), ("limit", 1 + CONTROLLER_MOST)),
    )
    spread = float(np.std(daily[good]) / np.mean(daily[good])) if good.any() else np.nan
    said = (
        f"The controller reports {ratio:.2f} of what '{name}' measures; by day it varies by "
        f"{spread:.1%}."
    )
    if spread < SAME:
        said += " They move as one: two displays of the same sensor, no second source."
    borrowed = transfer(context, reported.name, name)
    if borrowed is not None:
        return Check(
            CheckCode.CONTROLLER_AGAINST_METER,
            Soundness.SOUND,
            f"{said} '{name}' was there for a part of the record: a borrowed reference.",
            (),
            f"Take {borrowed[0].factor:.3f} ± {borrowed[0].U:.1%} as the transfer factor; it holds "
            f"for days of {borrowed[0].low:.0f} to {borrowed[0].high:.0f} °C until "
            f"{borrowed[0].until:%Y-%m-%d}.",
            borrowed,
            picture=picture,
        )
    if abs(ratio - 1) <= CONTROLLER_MOST:
        return sound(CheckCode.CONTROLLER_AGAINST_METER, said, picture)
    mistake = named(ratio, CONTROLLER_NEAR)
    if mistake is not None:
        said += f" A ratio near {mistake[0]:g} is a mistake of unit: {mistake[1]}."
    return Check(
        CheckCode.CONTROLLER_AGAINST_METER,
        Soundness.DOUBTFUL,
        f"{said} One of them is an estimate, or ill.",
        (context.whole,),
        "A controller often estimates from the compressor's map. Look when they part: constant, it "
        "is a factor; in frost or at part load, it is the estimate; all at once: see the meter.",
        (),
        (),
        picture,
    )
