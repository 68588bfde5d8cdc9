"""Tests mirror the rooms: core (no Django), server, browser."""

from hypothesis import HealthCheck, settings

# The same examples every time, and no test that fails because a machine is slow.
settings.register_profile(
    "ember", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("ember")
