"""Running in tables: runs, starts, defrosts, hot water, control, inside, units side by side."""

import csv
from collections.abc import Iterable
from dataclasses import dataclass, fields
from io import StringIO
from typing import Any, Literal, get_args, get_type_hints
from zoneinfo import ZoneInfo

import numpy as np
import orjson
from django.http import HttpRequest, HttpResponse
from ninja import Router

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.clock import iso_local, local_days
from ember.basis.codes import ReasonCode
from ember.basis.errors import EmberError
from ember.basis.quantity import Estimate
from ember.messages import Reason, because
from ember.operation.within import Within
from ember.views.control import ControlSeen, control_seen
from ember.views.defrosts import DefrostRow, DefrostsSeen, defrosts_seen
from ember.views.hot_water import ChargeRow, WaterSeen, water_seen
from ember.views.inside import InsideSeen, inside_seen
from ember.views.runs import RunRow, RunsSeen, Which, runs_seen
from ember.views.starts import Filter, StartRow, StartsSeen, starts_seen
from ember.views.units import UNITS_MOST_BARS, MeterSeen, meters_seen
from server.api.figures import cut_to, span_of
from server.api.files import attachment, harmless
from server.api.fleet import get_system
from server.assessments.asis import as_shown, shape_of
from server.assessments.cache import find
from server.systems.models import System

router = Router(tags=["running"])
Runs: Any = shape_of(RunsSeen)
Starts: Any = shape_of(StartsSeen)
Defrosts: Any = shape_of(DefrostsSeen)
Water: Any = shape_of(WaterSeen)
Control: Any = shape_of(ControlSeen)
Inside: Any = shape_of(InsideSeen)
Meter: Any = shape_of(MeterSeen)
Order = Literal["time", "length", "electricity", "heat", "cop", "outdoor", "pause"]
Measure = Literal["length", "electricity", "heat", "cop", "outdoor", "pause"]
OPERATION_MOST_ROWS = 200


@dataclass(frozen=True)
class PropertyUnit:
    """One system of the property with its meters. reason : where nothing can be shown."""

    id: int
    name: str
    here: bool
    reason: Reason | None
    meters: list[Meter]


@dataclass(frozen=True)
class PropertyShown:
    """Units of one property side by side over a span; edges of the bars [s]."""

    property: str | None
    edges: list[float]
    units: list[PropertyUnit]


def within(pk: int, start: str, stop: str) -> Within:
    """A system's operation between two local days or times."""
    return cut_to(get_system(pk), start, stop, events=True).within


@router.get("/systems/{pk}/runs", response=Runs)
def runs(
    request: HttpRequest,
    pk: int,
    start: str,
    stop: str,
    order: Order = "time",
    descending: bool = False,
    first: int = 0,
    count: int = 100,
    by: Measure | None = None,
    least: float | None = None,
    most: float | None = None,
    mode: str | None = None,
) -> Any:
    """Runs of a period: how long, how often, and one page of their table; of a mode, and between
    two values of what they are measured by (length, pause [s], energies [kWh], outdoor [degC])."""
    shown = min(max(count, 1), OPERATION_MOST_ROWS)
    which = Which(by, least, most, mode)
    found = runs_seen(within(pk, start, stop), order, descending, max(first, 0), shown, which)
    return as_shown(found)


@router.get("/systems/{pk}/starts", response=Starts)
def starts(
    request: HttpRequest,
    pk: int,
    start: str,
    stop: str,
    mode: str | None = None,
    outdoor_low: float | None = None,
    outdoor_high: float | None = None,
    pause_low: float | None = None,
    pause_high: float | None = None,
) -> Any:
    """Starts of a period laid over one another; of a mode, between outdoor temperatures [degC] and
    pauses before them [s]."""
    asked = Filter(outdoor_low, outdoor_high, pause_low, pause_high, mode)
    return as_shown(starts_seen(within(pk, start, stop), asked))


@router.get("/systems/{pk}/defrosts", response=Defrosts)
def defrosts(request: HttpRequest, pk: int, start: str, stop: str) -> Any:
    """Defrosts of a period, their map, and what may be wrong with them."""
    return as_shown(defrosts_seen(within(pk, start, stop)))


@router.get("/systems/{pk}/hot-water", response=Water)
def hot_water(request: HttpRequest, pk: int, start: str, stop: str) -> Any:
    """Charges of the tank in a period."""
    return as_shown(water_seen(within(pk, start, stop)))


@router.get("/systems/{pk}/control", response=Control)
def control(request: HttpRequest, pk: int, start: str, stop: str) -> Any:
    """Weather curve, set-back, ΔT, pumps, buffer and rooms of a period."""
    return as_shown(control_seen(within(pk, start, stop)))


@router.get("/systems/{pk}/inside", response=Inside)
def inside(request: HttpRequest, pk: int, start: str, stop: str) -> Any:
    """What the refrigerant did in a period."""
    return as_shown(inside_seen(within(pk, start, stop)))


@router.get("/systems/{pk}/units", response=PropertyShown)
def units(request: HttpRequest, pk: int, start: str, stop: str) -> PropertyShown:
    """Every unit of the property, and every head and circuit, over the same span."""
    system = get_system(pk)
    found = find(system)
    period = span_of(found.analysis, start, stop)
    edges = _edges(found.analysis, period.start, period.stop)
    name = found.analysis.described.property
    shown = []
    for one in [system, *_siblings(system, name)]:
        try:
            cut = cut_to(one, start, stop)
            meters = as_shown(meters_seen(cut.analysis, cut.period, edges))
            why = cut.analysis.cop_reason
        except EmberError as error:  # not worked out yet, or no readings in this span
            meters, why = [], because(ReasonCode.NOT_WORKED_OUT, words=error)
        shown.append(PropertyUnit(one.pk, one.name, one.pk == system.pk, why, meters))
    return PropertyShown(name, edges, shown)


def _siblings(system: System, name: str | None) -> list[System]:
    if name is None:
        return []
    others = System.objects.exclude(pk=system.pk).order_by("name")
    return [o for o in others if orjson.loads(o.description).get("property") == name]


def _edges(analysis: RecordAnalysis, start: float, stop: float) -> list[float]:
    """Whole hours where there are few, else local midnights."""
    hours = (stop - start) / 3600
    if hours <= UNITS_MOST_BARS:
        first = start // 3600 * 3600
        return [float(t) for t in np.arange(first, stop + 3600, 3600)]
    _, midnights = local_days(int(start), int(stop), analysis.zone)
    per = max(1, -(-len(midnights) // UNITS_MOST_BARS))
    return [float(t) for t in [*midnights[:-1:per].tolist(), int(midnights[-1])]]


@router.get("/systems/{pk}/events.csv")
def events_csv(
    request: HttpRequest,
    pk: int,
    start: str,
    stop: str,
    what: Literal["runs", "starts", "defrosts", "hot-water"],
) -> HttpResponse:
    """The whole table of runs, starts, defrosts or charges of a period as CSV, each figure with
    its U."""
    inside = within(pk, start, stop)
    rows: Iterable[Any]
    kind: type[Any]
    if what == "runs":
        kind, rows = RunRow, runs_seen(inside, count=10**6).rows
    elif what == "starts":
        kind, rows = StartRow, starts_seen(inside).rows
    elif what == "defrosts":
        kind, rows = DefrostRow, defrosts_seen(inside, rows=10**6).rows
    else:
        kind, rows = ChargeRow, water_seen(inside, rows=10**6).rows
    text = StringIO()
    writer = csv.writer(text, lineterminator="\n")
    hints = get_type_hints(kind)
    names = [f.name for f in fields(kind) if f.name != "since_start"]
    pairs = {name for name in names if Estimate in (hints[name], *get_args(hints[name]))}
    writer.writerow(
        [head for name in names for head in ([name, f"U of {name}"] if name in pairs else [name])]
    )
    for row in rows:
        line: list[object] = []
        for name in names:
            value = getattr(row, name)
            if name in pairs:
                line += [f"{value.value:.5f}", f"{value.U:.5f}"] if value else ["", ""]
            else:
                line.append(_cell(name, value, inside.analysis.zone))
        writer.writerow(line)
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment(f"{get_system(pk).name} {what}", "csv")
    return response


def _cell(name: str, value: Any, zone: ZoneInfo) -> object:
    """What a cell holds: times by the local clock, lists in one, numbers as they are."""
    if name in ("start", "stop"):
        return iso_local(float(value), zone)
    if isinstance(value, list):
        return harmless("; ".join(value))
    return "" if value is None else harmless(value) if isinstance(value, str) else value
