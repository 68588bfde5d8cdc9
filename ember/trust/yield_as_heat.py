"""Source energy ("environmental yield") logged as heat."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.boundary.combinations import lowest
from ember.description.installation import AddElectricity
from ember.messages import words_of
from ember.rated import Expected
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import SummedContext

say = words_of(__name__)

YIELD_AS_HEAT_LEAST_DAYS = 10
LEAST_ONE = 0.7  # electricity that lacks in the heat, times the electricity itself
YIELD_AS_HEAT_ALIKE = 1e12  # condition of the fit from which it says nothing
YIELD_AS_HEAT_UNIT = (0.8, 1.2)  # of the rated heat found back once it is added


def yield_as_heat(context: SummedContext) -> Check:
    """Whether heat ÷ electricity sits one below the COP that the table expects, in all weather.

    Days of compared running are fitted by Q = a·(E·rated COP) − b·E: a unit that is merely worse
    has b near 0, source energy has b near 1 or above.

    Source: energy balance of a heat pump (yield = heat − electricity); limits common practice.
    """
    combination = lowest(context.combinations)
    if combination is None or combination.reason is not None:
        return not_checkable(CheckCode.YIELD_AS_HEAT, say("no_level_can"))
    name = combination.heat[0][1]
    if context.circuit is not None and name == context.circuit.name:
        return sound(
            CheckCode.YIELD_AS_HEAT,
            say("heat_flow_delta"),
        )
    _, heat, used, rated = context.compared_days
    if len(heat) < YIELD_AS_HEAT_LEAST_DAYS:
        return not_checkable(
            CheckCode.YIELD_AS_HEAT,
            say("fewer_than_days", yield_as_heat_least_days=YIELD_AS_HEAT_LEAST_DAYS),
        )
    design = np.column_stack([rated, -used])
    if np.linalg.cond(design.T @ design) > YIELD_AS_HEAT_ALIKE:
        return not_checkable(CheckCode.YIELD_AS_HEAT, say("days_too_alike"))
    a, b = np.linalg.lstsq(design, heat, rcond=None)[0]
    residual = heat - design @ np.array([a, b])
    spread = float(np.sqrt(residual @ residual / (len(heat) - 2)))
    u_b = spread * float(np.sqrt(np.linalg.inv(design.T @ design)[1, 1]))
    picture = Picture(
        say("rated_cop_day"),
        say("heat_electricity_day"),
        False,
        (
            series("day", rated / used, heat / used),
            series(say("one_below"), np.sort(rated / used), np.sort(rated / used) - 1, "line"),
        ),
    )
    with_it = float((heat.sum() + used.sum()) / rated.sum())
    said = say("over_days_heat", heat=len(heat), a=a, b=b, u_b=2 * u_b, with_it=with_it)
    if not (b - 2 * u_b > LEAST_ONE and YIELD_AS_HEAT_UNIT[0] < with_it < YIELD_AS_HEAT_UNIT[1]):
        return sound(CheckCode.YIELD_AS_HEAT, said, picture)
    if isinstance(context.promise, Expected) and context.promise.promise.heater_open:
        return not_checkable(
            CheckCode.YIELD_AS_HEAT,
            say("heater_same_meter", said=said),
            say("give_heater_meter"),
        )
    return Check(
        code=CheckCode.YIELD_AS_HEAT,
        soundness=Soundness.DOUBTFUL,
        sentence=say("sentence", said=said, name=name),
        spans=(context.whole,),
        remedy=say("remedy"),
        proposals=(AddElectricity(meter=name, reason=say("source_yield_logged")),),
        affects=(Affects.HEAT,),
        picture=picture,
    )
