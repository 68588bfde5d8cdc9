"""What a browser gets when a form's token is missing."""

from django.http import HttpRequest, JsonResponse


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A sentence instead of a page."""
    said = "This page is out of date: reload it and try again."
    return JsonResponse({"detail": said}, status=403)
