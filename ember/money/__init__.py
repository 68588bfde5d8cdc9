"""Money: what the electricity costs, by tariff band in local time."""

from ember.money.cost import BandCost, Cost, carbon_of, cost
from ember.money.tariff import Windows, windows

__all__ = ["BandCost", "Cost", "Windows", "carbon_of", "cost", "windows"]
