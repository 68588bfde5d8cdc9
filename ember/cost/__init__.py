"""Money: what the electricity costs, by tariff band in local time."""

from ember.cost.running_cost import BandCost, Cost, carbon_of, cost
from ember.cost.tariff import Windows, windows

__all__ = ["BandCost", "Cost", "Windows", "carbon_of", "cost", "windows"]
