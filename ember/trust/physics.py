"""A COP beyond physics."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.practice import KELVIN
from ember.basis.series import Floats
from ember.description.installation import AirCircuit
from ember.messages import words_of
from ember.rated.surface import carnot
from ember.states import State
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

# of Carnot in steady running; real units reach 0.35–0.55, common practice, agreed
PHYSICS_MOST = 0.65
PHYSICS_LEAST_LIFT = 20.0  # [K]
PHYSICS_LEAST_RISE = 2.0  # of the air through the coil [K]


def beyond_physics(context: SummedContext) -> Check:
    """Whether the COP of settled heating is a larger share of Carnot's than any unit reaches.

    Source: Carnot from the second law; the share is common practice.
    """
    circuit, trace, reckoning = context.circuit, context.trace, context.settled
    outdoor_channel = context.installation.outdoor.channel
    heads = [a for a in context.installation.air if a.name in context.meter_energies.heat]
    if reckoning is None or reckoning.cop is None or (circuit is None and not heads):
        return not_checkable(CheckCode.PHYSICAL_BOUND, say("there_no_cop"))
    if outdoor_channel not in trace:
        return not_checkable(CheckCode.PHYSICAL_BOUND, say("outdoor_temperature_not"))
    if circuit is None:
        return _by_air(context, heads[0], reckoning.cop.value)
    cells = np.flatnonzero((context.states.state == State.HEATING) & ~context.states.recovery)
    cells = cells[:: max(1, len(cells) // 20_000)]
    outdoor, flow = trace[outdoor_channel][cells], trace[circuit.flow_temp][cells]
    fair = flow - outdoor > PHYSICS_LEAST_LIFT
    if np.count_nonzero(fair) < 10:
        return not_checkable(
            CheckCode.PHYSICAL_BOUND,
            say("lift_never_exceeds", physics_least_lift=PHYSICS_LEAST_LIFT),
        )
    ideal_at = carnot(outdoor[fair], flow[fair])
    ideal = float(np.mean(ideal_at))
    share = reckoning.cop.value / ideal
    said = say("cop_settled_heating", share=share)
    picture = Picture(
        say("outdoor_temperature"),
        "COP",
        False,
        (
            series(say("carnot_each_reading"), outdoor[fair], ideal_at),
            series(
                say("measured_settled_heating"),
                _ends(outdoor[fair]),
                [reckoning.cop.value] * 2,
                "line",
            ),
            series(
                say("carnot", physics_most=PHYSICS_MOST),
                _ends(outdoor[fair]),
                [PHYSICS_MOST * ideal] * 2,
                "line",
            ),
        ),
    )
    if share <= PHYSICS_MOST:
        return sound(CheckCode.PHYSICAL_BOUND, said, picture)
    return Check(
        code=CheckCode.PHYSICAL_BOUND,
        soundness=Soundness.BROKEN,
        sentence=said + say("metering_wrong_no"),
        spans=(context.whole,),
        remedy=say("remedy"),
        proposals=(),
        affects=(Affects.HEAT, Affects.ELECTRICITY),
        picture=picture,
    )


def _by_air(context: SummedContext, head: AirCircuit, cop: float) -> Check:
    """The same of air: between the outdoor air and the log-mean temperature of the air in the coil
    nothing goes beyond Carnot; against the supply air no unit reaches more than a share of it."""
    trace = context.trace
    cells = np.flatnonzero((context.states.state == State.HEATING) & ~context.states.recovery)
    cells = cells[:: max(1, len(cells) // 20_000)]
    outdoor = trace[context.installation.outdoor.channel][cells]
    supply, back = trace[head.supply_temp][cells], trace[head.return_temp][cells]
    with np.errstate(invalid="ignore"):
        fair = (supply - outdoor > PHYSICS_LEAST_LIFT) & (supply - back > PHYSICS_LEAST_RISE)
    if np.count_nonzero(fair) < 10:
        return not_checkable(
            CheckCode.PHYSICAL_BOUND,
            say("lift_supply_air", physics_least_lift=PHYSICS_LEAST_LIFT),
        )
    outdoor, supply, back = outdoor[fair], supply[fair], back[fair]
    hot, cold = supply + KELVIN, back + KELVIN
    coil = (hot - cold) / np.log(hot / cold) - KELVIN
    most = float(np.mean(carnot(outdoor, coil)))
    at_supply = carnot(outdoor, supply)
    real = PHYSICS_MOST * float(np.mean(at_supply))
    said = say("cop_settled_heating_between", cop=cop, most=most, real=real)
    picture = Picture(
        say("outdoor_temperature"),
        "COP",
        False,
        (
            series(say("carnot_supply_air"), outdoor, at_supply),
            series(say("measured_settled_heating"), _ends(outdoor), [cop] * 2, "line"),
            series(say("carnot", physics_most=PHYSICS_MOST), _ends(outdoor), [real] * 2, "line"),
        ),
    )
    if cop <= real:
        return sound(CheckCode.PHYSICAL_BOUND, said, picture)
    broken = cop > most
    return Check(
        code=CheckCode.PHYSICAL_BOUND,
        soundness=Soundness.BROKEN if broken else Soundness.DOUBTFUL,
        sentence=said + (say("metering_wrong_no") if broken else say("cannot_claimed")),
        spans=(context.whole,),
        remedy=say("by_air_remedy"),
        proposals=(),
        affects=(Affects.HEAT,) if not broken else (Affects.HEAT, Affects.ELECTRICITY),
        picture=picture,
    )


def _ends(values: Floats) -> Floats:
    return np.array([values.min(), values.max()])
