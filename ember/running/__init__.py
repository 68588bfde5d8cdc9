"""Running: the state of the unit in every cell, its runs and defrosts."""

from ember.running.states import Running, State, running

__all__ = ["Running", "State", "running"]
