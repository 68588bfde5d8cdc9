"""What everything stands on: figures with their uncertainty, units, the clock, periods, series of
readings, the vocabulary of channels, errors.

In: nothing of the project. May import: nothing of the core but itself.
"""
