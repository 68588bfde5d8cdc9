"""The sum a person could do by hand: segments, their sums with budgets, and the COP from them.

In: energy of each cell and its states. Out: `Segments`, `Reckoning`. May import: `ember.states`,
`ember.boundary` and what stands before them.
"""

from ember.reckoning.budget import Budget, BudgetLine, budget_of
from ember.reckoning.methods import HeatMethod, heat_methods
from ember.reckoning.missing import MissingPart, missing_part
from ember.reckoning.reckon import Left, Line, Reckoning, Sums, reckon, reckon_sums
from ember.reckoning.segments import Meter, Segments, refined, segmented
from ember.reckoning.whole import of_whole_period

__all__ = [
    "Budget",
    "BudgetLine",
    "HeatMethod",
    "Left",
    "Line",
    "Meter",
    "MissingPart",
    "Reckoning",
    "Segments",
    "Sums",
    "budget_of",
    "heat_methods",
    "missing_part",
    "of_whole_period",
    "reckon",
    "reckon_sums",
    "refined",
    "segmented",
]  # fmt: skip
