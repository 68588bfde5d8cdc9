"""A demo signs its visitor in by the address that is printed where it was started: only from the
same machine, and each address once."""

import hmac
import os
import secrets
from collections.abc import Callable
from ipaddress import ip_address
from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect

DEMO_NAME = "analyst"
PARAMETER = "demo"


def demo_password() -> str:
    """The password of the demo's user, who is made if he is not there. It lies beside the data."""
    path = settings.VAR / "demo-password"
    if not path.exists():
        _write(path, secrets.token_urlsafe(6))
    password = path.read_text()
    user, made = get_user_model().objects.get_or_create(username=DEMO_NAME)
    if made or not user.check_password(password):
        user.set_password(password)
        user.save()
    return password


def entrance(base: str, var: Path | None = None) -> str:
    """An address that signs a browser in, once; it takes the place of the one before.

    Parameters
    ----------
    var : folder of the demo's data; None: this process's own.
    """
    token = secrets.token_urlsafe(16)
    _write((var or settings.VAR) / "demo-token", token)
    return f"{base}/?{PARAMETER}={token}"


def _write(path: Path, secret: str) -> None:
    """Written whole or not at all, for this user alone."""
    fresh = path.with_suffix(".new")
    fresh.unlink(missing_ok=True)
    with os.fdopen(os.open(fresh, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "w") as file:
        file.write(secret)
    fresh.replace(path)


class DemoSignIn:
    """Signs in who opens the address of a demo on its own machine."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The response, after signing in where that is due."""
        if settings.DEMO and request.method == "GET" and PARAMETER in request.GET:
            if _is_near(request) and _taken(request.GET[PARAMETER]):
                user = get_user_model().objects.get(username=DEMO_NAME)
                login(request, user, "django.contrib.auth.backends.ModelBackend")
            return HttpResponseRedirect(request.path)  # without it in the address
        return self.get_response(request)


def _taken(token: str) -> bool:
    """Whether a token is the demo's; it is worth nothing from then on."""
    path = settings.VAR / "demo-token"
    try:
        same = hmac.compare_digest(path.read_text().encode(), token.encode("utf-8", "replace"))
        if same:
            path.unlink()  # of two at the same time one fails here
    except FileNotFoundError:
        return False
    return same


def _is_near(request: HttpRequest) -> bool:
    """Whether a request comes from this machine."""
    try:
        return ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False
