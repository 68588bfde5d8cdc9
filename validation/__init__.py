"""Validation: what the core finds in simulated systems whose truth is known."""
