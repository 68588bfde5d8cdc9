"""A COP beyond physics."""

import numpy as np

from ember.installation import Installation
from ember.metering import Streams
from ember.period import Period
from ember.rating.surface import carnot
from ember.reckoning import Reckoning
from ember.running import Running, State
from ember.trace import Trace
from ember.trust.check import Check, Soundness, not_checkable, sound

NAME = "physical bound"
MOST = 0.65  # of Carnot in steady running; real units reach 0.35–0.55, common practice
LEAST_LIFT = 20.0  # [K]


def beyond_physics(
    installation: Installation,
    trace: Trace,
    streams: Streams,
    states: Running,
    reckoning: Reckoning | None,
) -> Check:
    """Whether the COP is a larger share of Carnot's than any unit reaches.

    Parameters
    ----------
    reckoning : of the settled heating, at the lowest level there is.

    Source: Carnot from the second law; the share is common practice.
    """
    circuit = next((c for c in installation.circuits if c.name in streams.heat), None)
    outdoor_channel = installation.outdoor.channel
    if reckoning is None or reckoning.cop is None or circuit is None:
        return not_checkable(NAME, "There is no COP of settled heating to check.")
    if outdoor_channel not in trace:
        return not_checkable(NAME, "The outdoor temperature is not logged.")
    cells = np.flatnonzero((states.state == State.HEATING) & ~states.recovery)
    cells = cells[:: max(1, len(cells) // 20_000)]
    outdoor, flow = trace[outdoor_channel][cells], trace[circuit.flow_temp][cells]
    fair = flow - outdoor > LEAST_LIFT
    if np.count_nonzero(fair) < 10:
        return not_checkable(NAME, f"The lift never exceeds {LEAST_LIFT:.0f} K.")
    ideal = float(np.mean(carnot(outdoor[fair], flow[fair])))
    share = reckoning.cop.value / ideal
    said = (
        f"The COP of settled heating is {share:.0%} of what physics allows at these "
        f"temperatures; real units reach 35–55 %."
    )
    if share <= MOST:
        return sound(NAME, said)
    return Check(
        NAME,
        Soundness.BROKEN,
        said + " The metering is wrong. No COP is stated.",
        (Period("whole record", trace.start, trace.stop),),
        "Look for heat counted without its electricity, a wrong unit or pulse value, one phase "
        "not clamped.",
        (),
    )
