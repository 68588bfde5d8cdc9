"""Running: the state of the unit in every cell, its runs and defrosts."""

from ember.running.state import Basis, Running, State
from ember.running.states import running
from ember.running.summary import RunningSummary, summarise

__all__ = ["Basis", "Running", "RunningSummary", "State", "running", "summarise"]
