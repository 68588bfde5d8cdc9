"""Can the metering be believed? One module a check; checks propose, never correct.

In: a record with its states (`Seen`). Out: `Check`s, and what may be claimed. May import:
`ember.rated` and what stands before it.
"""

from ember.trust.check import (
    Check,
    Effect,
    Picture,
    Series,
    Soundness,
    Touches,
    not_checkable,
)
from ember.trust.clocks import clocks
from ember.trust.consumers import consumers
from ember.trust.controller import controller
from ember.trust.flow_scatter import flow_scatter
from ember.trust.gaps import gaps
from ember.trust.glycol import glycol
from ember.trust.other_loads import other_loads
from ember.trust.outdoor import outdoor_sensor
from ember.trust.pair_offset import pair_offset
from ember.trust.physics import beyond_physics
from ember.trust.rate_register import rate_register
from ember.trust.resets import counter_resets
from ember.trust.resolution import resolution
from ember.trust.seen import Seen
from ember.trust.spikes import spikes
from ember.trust.state import Claim, TrustKind, TrustState, trust_state
from ember.trust.stuck import stuck
from ember.trust.swapped import swapped_sensors
from ember.trust.too_good import beyond_table
from ember.trust.two_ways import two_ways
from ember.trust.yield_as_heat import yield_as_heat

__all__ = [
    "NAMES",
    "Check",
    "Claim",
    "Effect",
    "Picture",
    "Seen",
    "Series",
    "Soundness",
    "Touches",
    "TrustKind",
    "TrustState",
    "checks",
    "trust_state",
]


# In the order of the work. Those of the first row tell whether the states can be told at all, on
# which those of the second rest.
FIRST = {
    "swapped sensors": swapped_sensors,
    "clocks": clocks,
    "rate registers": rate_register,
    "other loads": other_loads,
}
ON_STATES = {
    "flow reading": flow_scatter,
    "pair offset": pair_offset,
    "stuck readings": stuck,
    "consumers": consumers,
}
ON_BOTH_SENSORS = {
    "register against flow × ΔT": two_ways,
    "controller against meter": controller,
}
ALONE = {
    "glycol": glycol,
    "yield as heat": yield_as_heat,
    "physical bound": beyond_physics,
    "beyond the table": beyond_table,
    "spikes": spikes,
    "resolution": resolution,
    "counter resets": counter_resets,
    "gaps": gaps,
    "outdoor sensor": outdoor_sensor,
}
NAMES = (*FIRST, *ON_STATES, *ON_BOTH_SENSORS, *ALONE)
SWAPPED = "Not while the sensors are swapped."
HIDDEN = {
    "clocks": "Not while the clocks disagree: what the unit does cannot be told.",
    "rate registers": "Not while a rate register is missing: what the unit does cannot be told.",
    "other loads": "Not while other loads hide when the unit rests.",
}


def checks(seen: Seen, names: frozenset[str] | None = None) -> tuple[Check, ...]:
    """The checks of a record; names : those to make, None: all.

    A check that rests on what another has found ill is not made, and says so.
    """

    def wanted(name: str) -> bool:
        return names is None or name in names

    found = {name: check(seen) for name, check in FIRST.items() if wanted(name)}
    swapped = SWAPPED if "swapped sensors" in found and found["swapped sensors"].unsound else None
    hidden = next(
        (w for n, w in HIDDEN.items() if n in found and found[n].unsound and found[n].touches),
        None,
    )
    for name, on_states in ON_STATES.items():
        if wanted(name):
            why = hidden or (swapped if on_states is pair_offset else None)
            found[name] = not_checkable(name, why) if why else on_states(seen)
    for name, on_both in ON_BOTH_SENSORS.items():
        if wanted(name):
            found[name] = not_checkable(name, swapped) if swapped else on_both(seen)
    found |= {name: check(seen) for name, check in ALONE.items() if wanted(name)}
    return tuple(found.values())
