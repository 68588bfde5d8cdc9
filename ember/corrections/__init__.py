"""Accepted corrections, made in a trace and a description, and said in words.

In: a description with its corrections, and a trace. Out: both corrected; what is left out and why.
May import: `ember.description` and what stands before it.
"""
