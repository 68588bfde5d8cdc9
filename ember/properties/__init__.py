"""What carries the heat: water and glycol mixtures, from baked property tables."""

from ember.properties.liquid import Fluid, FluidKind, Liquid, liquid

__all__ = ["Fluid", "FluidKind", "Liquid", "liquid"]
