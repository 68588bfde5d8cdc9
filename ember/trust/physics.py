"""A COP beyond physics."""

import numpy as np

from ember.rating.surface import carnot
from ember.running import State
from ember.trace import Floats
from ember.trust.check import (
    Check,
    Picture,
    Soundness,
    Touches,
    not_checkable,
    series,
    sound,
)
from ember.trust.seen import Seen

NAME = "physical bound"
MOST = 0.65  # of Carnot in steady running; real units reach 0.35–0.55, common practice
LEAST_LIFT = 20.0  # [K]


def beyond_physics(seen: Seen) -> Check:
    """Whether the COP of settled heating is a larger share of Carnot's than any unit reaches.

    Source: Carnot from the second law; the share is common practice.
    """
    circuit, trace, reckoning = seen.circuit, seen.trace, seen.settled
    outdoor_channel = seen.installation.outdoor.channel
    if reckoning is None or reckoning.cop is None or circuit is None:
        return not_checkable(NAME, "There is no COP of settled heating to check.")
    if outdoor_channel not in trace:
        return not_checkable(NAME, "The outdoor temperature is not logged.")
    cells = np.flatnonzero((seen.states.state == State.HEATING) & ~seen.states.recovery)
    cells = cells[:: max(1, len(cells) // 20_000)]
    outdoor, flow = trace[outdoor_channel][cells], trace[circuit.flow_temp][cells]
    fair = flow - outdoor > LEAST_LIFT
    if np.count_nonzero(fair) < 10:
        return not_checkable(NAME, f"The lift never exceeds {LEAST_LIFT:.0f} K.")
    ideal_at = carnot(outdoor[fair], flow[fair])
    ideal = float(np.mean(ideal_at))
    share = reckoning.cop.value / ideal
    said = (
        f"The COP of settled heating is {share:.0%} of what physics allows at these "
        f"temperatures; real units reach 35–55 %."
    )
    picture = Picture(
        "outdoor temperature [°C]", "COP", False,
        (
            series("of Carnot's, at each reading's temperatures", outdoor[fair], ideal_at),
            series("measured, settled heating", _ends(outdoor[fair]), [reckoning.cop.value] * 2,
                   "line"),
            series(f"{MOST:.0%} of Carnot's", _ends(outdoor[fair]), [MOST * ideal] * 2, "line"),
        ),
    )  # fmt: skip
    if share <= MOST:
        return sound(NAME, said, picture)
    return Check(
        NAME,
        Soundness.BROKEN,
        said + " The metering is wrong. No COP is stated.",
        (seen.whole,),
        "Look for heat counted without its electricity, a wrong unit or pulse value, one phase "
        "not clamped. With a rated table the check 'beyond the table' names the likely one.",
        (),
        (Touches.HEAT, Touches.ELECTRICITY),
        picture,
    )


def _ends(values: Floats) -> Floats:
    return np.array([values.min(), values.max()])
