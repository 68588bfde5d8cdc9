"""A demo signs its visitor in by itself, on the same machine only."""

from collections.abc import Callable
from ipaddress import ip_address

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse

NAME = "analyst"
PASSWORD = "ember-demo"  # printed by `make demo`; worth nothing beyond a loopback demo


def demo_user() -> None:
    """Makes the demo's user if it is not there."""
    users = get_user_model()
    if not users.objects.filter(username=NAME).exists():
        users.objects.create_user(NAME, password=PASSWORD)


class DemoSignIn:
    """Signs in who comes to a demo straight from this machine and has not signed out."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The response, after signing in where that is due."""
        if request.path == "/api/ingest":  # who sends readings has a token and needs no session
            return self.get_response(request)
        if settings.DEMO and not request.user.is_authenticated and _is_near(request):
            user = get_user_model().objects.filter(username=NAME).first()
            if user is not None and request.COOKIES.get("signed_out") != "1":
                login(request, user, "django.contrib.auth.backends.ModelBackend")
        return self.get_response(request)


def _is_near(request: HttpRequest) -> bool:
    """Whether a request comes from this machine, and not through a proxy on it."""
    if any(header in request.META for header in ("HTTP_X_FORWARDED_FOR", "HTTP_FORWARDED")):
        return False
    try:
        return ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False
