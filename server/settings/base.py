"""Settings that hold everywhere. What differs between places comes from EMBER_… variables."""

import os
import secrets
from pathlib import Path

from csp.constants import NONCE

BASE_DIR = Path(__file__).resolve().parent.parent.parent
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
# A demo signs in who opens the address that it printed, on the same machine.
DEMO = False
# Whose installations these are; stands above the fleet.
PLACE = os.environ.get("EMBER_PLACE", "")
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
    "csp",
    "ninja",
    "server.jobs",  # before huey: its command for the worker is the one that is run
    "huey.contrib.djhuey",
    "django_tasks",
    "server.accounts",
    "server.systems",
    "server.readings",
    "server.assessments",
    "server.background",
    "server.demo",
    "server.api",
]
MIDDLEWARE = [
    "server.api.request.Identified",
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.accounts.demo.DemoSignIn",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = 0.25  # [h]
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "server.accounts.views.locked_out"
AXES_CLIENT_IP_CALLABLE = "server.accounts.views.address_of"
AXES_WHITELIST_CALLABLE = "server.accounts.views.is_known"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
# Proxies of one's own in front; the address that the outermost of them saw counts.
PROXIES = int(os.environ.get("EMBER_PROXIES", "0"))
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        # MUI's styles are added to the page by its script, with the page's nonce.
        "style-src-elem": ["'self'", NONCE],
        "style-src-attr": ["'unsafe-inline'"],
        "img-src": ["'self'", "data:", "blob:"],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "base-uri": ["'none'"],
        "form-action": ["'self'"],
        "frame-ancestors": ["'none'"],
    }
}
ROOT_URLCONF = "server.urls"
WSGI_APPLICATION = "server.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = os.environ.get("EMBER_HTTPS") == "1"
CSRF_FAILURE_VIEW = "server.accounts.views.csrf_failure"

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
# One line an event, and a traceback where the program failed, on standard error: who runs it sends
# that where logs are kept. EMBER_LOG says from which level on.
SUSPICIOUS = (
    "DisallowedHost", "RequestDataTooBig", "SuspiciousOperation", "TooManyFieldsSent",
    "TooManyFilesSent", "SuspiciousFileOperation",
)  # fmt: skip
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {
        "request": {"()": "server.api.request.WithRequest"},
        "brief": {"()": "server.api.request.Brief"},
    },
    "formatters": {
        "line": {
            "format": "%(asctime)s %(levelname)s %(name)s [%(request_id)s] %(message)s",
        }
    },
    "handlers": {
        "stderr": {
            "class": "logging.StreamHandler", "formatter": "line", "filters": ["request"],
        }
    },
    "root": {"handlers": ["stderr"], "level": os.environ.get("EMBER_LOG", "WARNING")},
    "loggers": {
        "django": {"handlers": [], "level": "NOTSET", "propagate": True},
        # What is refused (4xx) is answered; only failures are for the log.
        "django.request": {"level": "ERROR"},
        **{f"django.security.{kind}": {"filters": ["brief"]} for kind in SUSPICIOUS},
        "huey": {"level": "WARNING"},
    },
}  # fmt: skip
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
