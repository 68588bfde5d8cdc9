"""Settings of the demo: it signs in who opens the address that it printed, on the same machine."""

import os

from server.settings.base import *  # noqa: F403

DEMO = True
PLACE = os.environ.get("EMBER_PLACE", "Varrick Sound")
