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
from ember.cost.payback import Payback, payback, payback_by_paths
from ember.cost.running_cost import (
    PRICE_KNOWN,
    PRICE_SUM,
    BandCost,
    Cost,
    carbon_of,
    cost,
    cost_at_moments,
    own_of,
    price_of_segments,
)
from ember.cost.supply import (
    SUPPLY_KNOWN,
    Own,
    battery_efficiency,
    own_told,
    supply_said,
    supply_sums,
)
from ember.cost.tariff import Slot, Windows, slots_of, standing_charge, windows

__all__ = [
    "FUELS",
    "PRICE_KNOWN",
    "PRICE_SUM",
    "SUPPLY_KNOWN",
    "BandCost",
    "Cost",
    "HeatCost",
    "HeatingValue",
    "Own",
    "Payback",
    "Slot",
    "Windows",
    "battery_efficiency",
    "break_even_cop",
    "carbon_of",
    "cost",
    "cost_at_moments",
    "cost_of_heat",
    "fuel_named",
    "own_of",
    "own_told",
    "payback",
    "payback_by_paths",
    "price_of_segments",
    "pumped_heat",
    "saved_by_pump",
    "slots_of",
    "standing_charge",
    "supply_said",
    "supply_sums",
    "windows",
]
