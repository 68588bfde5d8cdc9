"""A COP beyond physics."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.practice import KELVIN
from ember.basis.series import Floats
from ember.description.installation import AirCircuit
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
from ember.trust.context import CheckContext

PHYSICS_MOST = 0.65  # of Carnot in steady running; real units reach 0.35–0.55, common practice
PHYSICS_LEAST_LIFT = 20.0  # [K]
PHYSICS_LEAST_RISE = 2.0  # of the air through the coil [K]


def beyond_physics(context: CheckContext) -> Check:
    """Whether the COP of settled heating is a larger share of Carnot's than any unit reaches.

    Source: Carnot from the second law; the share is common practice.
    """
    circuit, trace, reckoning = context.circuit, context.trace, context.settled
    outdoor_channel = context.installation.outdoor.channel
    heads = [a for a in context.installation.air if a.name in context.meter_energies.heat]
    if reckoning is None or reckoning.cop is None or (circuit is None and not heads):
        return not_checkable(
            CheckCode.PHYSICAL_BOUND, "There is no COP of settled heating to check."
        )
    if outdoor_channel not in trace:
        return not_checkable(CheckCode.PHYSICAL_BOUND, "The outdoor temperature is not logged.")
    if circuit is None:
        return _by_air(context, heads[0], reckoning.cop.value)
    cells = np.flatnonzero((context.states.state == State.HEATING) & ~context.states.recovery)
    cells = cells[:: max(1, len(cells) // 20_000)]
    outdoor, flow = trace[outdoor_channel][cells], trace[circuit.flow_temp][cells]
    fair = flow - outdoor > PHYSICS_LEAST_LIFT
    if np.count_nonzero(fair) < 10:
        return not_checkable(
            CheckCode.PHYSICAL_BOUND, f"The lift never exceeds {PHYSICS_LEAST_LIFT:.0f} K."
        )
    ideal_at = carnot(outdoor[fair], flow[fair])
    ideal = float(np.mean(ideal_at))
    share = reckoning.cop.value / ideal
    said = (
        f"The COP of settled heating is {share:.0%} of what physics allows at these "
        f"temperatures; real units reach 35–55 %."
    )
    picture = Picture(
        "outdoor temperature [°C]",
        "COP",
        False,
        (
            series("of Carnot's, at each reading's temperatures", outdoor[fair], ideal_at),
            series(
                "measured, settled heating", _ends(outdoor[fair]), [reckoning.cop.value] * 2, "line"
            ),
            series(
                f"{PHYSICS_MOST:.0%} of Carnot's",
                _ends(outdoor[fair]),
                [PHYSICS_MOST * ideal] * 2,
                "line",
            ),
        ),
    )
    if share <= PHYSICS_MOST:
        return sound(CheckCode.PHYSICAL_BOUND, said, picture)
    return Check(
        CheckCode.PHYSICAL_BOUND,
        Soundness.BROKEN,
        said + " The metering is wrong. No COP is stated.",
        (context.whole,),
        "Look for heat counted without its electricity, a wrong unit or pulse value, one phase "
        "not clamped. With a rated table the check 'beyond the table' names the likely one.",
        (),
        (Affects.HEAT, Affects.ELECTRICITY),
        picture,
    )


def _by_air(context: CheckContext, head: AirCircuit, cop: float) -> Check:
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
            f"The lift to the supply air never exceeds {PHYSICS_LEAST_LIFT:.0f} K.",
        )
    outdoor, supply, back = outdoor[fair], supply[fair], back[fair]
    hot, cold = supply + KELVIN, back + KELVIN
    coil = (hot - cold) / np.log(hot / cold) - KELVIN
    most = float(np.mean(carnot(outdoor, coil)))
    at_supply = carnot(outdoor, supply)
    real = PHYSICS_MOST * float(np.mean(at_supply))
    said = (
        f"The COP of settled heating is {cop:.1f}; between the outdoor air and the air in the coil "
        f"physics allows {most:.1f}, and up to {real:.1f} is reached by real units."
    )
    picture = Picture(
        "outdoor temperature [°C]",
        "COP",
        False,
        (
            series("of Carnot's, at the supply air", outdoor, at_supply),
            series("measured, settled heating", _ends(outdoor), [cop] * 2, "line"),
            series(f"{PHYSICS_MOST:.0%} of Carnot's", _ends(outdoor), [real] * 2, "line"),
        ),
    )
    if cop <= real:
        return sound(CheckCode.PHYSICAL_BOUND, said, picture)
    broken = cop > most
    return Check(
        CheckCode.PHYSICAL_BOUND,
        Soundness.BROKEN if broken else Soundness.DOUBTFUL,
        said
        + (" The metering is wrong. No COP is stated." if broken else " It cannot be claimed."),
        (context.whole,),
        "Look at the airflow first: a nominal one at full fan speed counted at all times, a sensor "
        "in the warm core of the jet, the airflow of one of several heads.",
        (),
        (Affects.HEAT,) if not broken else (Affects.HEAT, Affects.ELECTRICITY),
        picture,
    )


def _ends(values: Floats) -> Floats:
    return np.array([values.min(), values.max()])
