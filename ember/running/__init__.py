"""Running: the state of the unit in every cell, its runs and defrosts."""

from ember.running.states import Basis, Running, State, running
from ember.running.summary import RunningSummary, summarise

__all__ = ["Basis", "Running", "RunningSummary", "State", "running", "summarise"]
