"""A system begun from its log: a description proposed, and tried on made-up readings.

In: logs, or a description. Out: a description with its questions; an error where the analysis
cannot bear it. May import: everything.
"""
