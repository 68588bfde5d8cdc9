"""Trust: can the metering be believed? One module a check; checks propose, never correct."""

from ember.trust.check import Check, Soundness
from ember.trust.flow_scatter import flow_scatter
from ember.trust.physics import beyond_physics
from ember.trust.swapped import swapped_sensors
from ember.trust.two_ways import two_ways

__all__ = ["Check", "Soundness", "beyond_physics", "flow_scatter", "swapped_sensors", "two_ways"]
