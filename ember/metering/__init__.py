"""Energy of each meter in each cell, with its errors; and which levels H1–H4 can be computed.

In: a corrected trace and its description. Out: `MeterEnergies`, and a `MeterCombination` for each
level. May import: `ember.basis`, `ember.description`, `ember.properties`.
"""

from ember.metering.fixed import fixed_power
from ember.metering.meter_energy import EnergyComponent, MeterEnergies, MeterEnergy
from ember.metering.read import electricity_of, meter, unit_energy
from ember.metering.refrigerant import lacking, refrigerant_heat
from ember.metering.tank import tank_charge

__all__ = [
    "EnergyComponent",
    "MeterEnergies",
    "MeterEnergy",
    "electricity_of",
    "fixed_power",
    "lacking",
    "meter",
    "refrigerant_heat",
    "tank_charge",
    "unit_energy",
]  # fmt: skip
