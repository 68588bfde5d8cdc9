"""What the electricity costs, by tariff band in local time.

In: a tariff and segments. Out: cost with its U, by band. May import: `ember.season` and what
stands before it.
"""

from ember.cost.running_cost import BandCost, Cost, carbon_of, cost
from ember.cost.tariff import Windows, windows

__all__ = ["BandCost", "Cost", "Windows", "carbon_of", "cost", "windows"]
