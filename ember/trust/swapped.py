"""Flow and return sensors, or their columns, swapped."""

import numpy as np

from ember.installation import Installation, Swap
from ember.metering import Streams
from ember.period import Period
from ember.running import Running, State
from ember.trace import Trace
from ember.trust.check import Check, Soundness, not_checkable, sound

NAME = "swapped sensors"
MOST = 0.5  # share of settled running with ΔT below zero; defrosts reach a tenth, common practice
LEAST_DELTA = 0.3  # [K]
LEAST_HOURS = 3.0


def swapped_sensors(
    installation: Installation, trace: Trace, streams: Streams, states: Running
) -> Check:
    """Whether ΔT is negative for most of the running. Source: common practice."""
    circuit = next((c for c in installation.circuits if c.name in streams.heat), None)
    if circuit is None:
        return not_checkable(NAME, "Flow and return temperatures are not logged.")
    active = (states.state == State.HEATING) | (states.state == State.HOT_WATER)
    active |= states.state == State.DEFROST
    delta = (trace[circuit.flow_temp] - trace[circuit.return_temp])[active]
    delta = delta[np.isfinite(delta)]
    hours = len(delta) * trace.step / 3600
    if hours < LEAST_HOURS:
        return not_checkable(NAME, f"Only {hours:.1f} h of settled running in the log.")
    share = float(np.count_nonzero(delta < -LEAST_DELTA)) / len(delta)
    median = float(np.median(delta))
    said = (
        f"While the unit runs, flow minus return is {median:+.1f} K in the median and negative "
        f"in {share:.0%} of {hours:,.0f} h."
    )
    if share <= MOST:
        return sound(NAME, said)
    channels = (circuit.flow_temp, circuit.return_temp)
    return Check(
        NAME,
        Soundness.BROKEN,
        said + " The two sensors, or their columns, are swapped. No COP is stated.",
        (Period("whole record", trace.start, trace.stop),),
        "Check on site which sensor sits in which pipe, then accept the swap.",
        (Swap(channels=channels, reason="sensors swapped, found by ΔT"),),
    )
