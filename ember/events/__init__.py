"""Runs, starts, defrosts, hot-water charges and hours, as tables of arrays.

In: arrays of a trace whose states are known (`cells.Cells`). Out: one table a kind of event. May
import: `ember.states` and what stands before it.
"""

from ember.events.summary import RunningSummary, summarise

__all__ = ["RunningSummary", "summarise"]
