"""The sum a person could do by hand: segments, their sums with budgets, and the COP from them.

In: energy of each cell and its states. Out: `Ledger`, `Reckoning`. May import: `ember.running`
and what stands before it.
"""

from ember.reckoning.budget import Budget, BudgetLine, budget_of
from ember.reckoning.ledger import Ledger, Meter, ledger, refined
from ember.reckoning.missing import MissingPart, missing_part
from ember.reckoning.reckon import Left, Line, Reckoning, Sums, reckon, reckon_sums
from ember.reckoning.ways import Way, heat_ways
from ember.reckoning.whole import of_whole_period

__all__ = [
    "Budget", "BudgetLine", "Ledger", "Left", "Line", "Meter", "MissingPart", "Reckoning", "Sums",
    "Way", "budget_of", "heat_ways", "ledger", "missing_part", "of_whole_period", "reckon",
    "reckon_sums", "refined",
]  # fmt: skip
