"""Stand-ins: a simulated house, heat pump, weather and meters, with the truth beside them.

They ship with the application for the demo and the tests. The core never sees the truth.
"""
