"""Signing in where it is refused: sentences instead of pages; and who is not locked out."""

from typing import Any

from django.conf import settings
from django.core import signing
from django.http import HttpRequest, HttpResponse, JsonResponse

VIEWS_KNOWN = "known_browser"  # cookie of a browser in which somebody signed in before
KNOWN_FOR = 90 * 86_400  # [s]
LOCKED = (
    "Too many tries with this name from this network. Wait a quarter of an hour, or use a browser "
    "in which you signed in before."
)


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A request without its token."""
    said = "This page is out of date: reload it and try again."
    return JsonResponse({"detail": said}, status=403)


def locked_out(request: HttpRequest, *_: Any) -> JsonResponse:
    """Too many wrong passwords."""
    return JsonResponse({"detail": LOCKED}, status=429)


def remember_browser(response: HttpResponse, name: str) -> None:
    """Notes in a browser that somebody signed in with it."""
    response.set_cookie(
        VIEWS_KNOWN,
        signing.dumps(name, salt=VIEWS_KNOWN),
        max_age=KNOWN_FOR,
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )


def is_known(request: HttpRequest, credentials: dict[str, Any] | None = None) -> bool:
    """Whether somebody signed in under this name with this browser before: what others guess from
    the same network does not lock him out."""
    try:
        name = signing.loads(
            request.COOKIES.get(VIEWS_KNOWN, ""), salt=VIEWS_KNOWN, max_age=KNOWN_FOR
        )
    except signing.BadSignature:
        return False
    return bool(credentials) and name == (credentials or {}).get("username")


def address_of(request: HttpRequest) -> str:
    """Where a request comes from: behind EMBER_PROXIES proxies, what the outermost of them saw."""
    address: str = request.META.get("REMOTE_ADDR", "")
    seen = [a.strip() for a in request.headers.get("X-Forwarded-For", "").split(",") if a.strip()]
    if 0 < settings.PROXIES <= len(seen):
        address = seen[-settings.PROXIES]
    return address
