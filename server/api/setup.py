"""Set up: the description of a system, looked at, changed, and put back."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import orjson
from django.http import HttpRequest, HttpResponse
from ninja import Body, Router

from ember.basis.channels import QUANTITIES, Kind
from ember.basis.errors import DescriptionError, EmberError
from ember.basis.quantity import compatible_units, symbol
from ember.boundary import Level, combinations_if_logged
from ember.boundary.combinations import consumers_of, takes_part
from ember.description.as_json import installation_from_json, installation_to_json, problems_of
from ember.description.fresh import fresh
from ember.description.house import Built, Emitters
from ember.description.installation import (
    Consumer,
    ElectricityAccuracy,
    HeatSource,
    Installation,
    Probes,
    Service,
)
from ember.description.logged import HandKind, Keeps
from ember.description.supply import Sharing, SolarWorth
from ember.description.tariff import PricesFrom, seasons
from ember.messages import Reason
from ember.properties.liquid import FluidKind
from ember.proposal.trial import tried
from server.api.files import attachment
from server.api.fleet import get_system
from server.assessments.cache import renew
from server.assessments.rows import KIND_WORDS
from server.systems.models import Description, System
from server.systems.names import twin_of

router = Router(tags=["setup"])
BUILT = {
    Built.BEFORE_1920: "before 1920",
    Built.TO_1950: "1920 – 1950",
    Built.TO_1980: "1950 – 1980",
    Built.TO_2000: "1980 – 2000",
    Built.TO_2015: "2000 – 2015",
    Built.SINCE_2015: "since 2015",
}

WORTH = {SolarWorth.EXPORT: "the export price forgone", SolarWorth.NOTHING: "nothing"}
SHARING = {
    Sharing.PROPORTIONAL: "each has the mix of the house",
    Sharing.OTHERS_FIRST: "the others first",
    Sharing.HEAT_PUMP_FIRST: "the heat pump first",
}


@dataclass(frozen=True)
class Named:
    """A choice by its value and in words."""

    value: str
    words: str


@dataclass(frozen=True)
class ConsumerShown:
    """What uses electricity, and the level nearest to the table that holds it."""

    value: str
    words: str
    level: str


@dataclass(frozen=True)
class LevelPromise:
    """A level, and why it could not be computed even if every meter were logged."""

    level: str
    words: str
    reason: Reason | None


@dataclass(frozen=True)
class ProblemShown:
    """What is wrong with a field of the description."""

    where: str
    what: str


@dataclass(frozen=True)
class EditionShown:
    """A description from a moment on."""

    id: int
    created: float
    user: str | None
    current: bool


@dataclass(frozen=True)
class SeasonClock:
    """A week on the wall clock, and the months in which it holds (1 = January). days : a weekday,
    Monday first, in stretches of [from, to, band], minutes after midnight; band −1: none named."""

    months: list[int]
    days: list[list[tuple[int, int, int]]]


@dataclass(frozen=True)
class EditionClock:
    """What a tariff holds from a date on, null for the first. ranks : of each band's price, and
    first of the hours that no band names, from 0 for the lowest to 1 for the highest."""

    since: str | None
    ranks: list[float]
    seasons: list[SeasonClock]


@dataclass(frozen=True)
class SetUp:
    """A description as the documented JSON, and what may be chosen in it. choices : by field, with
    units and channels. siblings : systems of the same property, this one among them. parts : in
    which figures each meter takes part. clock : the tariff as it is drawn, an edition at a
    time."""

    description: dict[str, Any]
    consumers: list[ConsumerShown]
    heat_sources: list[Named]
    accuracies: list[Named]
    probes: list[Named]
    levels: list[LevelPromise]
    parts: dict[str, list[str]]
    logged: list[str]
    history: list[EditionShown]
    choices: dict[str, list[Named]]
    fresh: dict[str, dict[str, Any]]
    siblings: list[int]
    clock: list[EditionClock]


@dataclass(frozen=True)
class Draft:
    """A description that is being changed. based_on : the edition it was made from, null where
    nobody else's change may be lost with it."""

    description: dict[str, Any]
    based_on: int | None


@dataclass(frozen=True)
class Checked:
    """What is wrong with a draft, and what it promises where nothing is."""

    problems: list[ProblemShown]
    levels: list[LevelPromise]
    parts: dict[str, list[str]]
    clock: list[EditionClock]


def _clock(installation: Installation) -> list[EditionClock]:
    """The tariff as it is drawn."""
    found = []
    for prices in installation.tariff.every if installation.tariff else ():
        since = prices.start.isoformat() if isinstance(prices, PricesFrom) else None
        paid = [prices.price, *(band.price for band in prices.bands)]
        steps = sorted(set(paid))
        ranks = [steps.index(one) / max(len(steps) - 1, 1) for one in paid]
        weeks = [SeasonClock(list(months), days) for months, days in seasons(prices)]
        found.append(EditionClock(since, ranks, weeks))
    return found


def _levels(system_or_text: str) -> list[LevelPromise]:
    installation = installation_from_json(system_or_text)
    on_air = installation.unit.on_air
    return [
        LevelPromise(p.level.value, p.level.words(on_air), p.reason)
        for p in combinations_if_logged(installation).values()
    ]


def _parts(text: str) -> dict[str, list[str]]:
    """In which figures each meter takes part, by its name."""
    return {n: list(said) for n, said in takes_part(installation_from_json(text)).items()}


def _words(value: str) -> str:
    return value.replace("_", " ")


def _accuracy(value: ElectricityAccuracy) -> Named:
    words = f"MID class {value.value}" if len(value.value) == 1 else _words(value.value)
    return Named(value.value, words)


def _probes(value: Probes) -> Named:
    pair = value == Probes.HEAT_METER_PAIR
    return Named(
        value.value, "pair of a heat meter" if pair else f"two probes, class {value.value}"
    )


def _shown(system: System) -> SetUp:
    installation = system.installation
    nearest_to_table = {
        consumer: next(level for level in Level if consumer in consumers_of(level))
        for consumer in Consumer
    }
    last = system.imports.filter(state="stored").order_by("-pk").first()
    report = orjson.loads(last.report)["intake"] if last else {"columns": []}
    editions = [
        EditionShown(
            e.pk,
            e.created.timestamp(),
            e.user.get_username() if e.user else None,
            e.text == system.description,
        )
        for e in system.history.select_related("user")[:20]
    ]
    return SetUp(
        description=orjson.loads(installation_to_json(installation)),
        consumers=[
            ConsumerShown(c.value, _words(c.value), nearest_to_table[c].value) for c in Consumer
        ],
        heat_sources=[Named(h.value, _words(h.value)) for h in HeatSource],
        accuracies=[_accuracy(a) for a in ElectricityAccuracy],
        probes=[_probes(p) for p in Probes],
        levels=_levels(system.description),
        parts=_parts(system.description),
        logged=[column["channel"] for column in report["columns"]],
        history=editions,
        choices=_choices(),
        fresh=fresh(),
        siblings=_siblings(system, installation.property),
        clock=_clock(installation),
    )


def _choices() -> dict[str, list[Named]]:
    """What fields may be, by their path; units by what they measure; channels."""
    enums: dict[str, type[StrEnum]] = {
        "house.emitters": Emitters,
        "house.built": Built,
        "fluid.kind": FluidKind,
        "by_hand.kind": HandKind,
        "by_hand.keeps": Keeps,
        "serves": Service,
    }
    found = {
        path: [Named(one.value, _words(one.value)) for one in kinds]
        for path, kinds in enums.items()
    }
    found["house.built"] = [Named(b.value, BUILT[b]) for b in Built]
    found["supply.solar_worth"] = [Named(w.value, words) for w, words in WORTH.items()]
    found["supply.sharing"] = [Named(s.value, words) for s, words in SHARING.items()]
    found["unit.kind"] = [Named(kind.value, words) for kind, words in KIND_WORDS.items()]
    fuels = ("gas", "oil", "lpg", "wood", "coal", "district_heat", "electricity")
    found["replaced.fuel"] = [Named(fuel, _words(fuel)) for fuel in fuels]
    readable = [q for q in QUANTITIES.values() if q.kind not in (Kind.COUNTER, Kind.FLAG)]
    found["channels"] = [Named(q.name, q.meaning) for q in readable]
    for unit in {"joule", *(q.unit for q in readable)}:
        found[f"units.{unit}"] = [Named(u, symbol(u)) for u in compatible_units(unit)]
    for quantity in readable:
        found[f"units of {quantity.name}"] = found[f"units.{quantity.unit}"]
    return found


def _siblings(system: System, property_: str | None) -> list[int]:
    """Systems of the same property, this one among them; nothing where it is the only one."""
    if property_ is None:
        return []
    same = [
        pk
        for pk, text in System.objects.order_by("name").values_list("pk", "description")
        if orjson.loads(text).get("property") == property_
    ]
    return same if len(same) > 1 else []


@router.get("/systems/{pk}/setup", response=SetUp)
def setup(request: HttpRequest, pk: int) -> SetUp:
    """How a system is described."""
    return _shown(get_system(pk))


@router.post("/systems/{pk}/setup/check", response=Checked)
def look_at(request: HttpRequest, pk: int, draft: Body[Draft]) -> Checked:
    """Looks at a draft; nothing is stored."""
    get_system(pk)
    text = orjson.dumps(draft.description).decode()
    problems = [ProblemShown(p.where, p.what) for p in problems_of(text)]
    if not problems:
        try:
            tried(installation_from_json(text))
        except EmberError as error:
            where, _, what = str(error).partition(": ")
            named = what and " " not in where
            problems = [ProblemShown(where, what) if named else ProblemShown("", str(error))]
    if problems:
        return Checked(problems, [], {}, [])
    return Checked([], _levels(text), _parts(text), _clock(installation_from_json(text)))


@router.put("/systems/{pk}/setup", response=SetUp)
def describe_anew(request: HttpRequest, pk: int, draft: Body[Draft]) -> SetUp:
    """Describes a system anew; its figures are worked out anew."""
    system = get_system(pk)
    latest = system.history.values_list("pk", flat=True).first()
    if draft.based_on is not None and draft.based_on != latest:
        raise DescriptionError(
            f"{system.name} was described anew meanwhile, here or by a correction in Trust. Your "
            "changes are still on the page; note them, load it again and make them there."
        )
    described = installation_from_json(orjson.dumps(draft.description), system.name)
    if (other := twin_of(described.name, pk)) is not None:
        raise DescriptionError(f"name: there is another system called '{other.name}'.")
    system.put(described, request.user)
    renew(system, request.user)
    return _shown(system)


@router.post("/systems/{pk}/setup/{edition}/put-back", response=SetUp)
def put_back(request: HttpRequest, pk: int, edition: int) -> SetUp:
    """Describes a system as it was before."""
    system = get_system(pk)
    found = Description.objects.filter(system=system, pk=edition).first()
    if found is None:
        raise DescriptionError(f"{system.name} has no earlier description {edition}.")
    return describe_anew(request, pk, Draft(orjson.loads(found.text), None))


@router.get("/systems/{pk}/installation.json")
def as_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The description as the documented JSON."""
    system = get_system(pk)
    response = HttpResponse(system.description, content_type="application/json")
    response["Content-Disposition"] = attachment(system.name, "json")
    return response
