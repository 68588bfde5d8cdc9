"""The controller's heat against the meter's."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.messages import words_of
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

say = words_of(__name__)

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
            say("heat_not_both"),
        )
    name = measured[0]
    one = context.meter_energies.every[reported.name].energy
    other = context.meter_energies.heat[name].energy
    known = np.isfinite(one) & np.isfinite(other) & ~context.left_out
    total = float(other[known].sum())
    if total < CONTROLLER_LEAST:
        return not_checkable(CheckCode.CONTROLLER_AGAINST_METER, say("too_little_heat"))
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
    said = say("controller_reports_measures", ratio=ratio, name=name, spread=spread)
    if spread < SAME:
        said += say("they_move_one")
    borrowed = transfer(context, reported.name, name)
    if borrowed is not None:
        return Check(
            CheckCode.CONTROLLER_AGAINST_METER,
            Soundness.SOUND,
            say("sentence", said=said, name=name),
            (),
            say(
                "remedy",
                factor=borrowed[0].factor,
                uncertainty=borrowed[0].U,
                low=borrowed[0].low,
                high=borrowed[0].high,
                until=borrowed[0].until,
            ),
            borrowed,
            picture=picture,
        )
    if abs(ratio - 1) <= CONTROLLER_MOST:
        return sound(CheckCode.CONTROLLER_AGAINST_METER, said, picture)
    mistake = named(ratio, CONTROLLER_NEAR)
    if mistake is not None:
        said += say("ratio_near_mistake", factor=mistake[0], meaning=mistake[1])
    return Check(
        code=CheckCode.CONTROLLER_AGAINST_METER,
        soundness=Soundness.DOUBTFUL,
        sentence=say("controller_sentence", said=said),
        spans=(context.whole,),
        remedy=say("controller_remedy"),
        proposals=(),
        affects=(),
        picture=picture,
    )
