"""The API itself: its renderer, its errors, its rooms."""

from collections.abc import Callable
from functools import wraps
from typing import Any

import orjson
import pydantic
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.parser import Parser
from ninja.renderers import BaseRenderer
from ninja.security import django_auth

from ember import VERSION
from ember.basis.errors import EmberError
from ember.description.as_json import sentences
from server.api import (
    archives,
    changes,
    compared,
    comparison,
    entries,
    events,
    figures,
    findings,
    fleet,
    for_house,
    fuels,
    imports,
    jobs,
    loggers,
    money,
    proofs,
    proposal,
    rated_table,
    season,
    session,
    setup,
    sheet,
    trials,
    trust,
    what_if,
)
from server.api.request import said
from server.readings.store import Conflict, NotThere


class Strict(Parser):
    """JSON as it is defined: UTF-8 without half characters, numbers that are finite, and no NUL,
    which a name or a note has no use for."""

    def parse_body(self, request: HttpRequest) -> Any:
        """The body's content. Raises HttpError."""
        body = request.body
        try:
            found = orjson.loads(body)
        except orjson.JSONDecodeError as error:
            raise HttpError(400, f"The request is no JSON: {error}.") from error
        if b"\\u0000" in body:
            raise HttpError(400, "The request holds a NUL character (\\u0000); leave it out.")
        return found


class Numbers(BaseRenderer):
    """JSON with NumPy's numbers; what is not a number becomes null."""

    media_type = "application/json"

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> bytes:
        """The bytes."""
        return orjson.dumps(data, option=orjson.OPT_SERIALIZE_NUMPY)


def signed_in(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """A view for who is signed in."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            return said(request, 401, "Sign in first.")
        return view(request, *args, **kwargs)

    return guarded


api = NinjaAPI(
    title="Honest Ember",
    version=VERSION,
    description="What the screens read. Instants are seconds since 1970, UTC.",
    parser=Strict(),
    renderer=Numbers(),
    auth=django_auth,
    docs_url="/docs",
    docs_decorator=signed_in,
)
api.add_router("", session.router)
api.add_router("", fleet.router)
api.add_router("", compared.router)
api.add_router("", archives.router)
api.add_router("", proposal.router)
api.add_router("", figures.router)
api.add_router("", events.router)
api.add_router("", comparison.router)
api.add_router("", rated_table.router)
api.add_router("", for_house.router)
api.add_router("", findings.router)
api.add_router("", money.router)
api.add_router("", season.router)
api.add_router("", fuels.router)
api.add_router("", changes.router)
api.add_router("", trials.router)
api.add_router("", what_if.router)
api.add_router("", imports.router)
api.add_router("", jobs.router)
api.add_router("", setup.router)
api.add_router("", sheet.router)
api.add_router("", entries.router)
api.add_router("", loggers.router)
api.add_router("", trust.router)
api.add_router("", proofs.router)


@api.exception_handler(EmberError)
def refuse(request: HttpRequest, error: Exception) -> HttpResponse:
    """What the core or the store refuses: its sentence."""
    assert isinstance(error, EmberError)
    status = 404 if isinstance(error, NotThere) else 409 if isinstance(error, Conflict) else 422
    said = {"detail": str(error), "where": error.where}
    return api.create_response(request, said, status=status)


@api.exception_handler(pydantic.ValidationError)
def misdescribed(request: HttpRequest, error: Exception) -> HttpResponse:
    """A description that cannot be, made here: its fields and what is wrong with them."""
    assert isinstance(error, pydantic.ValidationError)
    return api.create_response(request, {"detail": sentences(error)}, status=422)


@api.exception_handler(ValidationError)
def unclear(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """A request that does not fit: which field, and why."""
    wrong = [
        (".".join(str(part) for part in item["loc"][1:]), item["msg"]) for item in error.errors
    ]
    said = "; ".join(f"{where}: {what}" for where, what in wrong)
    where = wrong[0][0].split(".")[-1] if len(wrong) == 1 else None
    return api.create_response(request, {"detail": said, "where": where}, status=422)


@api.exception_handler(AuthenticationError)
def stranger(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    """Nobody is signed in."""
    return api.create_response(request, {"detail": "Sign in first."}, status=401)
