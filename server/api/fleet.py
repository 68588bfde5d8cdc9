"""The installations as a list, and one of them."""

from dataclasses import asdict, dataclass, replace

import orjson
from django.http import HttpRequest, HttpResponse
from ninja import Body, File, Router
from ninja.files import UploadedFile

from ember.basis.errors import DescriptionError
from ember.description.as_json import installation_from_json
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    Installation,
    TableKind,
    WaterCircuit,
    table_kind,
)
from ember.rated import table_from_csv
from server.assessments.cache import days_of, renew, state_of, steady, stored_imports
from server.assessments.models import CachedResults
from server.assessments.rows import DaysShown, FleetSystem, before_any, fleet_system, unit_words
from server.jobs.models import Job
from server.readings.models import Import
from server.readings.record import by_hand, readings_of
from server.readings.store import NotThere
from server.systems.models import System
from server.systems.names import twin_of

router = Router(tags=["fleet"])


@dataclass(frozen=True)
class FleetRow:
    """made : whether there are figures; stale : whether they are of other readings or another
    description than now; working : whether a job is at them."""

    id: int
    made: bool
    stale: bool
    working: bool
    system: FleetSystem


@dataclass(frozen=True)
class Fleet:
    """All systems, that with the most electricity lost first: currencies may differ."""

    rows: list[FleetRow]


@dataclass(frozen=True)
class Described:
    """A system by its key and name."""

    id: int
    name: str


@dataclass(frozen=True)
class Beginning:
    """A name for a new system, and the zone of its local time."""

    name: str
    zone: str


@dataclass(frozen=True)
class SystemShown:
    """One system: what the frame needs. zone : of its local time; currency : of its tariff;
    by_table : what its rated table says of the house before anything is worked out. units : in
    which its people read it, "si" or "us", null where each chooses. by_air : the unit gives its
    heat to room air. by_hand : its record is what people read at its meters, so many times.
    without_runs : why nothing is said of runs; null where it is."""

    id: int
    name: str
    unit: str
    zone: str
    currency: str | None
    by_table: str | None
    units: str | None
    step: int | None
    start: float | None
    stop: float | None
    stale: bool
    days: DaysShown | None
    corrections: list[str]
    by_air: bool
    by_hand: int | None
    without_runs: str | None


@router.get("/systems", response=Fleet)
def fleet(request: HttpRequest) -> HttpResponse:
    """All systems, that with the most electricity lost first: currencies may differ."""
    return HttpResponse(orjson.dumps({"rows": fleet_rows()}), content_type="application/json")


def fleet_rows() -> list[dict[str, object]]:
    """The rows; what was worked out is JSON already and passes through."""
    cached = {
        k.system_id: k for k in CachedResults.objects.only("system_id", "made_from", "row", "lost")
    }
    busy = set(
        Job.objects.filter(state__in=(Job.State.WAITING, Job.State.RUNNING)).values_list(
            "system_id", flat=True
        )
    )
    stored = stored_imports()
    systems = sorted(
        System.objects.all(),
        key=lambda s: (-(cached[s.pk].lost if s.pk in cached else -1.0), s.name),
    )
    rows: list[dict[str, object]] = []
    for system in systems:
        mine = cached.get(system.pk)
        if mine is None:
            shown: object = asdict(fleet_system(system.installation, None, []))
        else:
            shown = orjson.Fragment(mine.row)
        rows.append(
            {
                "id": system.pk,
                "made": mine is not None,
                "stale": mine is not None
                and mine.made_from != state_of(system, stored.get(system.pk, [])),
                "working": system.pk in busy,
                "system": shown,
            }
        )
    return rows


@router.post("/systems/begun", response=Described)
def begin(request: HttpRequest, asked: Body[Beginning]) -> Described:
    """Adds a system by its name, with the usual meters; Set up says the rest."""
    unit = (Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS)
    described = Installation(
        name=asked.name,
        zone=asked.zone.strip(),
        electricity=(ElectricityMeter("unit meter", "power:unit", unit),),
        circuits=(WaterCircuit("heat meter"),),
        consumers=(*unit, Consumer.DISTRIBUTION_PUMP),
    )
    if (other := twin_of(described.name)) is not None:
        raise DescriptionError(f"There is a system called '{other.name}' already.")
    made = System.describe(described)
    return Described(made.pk, made.name)


@router.get("/systems/{pk}", response=SystemShown)
def system(request: HttpRequest, pk: int) -> HttpResponse:
    """One system with every day of its record."""
    described = get_system(pk)
    installation = described.installation
    cached = None
    if CachedResults.objects.filter(system=described).exists():
        cached = steady(described, lambda found: (found, days_of(described, found)))
    shown: dict[str, object] = {
        "id": pk,
        "name": described.name,
        "unit": unit_words(installation),
        "zone": installation.zone,
        "currency": installation.tariff.currency if installation.tariff else None,
        "by_table": before_any(installation) if cached is None else None,
        "units": installation.units,
        "step": None,
        "start": None,
        "stop": None,
        "stale": False,
        "days": None,
        "corrections": [],
        "by_hand": None,
        "without_runs": None,
        "by_air": table_kind(installation.unit.kind) == TableKind.AIR,
    }
    if cached is not None:
        found, days = cached
        analysis = found.analysis
        shown |= {
            "step": analysis.segments.step,
            "start": analysis.start,
            "stop": analysis.stop,
            "stale": found.stale,
            "days": orjson.Fragment(days),
            "corrections": analysis.facts.corrections,
            "by_hand": len(readings_of(described)) if by_hand(described, analysis) else None,
            "without_runs": analysis.facts.without_runs,
        }
    return HttpResponse(orjson.dumps(shown), content_type="application/json")


@router.post("/systems", response=SystemShown)
def describe(
    request: HttpRequest, installation: File[UploadedFile], rated: File[UploadedFile] | None = None
) -> HttpResponse:
    """Adds a system from its description, JSON, and its rated table, CSV."""
    described = installation_from_json(installation.read(), installation.name or "description")
    if (other := twin_of(described.name)) is not None:
        raise DescriptionError(
            f"There is a system called '{other.name}' already; give this one another name."
        )
    if rated is not None:
        try:
            text = rated.read().decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise DescriptionError(f"{rated.name}: this is no text in UTF-8.") from error
        described = replace(described, rated=table_from_csv(text, rated.name or "rated table"))
    made = System.describe(described)
    return system(request, made.pk)


@router.delete("/systems/{pk}", response=Described)
def remove(request: HttpRequest, pk: int) -> Described:
    """Removes a system of which nothing is stored."""
    found = get_system(pk)
    if found.imports.filter(state=Import.State.STORED).exists():
        raise DescriptionError(
            f"{found.name} has readings. Undo its imports first; then it can be removed."
        )
    gone = Described(found.pk, found.name)
    found.delete()
    return gone


@router.put("/systems/{pk}/figures", response=FleetRow)
def work_out(request: HttpRequest, pk: int) -> HttpResponse:
    """Works a system's figures out anew."""
    renew(get_system(pk), request.user)
    row = next(row for row in fleet_rows() if row["id"] == pk)
    return HttpResponse(orjson.dumps(row), content_type="application/json")


def get_system(pk: int) -> System:
    """A system by its key. Raises StoreError."""
    found = System.objects.filter(pk=pk).first()
    if found is None:
        raise NotThere(f"There is no system {pk}; it may have been removed.")
    return found
