"""The rated table of a system: read from a paste or a file, looked at, saved; and the library."""

from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
import orjson
from django.http import HttpRequest
from ninja import Body, File, Router
from ninja.files import UploadedFile
from pydantic import Field

from ember.basis.codes import ReasonCode
from ember.basis.errors import TableError
from ember.description.as_json import installation_from_json, table_from_json, table_to_json
from ember.description.declared import Declared
from ember.description.installation import Installation, RatedTable, TableKind, table_kind
from ember.messages import Reason, because
from ember.rated import (
    LEVELS,
    Aux,
    Climate,
    Scop,
    TableDoubt,
    TableReading,
    TableSheet,
    cop_of,
    read_sheet,
    scop,
    scop_declared,
    standard_point,
    surface,
)
from ember.rated.climates import VARIABLE
from ember.rated.scop import least_share
from ember.unpacked import formats
from server.api.fleet import get_system
from server.api.jobs import JobShown, result_of
from server.api.jobs import shown as job_shown
from server.assessments.asis import as_shown, shape_of
from server.assessments.cache import renew
from server.jobs.queueing import start
from server.readings.store import NotThere, StoreError
from server.readings.uploads import aside, name_of
from server.systems.models import LibraryTable
from server.systems.names import clean

router = Router(tags=["rating"])
ScopOut: Any = shape_of(Scop)
RATED_LARGEST = 2 << 20  # of a table's file [B]


@dataclass(frozen=True)
class TablePoint:
    """A point of the maker's table [degC, kW, m3/h]; standard : its name, where it has one."""

    outdoor: float
    flow: float
    capacity_kw: float | None
    cop: float | None
    speed: str
    airflow_m3h: float | None
    standard: str | None


@dataclass(frozen=True)
class SurfaceLine:
    """The surface along one flow (or indoor) temperature at one speed: outdoor [degC] → COP, kW."""

    flow: float
    speed: str
    outdoor: list[float]
    cop: list[float | None]
    capacity_kw: list[float | None]


@dataclass(frozen=True)
class TableShown:
    """The maker's table. hull : cells that all their four points bound, as outdoor from, to, flow
    from, to. lines : the surface through it."""

    kind: str
    name: str | None
    outdoor_unit: str | None
    indoor_unit: str | None
    points: list[TablePoint]
    includes_defrost: bool
    tolerance: float
    main: str
    low_outdoor_limit: float | None
    minimum_hz: float | None
    nominal_hz: float | None
    maximum_hz: float | None
    hull: list[list[float]]
    lines: list[SurfaceLine]


@dataclass(frozen=True)
class InLibrary:
    """A table of the library."""

    id: int
    name: str
    kind: str
    points: int


@dataclass(frozen=True)
class PointShown:
    """A declared point; None where nothing is typed yet."""

    name: str
    outdoor: float
    flow: float
    capacity_kw: float | None
    cop: float | None
    cc: float | None


@dataclass(frozen=True)
class DeclaredShown:
    """A maker's declaration by EN 14825, as the form holds it."""

    climate: Climate
    level: int
    variable: bool
    design_load_kw: float | None
    bivalent: float | None
    low_limit: float | None
    thermostat_off: float | None
    standby: float | None
    crankcase: float | None
    off: float | None
    points: list[PointShown]


@dataclass(frozen=True)
class RatedShown:
    """A system's table, its SCOPs, and the library. kind : that fits the unit. declared : what the
    maker declares, with its SCOP; blanks : empty forms by climate and level."""

    table: TableShown | None
    kind: str
    nominal_kw: float | None
    low_outdoor_limit: float | None
    scops: list[ScopOut]
    scop_reason: Reason | None
    library: list[InLibrary]
    declared: DeclaredShown | None
    declared_scop: ScopOut | None
    blanks: list[DeclaredShown]


@dataclass(frozen=True)
class ReadAs:
    """How a sheet is to be, was or may be read."""

    units: dict[str, str]
    swapped: bool
    cop_over: float


@dataclass(frozen=True)
class SheetAsked:
    """A sheet as pasted. nominal_kw : of the unit described, None where it is not."""

    text: str
    kind: TableKind
    reading: ReadAs
    nominal_kw: Annotated[float, Field(gt=0, le=1e5)] | None


@dataclass(frozen=True)
class RatedEntry:
    """A row as read, in °C and kW; cop : as given, or from the input. used : it can be."""

    row: int
    outdoor: float | None
    flow: float | None
    capacity_kw: float | None
    input_kw: float | None
    cop: float | None
    speed: str
    airflow_m3h: float | None
    standard: str | None
    used: bool


@dataclass(frozen=True)
class RatedDoubt:
    """Something odd in a sheet; reading : with which it makes sense."""

    kind: str
    sentence: str
    rows: list[int]
    grave: bool
    remedy: str | None
    reading: ReadAs | None


@dataclass(frozen=True)
class RatedSheetShown:
    """A sheet as read. usable : it may be saved."""

    text: str
    entries: list[RatedEntry]
    units: dict[str, str]
    assumed: list[str]
    doubts: list[RatedDoubt]
    usable: bool
    includes_defrost: bool | None


@dataclass(frozen=True)
class RatedFile:
    """A table in a file; or the job that opens the file first."""

    sheet: RatedSheetShown | None
    opening: JobShown | None


@dataclass(frozen=True)
class Saved:
    """A table to be saved; None takes it away."""

    table: dict[str, Any] | None


@dataclass(frozen=True)
class ForLibrary:
    """A table for the library, under a name."""

    name: str
    table: dict[str, Any]


@router.get("/systems/{pk}/rated", response=RatedShown)
def rated(request: HttpRequest, pk: int) -> RatedShown:
    """The rated table of a system."""
    return shown(get_system(pk).installation)


def shown(installation: Installation) -> RatedShown:
    """A description's table with all that follows from it alone."""
    table = installation.rated
    scops, why = scops_of(installation) if table is not None else ([], because(ReasonCode.NO_TABLE))
    unit = installation.unit
    return RatedShown(
        table=None if table is None else table_shown(table),
        kind=kind_of(installation).value,
        nominal_kw=unit.capacity_kw,
        low_outdoor_limit=unit.low_outdoor_limit,
        scops=scops,
        scop_reason=why,
        library=library_rows(),
        declared=None if installation.declared is None else _declared(installation.declared),
        declared_scop=None
        if installation.declared is None
        else as_shown(scop_declared(installation.declared)),
        blanks=[_blank(climate, level) for climate in Climate for level in LEVELS],
    )


def _declared(found: Declared) -> DeclaredShown:
    aux = found.aux
    return DeclaredShown(
        climate=found.climate,
        level=found.level,
        variable=found.variable,
        design_load_kw=found.design_load_kw,
        bivalent=found.bivalent,
        low_limit=found.low_limit,
        thermostat_off=aux.thermostat_off,
        standby=aux.standby,
        crankcase=aux.crankcase,
        off=aux.off,
        points=[
            PointShown(p.name, p.outdoor, p.flow, p.capacity_kw, p.cop, p.cc) for p in found.points
        ],
    )


def _blank(climate: Climate, level: int) -> DeclaredShown:
    """An empty form: the points of a climate with their flow temperatures."""
    flows = dict(VARIABLE[climate][level])
    names = {-7: "A", 2: "B", 7: "C", 12: "D", -10: "E", -22: "E", -15: "G"}
    points = [
        PointShown(names[int(t)], float(t), float(flow), None, None, None)
        for t, flow in flows.items()
    ]
    return DeclaredShown(
        climate=climate,
        level=level,
        variable=True,
        design_load_kw=None,
        bivalent=None,
        low_limit=None,
        thermostat_off=None,
        standby=None,
        crankcase=None,
        off=None,
        points=points,
    )


@router.put("/systems/{pk}/declared", response=RatedShown)
def declare(request: HttpRequest, pk: int, asked: Body[DeclaredShown]) -> RatedShown:
    """Saves what the maker declares; points without capacity and COP are left out. What the form
    does not hold (hours of the states, loads of points) stays as it was described."""
    system = get_system(pk)
    value = orjson.loads(system.description)
    before = value.get("declared") or {}
    loads = {p["name"]: p.get("load_kw") for p in before.get("points", [])}
    points = [
        {
            "name": p.name,
            "outdoor": p.outdoor,
            "flow": p.flow,
            "capacity_kw": p.capacity_kw,
            "cop": p.cop,
            "cc": p.cc,
            "load_kw": loads.get(p.name),
        }
        for p in asked.points
        if p.capacity_kw is not None or p.cop is not None
    ]
    value["declared"] = {
        "climate": asked.climate,
        "level": asked.level,
        "variable": asked.variable,
        "design_load_kw": asked.design_load_kw,
        "bivalent": asked.bivalent,
        "low_limit": asked.low_limit,
        "points": points,
        "aux": {
            "thermostat_off": asked.thermostat_off,
            "standby": asked.standby,
            "crankcase": asked.crankcase,
            "off": asked.off,
        },
        "aux_hours": before.get("aux_hours") or {},
    }
    system.put(installation_from_json(orjson.dumps(value), system.name), request.user)
    renew(system, request.user)
    return shown(system.installation)


def kind_of(installation: Installation) -> TableKind:
    """The kind of table that fits a unit."""
    if installation.rated is not None:
        return installation.rated.kind
    return table_kind(installation.unit.kind)


def table_shown(table: RatedTable) -> TableShown:
    """A table with its surface."""
    points = [
        TablePoint(
            p.outdoor,
            p.flow,
            p.capacity_kw,
            p.cop,
            p.speed,
            p.airflow_m3h,
            standard_point(table.kind, p.outdoor, p.flow),
        )
        for p in sorted(table.points, key=lambda p: (p.speed, p.flow, p.outdoor))
    ]
    lines: list[SurfaceLine] = []
    hull: list[list[float]] = []
    for speed in table.speeds:
        try:
            shape = surface(table, speed)
        except TableError:
            continue
        grid = np.linspace(shape.outdoor[0], shape.outdoor[-1], 41)
        for flow in shape.flow.tolist():
            at = np.full(len(grid), flow)
            lines.append(
                SurfaceLine(
                    flow,
                    speed,
                    grid.tolist(),
                    _list(shape.cop(grid, at)),
                    _list(shape.capacity_at(grid, at) / 1000),
                )
            )
        if speed == table.main:
            full = np.isfinite(shape.share)
            cells = full[:-1, :-1] & full[1:, :-1] & full[:-1, 1:] & full[1:, 1:]
            hull = [
                [
                    float(shape.outdoor[i]),
                    float(shape.outdoor[i + 1]),
                    float(shape.flow[j]),
                    float(shape.flow[j + 1]),
                ]
                for i, j in zip(*np.nonzero(cells), strict=True)
            ]
    return TableShown(
        kind=table.kind.value,
        name=table.name,
        outdoor_unit=table.outdoor_unit,
        indoor_unit=table.indoor_unit,
        points=points,
        includes_defrost=table.includes_defrost,
        tolerance=table.tolerance,
        main=table.main,
        low_outdoor_limit=table.low_outdoor_limit,
        minimum_hz=table.minimum_hz,
        nominal_hz=table.nominal_hz,
        maximum_hz=table.maximum_hz,
        hull=hull,
        lines=lines,
    )


def _list(values: np.ndarray) -> list[float | None]:
    return [float(v) if np.isfinite(v) else None for v in values]


def scops_of(installation: Installation) -> tuple[list[Any], Reason | None]:
    """SCOPs of the table: three climates, and the levels of flow temperature it supports."""
    table = installation.rated
    assert table is not None
    if not (table.gives_cop and table.gives_capacity):
        lacks = "capacity" if table.gives_cop else "COP"
        return [], because(ReasonCode.TABLE_LACKS, what=lacks)
    if table.kind == TableKind.GROUND:
        return [], because(ReasonCode.BRINE_NOT_BINNED)
    levels = LEVELS if table.kind == TableKind.WATER else (35,)
    least = least_share(installation)
    found = []
    for climate in Climate:
        for level in levels:
            try:
                one = scop(table, climate, level, aux=Aux(), least_share=least)
            except TableError as error:
                return [], because(ReasonCode.NOT_WORKED_OUT, words=error)
            found.append(as_shown(one))
    return found, None


@router.post("/rated/read", response=RatedSheetShown)
def read(request: HttpRequest, asked: Body[SheetAsked]) -> RatedSheetShown:
    """Reads a pasted sheet; nothing is stored."""
    reading = TableReading(asked.reading.units, asked.reading.swapped, asked.reading.cop_over)
    return _sheet(asked.text, read_sheet(asked.text, asked.kind, reading, asked.nominal_kw))


@router.post("/rated/file", response=RatedFile)
def read_file(
    request: HttpRequest,
    file: File[UploadedFile],
    kind: TableKind = TableKind.WATER,
    nominal_kw: Annotated[float, Field(gt=0, le=1e5)] | None = None,
) -> RatedFile:
    """Reads a table from CSV at once, from XLSX or ODS by a job; nothing is stored."""
    name = name_of(file, "table.csv")
    if (file.size or 0) > RATED_LARGEST:
        raise TableError(f"{name}: larger than {RATED_LARGEST >> 20} MB; a rated table is small.")
    content = file.read()
    if formats.kind_of(content[: formats.FORMATS_HEAD]) == "spreadsheet":
        path = aside() / name
        path.parent.mkdir(parents=True)
        path.write_bytes(content)
        job = start("table", f"Opening {name}"[:200], None, request.user, file=str(path))
        return RatedFile(None, job_shown(job))
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise TableError(f"{name}: this is neither a spreadsheet nor text in UTF-8.") from error
    return RatedFile(_sheet(text, read_sheet(text, kind, nominal_kw=nominal_kw)), None)


@router.get("/jobs/{job}/table", response=RatedSheetShown)
def opened_file(
    request: HttpRequest,
    job: int,
    kind: TableKind = TableKind.WATER,
    nominal_kw: Annotated[float, Field(gt=0, le=1e5)] | None = None,
) -> RatedSheetShown:
    """The table of a spreadsheet, once the job that opens it is done."""
    text = result_of(job, "text")
    return _sheet(text, read_sheet(text, kind, nominal_kw=nominal_kw))


def _sheet(text: str, sheet: TableSheet) -> RatedSheetShown:
    return RatedSheetShown(
        text,
        [
            RatedEntry(
                row=e.row,
                outdoor=e.outdoor,
                flow=e.flow,
                capacity_kw=e.capacity_kw,
                input_kw=e.input_kw,
                cop=cop_of(e),
                speed=e.speed,
                airflow_m3h=e.airflow_m3h,
                standard=standard_point(sheet.kind, e.outdoor, e.flow)
                if e.outdoor is not None and e.flow is not None
                else None,
                used=e.row not in sheet.left_out,
            )
            for e in sheet.entries
        ],
        sheet.units,
        list(sheet.assumed),
        [_doubt(d) for d in sheet.doubts],
        not any(d.grave for d in sheet.doubts) and len(sheet.points) >= 2,
        sheet.includes_defrost,
    )


def _doubt(doubt: TableDoubt) -> RatedDoubt:
    reading = doubt.reading
    return RatedDoubt(
        doubt.kind,
        doubt.sentence,
        list(doubt.rows),
        doubt.grave,
        doubt.remedy,
        ReadAs(dict(reading.units), reading.swapped, reading.cop_over) if reading else None,
    )


@router.put("/systems/{pk}/rated", response=RatedShown)
def save(request: HttpRequest, pk: int, asked: Body[Saved]) -> RatedShown:
    """Saves a system's rated table; its figures are worked out anew. The description before stays
    in its history, where it can be put back."""
    system = get_system(pk)
    made = None
    if asked.table is not None:
        made = table_from_json(asked.table)
        for speed in made.speeds:
            surface(made, speed)
    value = orjson.loads(system.description)
    value["rated"] = None if made is None else table_to_json(made)
    system.put(installation_from_json(orjson.dumps(value), system.name), request.user)
    renew(system, request.user)
    return shown(system.installation)


@router.get("/library", response=list[InLibrary])
def library(request: HttpRequest) -> list[InLibrary]:
    """The library of rated tables."""
    return library_rows()


def library_rows() -> list[InLibrary]:
    """Its tables by name."""
    found = []
    for row in LibraryTable.objects.all():
        table = table_from_json(orjson.loads(row.table))
        found.append(InLibrary(row.pk, row.name, table.kind.value, len(table.points)))
    return found


@router.post("/library", response=list[InLibrary])
def put_in_library(request: HttpRequest, asked: Body[ForLibrary]) -> list[InLibrary]:
    """Puts a table into the library, or replaces the one of that name."""
    if not asked.name.strip():
        raise StoreError("name: say of which type of unit it is, by type and size.")
    name = clean(asked.name)
    table = table_from_json({**asked.table, "name": name})
    user: Any = request.user
    LibraryTable.objects.update_or_create(
        name=name, defaults={"table": orjson.dumps(table_to_json(table)).decode(), "user": user}
    )
    return library_rows()


@router.get("/library/{pk}", response=TableShown)
def from_library(request: HttpRequest, pk: int) -> TableShown:
    """A table of the library."""
    return table_shown(table_from_json(orjson.loads(_row(pk).table)))


@router.delete("/library/{pk}", response=list[InLibrary])
def remove(request: HttpRequest, pk: int) -> list[InLibrary]:
    """Takes a table out of the library; systems that use it keep theirs."""
    _row(pk).delete()
    return library_rows()


def _row(pk: int) -> LibraryTable:
    found = LibraryTable.objects.filter(pk=pk).first()
    if found is None:
        raise NotThere(f"There is no table {pk} in the library; it may have been removed.")
    return found
