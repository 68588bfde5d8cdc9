"""What the unit does: the state of each cell, and from it runs, starts, defrosts, hot water, hours.

In: a trace with its meters' energy. Out: states and tables of arrays. May import:
`ember.metering` and what stands before it.
"""

from ember.running.state import Basis, Running, State
from ember.running.states import running
from ember.running.summary import RunningSummary, summarise

__all__ = ["Basis", "Running", "RunningSummary", "State", "running", "summarise"]
