"""Trust: can the metering be believed? One module a check; checks propose, never correct."""

from ember.trust.check import Check, Effect, Picture, Series, Soundness, Touches
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


WITH_FLOW_AND_RETURN = {
    "pair offset": pair_offset,
    "register against flow × ΔT": two_ways,
    "controller against meter": controller,
}
ALONE = {
    "flow reading": flow_scatter,
    "glycol": glycol,
    "yield as heat": yield_as_heat,
    "rate registers": rate_register,
    "other loads": other_loads,
    "consumers": consumers,
    "physical bound": beyond_physics,
    "beyond the table": beyond_table,
    "stuck readings": stuck,
    "spikes": spikes,
    "resolution": resolution,
    "counter resets": counter_resets,
    "clocks": clocks,
    "gaps": gaps,
    "outdoor sensor": outdoor_sensor,
}


def checks(seen: Seen, names: frozenset[str] | None = None) -> tuple[Check, ...]:
    """The checks of a record; names : those to make, None: all."""
    swapped = swapped_sensors(seen)
    unfit = "Not while the sensors are swapped." if swapped.unsound else None
    found = [swapped]
    for name, check in WITH_FLOW_AND_RETURN.items():
        if names is None or name in names:
            found.append(check(seen, unfit))
    for name, alone in ALONE.items():
        if names is None or name in names:
            found.append(alone(seen))
    return tuple(found)
