"""What every request gets: an id by which its lines are found in the log, and an answer that is a
sentence even where the program failed."""

import logging
import secrets
import sys
from collections.abc import Callable
from contextvars import ContextVar

from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse, JsonResponse

from server.jobs.trouble import BUSY, TROUBLE_FULL, disk_full, store_busy

REQUEST_SOON = 5  # after which a busy store is asked again [s]
_current: ContextVar[str] = ContextVar("request", default="-")


class Identified:
    """Middleware: gives each request an id; it stands in the log's lines and in the answer."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The response, with the id in its header."""
        before = _current.set(secrets.token_hex(6))
        try:
            response = self.get_response(request)
            response["X-Request-ID"] = _current.get()
            return response
        finally:
            _current.reset(before)


class WithRequest(logging.Filter):
    """Puts the id of the request that is answered into a line of the log."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every line passes."""
        record.request_id = _current.get()
        return True


class Brief(logging.Filter):
    """Takes the traceback from a line: what a stranger sent is no fault of the program."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every line passes."""
        record.exc_info = record.exc_text = None
        return True


def said(request: HttpRequest, status: int, detail: str) -> HttpResponse:
    """A refusal: JSON for who asked the API, plain text for who asked for a page."""
    answer = {"detail": detail, "id": _current.get()}
    if request.path_info.startswith("/api/"):
        response: HttpResponse = JsonResponse(answer, status=status)
    else:
        text = f"{detail}\n\nrequest {answer['id']}\n"
        response = HttpResponse(text, status=status, content_type="text/plain; charset=utf-8")
    if status == 503:
        response["Retry-After"] = str(REQUEST_SOON)
    return response


def failed(request: HttpRequest) -> HttpResponse:
    """What nobody expected; Django has it in the log, with its traceback."""
    error = sys.exc_info()[1]
    if disk_full(error):
        return said(request, 507, TROUBLE_FULL)
    if store_busy(error):
        return said(request, 503, BUSY)
    return said(
        request,
        500,
        "This is a fault of the program, not of what you asked; nothing was stored by it. Try "
        f"again; if it stays so, the server's log says more under {_current.get()}.",
    )


def unclear(request: HttpRequest, exception: Exception) -> HttpResponse:
    """A request that cannot be understood."""
    if isinstance(exception, RequestDataTooBig):
        limit = (settings.DATA_UPLOAD_MAX_MEMORY_SIZE or 0) >> 20
        return said(request, 413, f"This request is larger than {limit} MB. Send it in parts.")
    return said(request, 400, f"This request cannot be read ({type(exception).__name__}).")


def missing(request: HttpRequest, exception: Exception) -> HttpResponse:
    """An address that is none."""
    return said(request, 404, "There is no such address.")
