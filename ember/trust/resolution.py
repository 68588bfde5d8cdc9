"""Sensors whose steps are too coarse for the ΔT in use."""

from math import sqrt

import numpy as np

from ember.basis.codes import CheckCode
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

RESOLUTION_MOST = 0.15  # step over ΔT, common practice


def resolution(context: CheckContext) -> Check:
    """The step of the temperatures against the usual ΔT of heating.

    Source: rounding, GUM 4.3.7; limit common practice.
    """
    circuit = context.circuit
    if circuit is None:
        return not_checkable(CheckCode.RESOLUTION, "Flow and return temperatures are not logged.")
    delta = context.delta[context.states.state == State.HEATING]
    delta = delta[np.isfinite(delta)]
    if len(delta) < context.hour:
        return not_checkable(CheckCode.RESOLUTION, "Less than an hour of heating in the log.")
    step = max(step_of(context.trace[c]) for c in (circuit.flow_temp, circuit.return_temp))
    usual = abs(float(np.median(delta)))
    share = step / max(usual, 0.1)
    one = step / sqrt(6) * 2 / max(usual, 0.1)
    said = (
        f"The temperatures come in steps of {step:.2g} K at a ΔT of {usual:.1f} K: one minute's "
        f"heat is known to ±{one:.0%} from that alone (k = 2), a season's far better."
    )
    counts, bounds = np.histogram(delta, bins=60)
    picture = Picture(
        "ΔT in heating [K]",
        "readings",
        False,
        (series("ΔT", 0.5 * (bounds[1:] + bounds[:-1]), counts.astype(float), "bars"),),
    )
    if share <= RESOLUTION_MOST:
        return sound(CheckCode.RESOLUTION, said, picture)
    return Check(
        CheckCode.RESOLUTION,
        Soundness.DOUBTFUL,
        said + f" More than {RESOLUTION_MOST:.0%} of ΔT is coarse: do not read single minutes or "
        "starts.",
        (context.whole,),
        "Log the temperatures with a digit more. The COP of days and months stands, its U holds "
        "the rounding.",
        (),
        (Affects.MOMENTS,),
        picture,
    )
