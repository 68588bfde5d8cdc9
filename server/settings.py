"""Django's settings. Everything that differs between places comes from EMBER_… variables."""

import os
import secrets
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("EMBER_VAR", BASE_DIR / "var"))
VAR.mkdir(parents=True, exist_ok=True)
WEB = BASE_DIR / "web" / "dist"


def _secret() -> str:
    """The key that signs sessions: given, or made once and kept beside the data."""
    given = os.environ.get("EMBER_SECRET_KEY")
    if given:
        return given
    path = VAR / "secret"
    try:
        made = os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600)
    except FileExistsError:
        return path.read_text()
    with os.fdopen(made, "w") as file:
        file.write(secrets.token_urlsafe(48))
    return path.read_text()


SECRET_KEY = _secret()
DEBUG = False
# A demo signs its visitor in by itself, and only from the same machine.
DEMO = os.environ.get("EMBER_DEMO") == "1"
# Whose installations these are; stands above the fleet.
PLACE = os.environ.get("EMBER_PLACE", "Varrick Sound" if DEMO else "")
# Where outdoor weather can be fetched; empty for nowhere.
WEATHER = os.environ.get("EMBER_WEATHER", "").rstrip("/")
ALLOWED_HOSTS = os.environ.get("EMBER_HOSTS", "localhost,127.0.0.1").split(",")
USE_TZ = True
TIME_ZONE = "UTC"
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "axes",
    "ninja",
    "server.work",  # before huey: its command for the worker is the one that is run
    "huey.contrib.djhuey",
    "django_tasks",
    "server.people",
    "server.installations",
    "server.logbook",
    "server.analysis",
    "server.api",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.people.demo.DemoSignIn",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = 0.25  # [h]
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
ROOT_URLCONF = "server.urls"
WSGI_APPLICATION = "server.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = os.environ.get("EMBER_HTTPS") == "1"
CSRF_FAILURE_VIEW = "server.people.views.csrf_failure"

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "ember.sqlite3",
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            # FULL: what was acknowledged is on the disk, also after a power cut.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
        # A file: the in-memory database fails under parallel writes.
        "TEST": {"NAME": VAR / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Long work: Django's Tasks API, with huey's queue in a file of its own.
TASKS = {"default": {"BACKEND": "huey.contrib.djhuey.tasks_backend.HueyBackend"}}
HUEY = {
    "huey_class": "huey.SqliteHuey",
    "name": "ember",
    "filename": str(VAR / "queue.sqlite3"),
    "immediate": False,
    "consumer": {"workers": 1, "worker_type": "thread", "initial_delay": 0.05, "max_delay": 0.3},
}

STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATIC_ROOT.mkdir(exist_ok=True)
STATICFILES_DIRS = [WEB] if WEB.exists() else []
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/assets/.+-[\w-]{8}\."
UPLOADS = VAR / "uploads"
LARGEST_UPLOAD = 400 << 20  # bytes
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 << 20
FILE_UPLOAD_TEMP_DIR = None
TEST_RUNNER = "server.testing.CountingRunner"
