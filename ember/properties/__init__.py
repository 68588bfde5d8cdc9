"""What carries the heat: water and glycol mixtures, refrigerants, moist air, from baked tables.

In: temperatures and pressures as arrays, a fluid as described. Out: density, heat capacity,
enthalpy as arrays in SI. May import: `ember.basis`.
"""

from ember.properties.liquid import Fluid, FluidKind, Liquid, liquid

__all__ = ["Fluid", "FluidKind", "Liquid", "liquid"]
