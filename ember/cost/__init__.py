"""What the electricity costs, by tariff band in local time, and what heat costs by other fuels.

In: a tariff and segments. Out: cost with its U, by band. May import: `ember.season` and what
stands before it.
"""

from ember.cost.fuels import (
    FUELS,
    HeatCost,
    HeatingValue,
    break_even_cop,
    cost_of_heat,
    fuel_named,
    pumped_heat,
    saved_by_pump,
)
from ember.cost.running_cost import BandCost, Cost, carbon_of, cost
from ember.cost.tariff import Windows, windows

__all__ = [
    "FUELS",
    "BandCost",
    "Cost",
    "HeatCost",
    "HeatingValue",
    "Windows",
    "break_even_cop",
    "carbon_of",
    "cost",
    "cost_of_heat",
    "fuel_named",
    "pumped_heat",
    "saved_by_pump",
    "windows",
]
