"""Sensors whose steps are too coarse for the ΔT in use."""

from math import sqrt

import numpy as np

from ember.basis.codes import CheckCode
from ember.messages import words_of
from ember.metering.resolution import step_of
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

say = words_of(__name__)

RESOLUTION_MOST = 0.15  # step over ΔT, common practice, chosen


def resolution(context: CheckContext) -> Check:
    """The step of the temperatures against the usual ΔT of heating.

    Source: rounding, GUM 4.3.7; limit common practice.
    """
    circuit = context.circuit
    if circuit is None:
        return not_checkable(CheckCode.RESOLUTION, say("flow_return_temperatures"))
    delta = context.delta[context.states.state == State.HEATING]
    delta = delta[np.isfinite(delta)]
    if len(delta) < context.hour:
        return not_checkable(CheckCode.RESOLUTION, say("less_than_hour"))
    step = max(step_of(context.trace[c]) for c in (circuit.flow_temp, circuit.return_temp))
    usual = abs(float(np.median(delta)))
    share = step / max(usual, 0.1)
    one = step / sqrt(6) * 2 / max(usual, 0.1)
    said = say("temperatures_come_steps", step=step, usual=usual, one=one)
    counts, bounds = np.histogram(delta, bins=60)
    picture = Picture(
        say("delta_heating"),
        "readings",
        False,
        (series("ΔT", 0.5 * (bounds[1:] + bounds[:-1]), counts.astype(float), "bars"),),
    )
    if share <= RESOLUTION_MOST:
        return sound(CheckCode.RESOLUTION, said, picture)
    return Check(
        code=CheckCode.RESOLUTION,
        soundness=Soundness.DOUBTFUL,
        sentence=said + say("more_than_delta", resolution_most=RESOLUTION_MOST),
        spans=(context.whole,),
        remedy=say("remedy"),
        proposals=(),
        affects=(Affects.MOMENTS,),
        picture=picture,
    )
