"""Energy of each meter in each cell, with its errors; and which levels H1–H4 can be computed.

In: a corrected trace and its description. Out: `Streams`, and a `Plan` for each level. May
import: `ember.basis`, `ember.description`, `ember.properties`.
"""

from ember.metering.boundary import Level, Plan, plans, plans_if_logged
from ember.metering.fixed import fixed_power
from ember.metering.read import meter, unit_stream
from ember.metering.refrigerant import lacking, refrigerant_heat
from ember.metering.stream import Stream, Streams, Term
from ember.metering.tank import tank_lift

__all__ = [
    "Level", "Plan", "Stream", "Streams", "Term", "fixed_power", "lacking", "meter", "plans",
    "plans_if_logged", "refrigerant_heat", "tank_lift", "unit_stream",
]  # fmt: skip
