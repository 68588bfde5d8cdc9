"""Reckoning: heat and electricity over spans; the one place where a COP is made."""

from ember.reckoning.ledger import Ledger, Meter, ledger, refined
from ember.reckoning.reckon import Left, Line, Reckoning, reckon

__all__ = ["Ledger", "Left", "Line", "Meter", "Reckoning", "ledger", "reckon", "refined"]
