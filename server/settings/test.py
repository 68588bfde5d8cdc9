"""Settings of the tests."""

from server.settings.base import *  # noqa: F403

TEST_RUNNER = "server.testing.CountingRunner"
# Passwords of tests are hashed fast: that of real ones is slow on purpose.
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
