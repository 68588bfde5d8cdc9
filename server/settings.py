"""Django's settings."""

import os
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
# Commands on files need no key; a server that signs anything will ask for one of its own.
SECRET_KEY = os.environ.get("EMBER_SECRET_KEY", "only-for-commands-without-sessions")
DEBUG = False
USE_TZ = True
TIME_ZONE = "UTC"
INSTALLED_APPS = ["server.installations", "server.logbook", "server.analysis"]
VAR = Path(os.environ.get("EMBER_VAR", BASE_DIR / "var"))
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "ember.sqlite3",
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
        # A file: the in-memory database fails under parallel writes.
        "TEST": {"NAME": VAR / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TEST_RUNNER = "server.testing.CountingRunner"
