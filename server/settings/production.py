"""Settings of an installation at work: those of `base`, and what EMBER_… variables say."""

from server.settings.base import *  # noqa: F403
