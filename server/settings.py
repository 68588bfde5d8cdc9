"""Django's settings."""

import os
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
# Commands on files need no key; a server that signs anything will ask for one of its own.
SECRET_KEY = os.environ.get("EMBER_SECRET_KEY", "only-for-commands-without-sessions")
DEBUG = False
USE_TZ = True
TIME_ZONE = "UTC"
INSTALLED_APPS = ["server.analysis"]
DATABASES = {
    "default": {"ENGINE": "django.db.backends.sqlite3", "NAME": BASE_DIR / "var" / "ember.sqlite3"}
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TEST_RUNNER = "server.testing.CountingRunner"
