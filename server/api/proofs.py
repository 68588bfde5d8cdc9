"""Proof: the budget of a figure, and links that give the same figure later."""

from dataclasses import asdict, dataclass
from secrets import token_urlsafe
from typing import Annotated, Any

import orjson
from django.http import HttpRequest
from ninja import Body, Router
from pydantic import Field

from ember.basis.codes import SourceCode
from ember.basis.errors import EmberError
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.messages import Source
from ember.reckoning import budget_of
from server.api.figures import SpanFigures, cut_to, span_figures
from server.api.fleet import get_system
from server.assessments.cache import state_of
from server.assessments.models import Proof
from server.readings.store import NotThere

router = Router(tags=["proof"])


@dataclass(frozen=True)
class BudgetLineShown:
    """One source of a figure's uncertainty; U is k = 2, share of the variance."""

    source: str
    U: float
    share: float
    random: bool


@dataclass(frozen=True)
class BudgetShown:
    """A budget in order of size; pays : what would pay most, with U if it were halved."""

    lines: list[BudgetLineShown]
    systematic: float
    random: float
    pays: str | None
    pays_U: float | None
    advice: str | None


# What figures have come to hold since proofs were first kept.
LATER = {"cooling": None}


@dataclass(frozen=True)
class Pinning:
    """The figure to make a link to: local start and stop, level, and which line of the sum."""

    start: str
    stop: str
    level: str
    what: str


@dataclass(frozen=True)
class Pinned:
    """The key of a link."""

    key: str


@dataclass(frozen=True)
class ProofShown:
    """A pinned figure: then, now, and whether anything changed. user : who made the link."""

    key: str
    system: int
    name: str
    zone: str
    made: float
    user: str | None
    level: str
    what: str
    changed: bool
    then: SpanFigures
    now: SpanFigures | None


Bounded = Annotated[float, Field(ge=-1e12, le=1e12)]


@dataclass(frozen=True)
class PartAsked:
    """One source of a figure's uncertainty, as the figure has it."""

    code: SourceCode
    of: Annotated[str, Field(max_length=300)]
    detail: Annotated[str, Field(max_length=300)]
    source: Annotated[str, Field(max_length=300)]
    u: Bounded
    random: bool


@dataclass(frozen=True)
class BudgetAsked:
    """A figure with its parts."""

    value: Bounded
    unit: Annotated[str, Field(max_length=60)]
    budget: Annotated[list[PartAsked], Field(max_length=500)]


@router.post("/budget", response=BudgetShown)
def budget(request: HttpRequest, asked: Body[BudgetAsked]) -> BudgetShown:
    """Where the uncertainty of a figure comes from, and which part would pay most to improve."""
    parts = tuple(
        UncertaintyComponent(Source(p.code, p.of, p.detail), p.u, p.random) for p in asked.budget
    )
    found = budget_of(Estimate(asked.value, asked.unit, parts))
    return BudgetShown(
        [BudgetLineShown(b.source, b.U, b.share, b.random) for b in found.lines],
        found.systematic,
        found.random,
        found.pays,
        found.pays_U,
        found.advice,
    )


@router.post("/systems/{pk}/proofs", response=Pinned)
def pin(request: HttpRequest, pk: int, asked: Body[Pinning]) -> Pinned:
    """Keeps a figure with its sum, so that a link to it gives the same later."""
    system = get_system(pk)
    cut = cut_to(system, asked.start, asked.stop)
    shown = span_figures(cut.analysis, cut.period, cut.stale)
    user: Any = request.user if getattr(request.user, "pk", None) else None
    made = Proof.objects.create(
        key=token_urlsafe(9),
        system=system,
        made_from=cut.made_from,
        user=user,
        asked=orjson.dumps(asdict(asked)).decode(),
        shown=orjson.dumps(asdict(shown), option=orjson.OPT_SERIALIZE_NUMPY).decode(),
    )
    return Pinned(made.key)


@router.get("/proofs/{key}", response=ProofShown)
def proof(request: HttpRequest, key: str) -> dict[str, Any]:
    """A pinned figure as it was, and as it is now."""
    cached = Proof.objects.select_related("system", "user").filter(key=key).first()
    if cached is None:
        raise NotThere("There is no such proof; its installation may have been removed.")
    asked = orjson.loads(cached.asked)
    changed = state_of(cached.system) != cached.made_from
    now = None
    if changed:
        try:
            cut = cut_to(cached.system, asked["start"], asked["stop"])
            now = span_figures(cut.analysis, cut.period, cut.stale)
        except EmberError:
            now = None  # said on the page: the readings are no longer there
    return {
        "key": cached.key,
        "system": cached.system_id,
        "name": cached.system.name,
        "zone": cached.system.installation.zone,
        "made": cached.made.timestamp(),
        "user": cached.user.get_username() if cached.user else None,
        "level": asked["level"],
        "what": asked["what"],
        "changed": changed,
        "now": now,
        "then": LATER | orjson.loads(cached.shown),
    }
