"""Can the metering be believed? One module a check; checks propose, never correct.

In: a record with its states (`CheckContext`). Out: `Check`s, and what may be claimed. May import:
`ember.rated` and what stands before it.
"""

from ember.basis.codes import CheckCode
from ember.messages import words_of
from ember.trust.check import (
    Affects,
    Check,
    Effect,
    Picture,
    Series,
    Soundness,
    not_checkable,
)
from ember.trust.clocks import clocks
from ember.trust.consumers import consumers
from ember.trust.context import CheckContext
from ember.trust.controller import controller
from ember.trust.flow_scatter import flow_scatter
from ember.trust.gaps import gaps
from ember.trust.glycol import glycol
from ember.trust.other_loads import other_loads
from ember.trust.outdoor import outdoor_sensor
from ember.trust.pair_offset import pair_offset
from ember.trust.physics import beyond_physics
from ember.trust.rate_register import rate_register
from ember.trust.register_against_flow import register_against_flow
from ember.trust.resets import counter_resets
from ember.trust.resolution import resolution
from ember.trust.spikes import spikes
from ember.trust.state import Claim, TrustKind, TrustState, trust_state
from ember.trust.stuck import stuck
from ember.trust.swapped import swapped_sensors
from ember.trust.too_good import beyond_table
from ember.trust.yield_as_heat import yield_as_heat

say = words_of(__name__)

__all__ = [
    "CODES",
    "Affects",
    "Check",
    "CheckContext",
    "Claim",
    "Effect",
    "Picture",
    "Series",
    "Soundness",
    "TrustKind",
    "TrustState",
    "checks",
    "trust_state",
]


# In the order of the work. Those of the first row tell whether the states can be told at all, on
# which those of the second rest.
TRUST_FIRST = {
    CheckCode.SWAPPED_SENSORS: swapped_sensors,
    CheckCode.CLOCKS: clocks,
    CheckCode.RATE_REGISTERS: rate_register,
    CheckCode.OTHER_LOADS: other_loads,
}
ON_STATES = {
    CheckCode.FLOW_READING: flow_scatter,
    CheckCode.PAIR_OFFSET: pair_offset,
    CheckCode.STUCK_READINGS: stuck,
    CheckCode.CONSUMERS: consumers,
}
ON_BOTH_SENSORS = {
    CheckCode.REGISTER_AGAINST_FLOW: register_against_flow,
    CheckCode.CONTROLLER_AGAINST_METER: controller,
}
ALONE = {
    CheckCode.GLYCOL: glycol,
    CheckCode.YIELD_AS_HEAT: yield_as_heat,
    CheckCode.PHYSICAL_BOUND: beyond_physics,
    CheckCode.BEYOND_TABLE: beyond_table,
    CheckCode.SPIKES: spikes,
    CheckCode.RESOLUTION: resolution,
    CheckCode.COUNTER_RESETS: counter_resets,
    CheckCode.GAPS: gaps,
    CheckCode.OUTDOOR_SENSOR: outdoor_sensor,
}
CODES = (*TRUST_FIRST, *ON_STATES, *ON_BOTH_SENSORS, *ALONE)
HIDDEN = {
    CheckCode.CLOCKS: "not_while_clocks",
    CheckCode.RATE_REGISTERS: "not_while_rate_registers",
    CheckCode.OTHER_LOADS: "not_while_other_loads",
}


def checks(context: CheckContext, codes: frozenset[CheckCode] | None = None) -> tuple[Check, ...]:
    """The checks of a record; codes : those to make, None: all.

    A check that rests on what another has found ill is not made, and says so.
    """

    def wanted(code: CheckCode) -> bool:
        return codes is None or code in codes

    found = {code: check(context) for code, check in TRUST_FIRST.items() if wanted(code)}
    swapped = (
        say("not_while_swapped")
        if CheckCode.SWAPPED_SENSORS in found and found[CheckCode.SWAPPED_SENSORS].unsound
        else None
    )
    hidden = next(
        (say(w) for n, w in HIDDEN.items() if n in found and found[n].unsound and found[n].affects),
        None,
    )
    for code, on_states in ON_STATES.items():
        if wanted(code):
            why = hidden or (swapped if on_states is pair_offset else None)
            found[code] = not_checkable(code, why) if why else on_states(context)
    for code, on_both in ON_BOTH_SENSORS.items():
        if wanted(code):
            found[code] = not_checkable(code, swapped) if swapped else on_both(context)
    found |= {code: check(context) for code, check in ALONE.items() if wanted(code)}
    return tuple(found.values())
