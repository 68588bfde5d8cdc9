"""The record of a system: what is logged, or, where no log counts its electricity, what people read
at its meters."""

from dataclasses import replace
from typing import Any

from django.db.models import Max, Min

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.series import Trace
from ember.description.installation import Installation
from ember.description.logged import HandSeries
from ember.readings import Reading, Sheet, record_of, sheet_of
from ember.readings.bills import as_readings
from ember.readings.record import read_by_hand, together
from server.readings.entries import bill_of, reading_of
from server.readings.models import Entry, Import
from server.readings.store import NotThere, StoreError, trace_of
from server.systems.models import System


def readings_of(system: System) -> list[Reading]:
    """The readings by hand of a system, in order of time."""
    return [reading_of(e) for e in system.entries.filter(kind=Entry.Kind.READING)]


def has_record(system: System) -> bool:
    """Whether anything is stored of which figures could be made."""
    if system.blocks.exists() or system.entries.filter(kind=Entry.Kind.READING).exists():
        return True
    return bool(_billed(system).exists())


def record(system: System) -> tuple[Installation, Trace]:
    """The record that figures rest on, with the description that fits it.

    Raises StoreError where there is none, IntakeError where readings by hand make none.
    """
    installation = system.installation
    trace, why = None, None
    try:
        trace = trace_of(system)
    except StoreError as error:
        why = error
    logged = trace is not None and any(m.channel in trace for m in installation.electricity)
    if not logged:
        found = _sheet(system, installation)
        if found is not None:
            sheet, series = found
            return record_of(sheet, series, trace)
    if trace is None:
        raise why or NotThere(f"{system.name}: no readings are stored.")
    return installation, trace


def _sheet(
    system: System, installation: Installation
) -> tuple[Sheet, tuple[HandSeries, ...]] | None:
    """What people read, else what was billed of the unit's own meters; None without either."""
    readings = readings_of(system) if installation.by_hand else []
    sheet = sheet_of(installation, readings) if readings else None
    if sheet is not None:
        return sheet, installation.by_hand
    bills = [bill_of(e) for e in system.entries.filter(kind=Entry.Kind.BILL)]
    series, billed = as_readings(bills, [m.name for m in installation.electricity])
    if not series:
        return None
    every = (*installation.by_hand, *series)
    sheet = sheet_of(replace(installation, by_hand=every), together([*readings, *billed]))
    return None if sheet is None else (sheet, every)


def _billed(system: System) -> Any:
    """The bills that count a meter of the unit's own."""
    bills = system.entries.filter(kind=Entry.Kind.BILL, content__before=False)
    return bills.filter(content__meter__in=[m.name for m in system.installation.electricity])


def span_of(system: System) -> tuple[int, int] | None:
    """From the first to the last reading, logged or by hand [s]; None where there is none."""
    stored = system.imports.filter(state=Import.State.STORED)
    logged = stored.aggregate(first=Min("start"), last=Max("stop"))
    ends = [int(t) for t in logged.values() if t is not None]
    hand = system.entries.filter(kind=Entry.Kind.READING).order_by("time")
    if system.installation.by_hand and hand.exists():
        ends += [hand[0].time, hand.reverse()[0].time]
    elif not system.blocks.exists():
        billed = _billed(system).aggregate(first=Min("time"), last=Max("stop"))
        ends += [int(t) for t in billed.values() if t is not None]
    return (min(ends), max(ends)) if ends and max(ends) > min(ends) else None


def by_hand(system: System, analysis: RecordAnalysis) -> bool:
    """Whether a record analysis was made of readings by hand, or of bills."""
    return read_by_hand(analysis.described) and (
        bool(system.installation.by_hand) or bool(_billed(system).exists())
    )


def part_of(system: System, analysis: RecordAnalysis, start: float, stop: float) -> Trace:
    """The part of the record between two instants, with the record analysis's channels, on its
    grid; all of it where registers are read so seldom that a part of their readings says nothing.

    Raises StoreError where nothing is stored of that time.
    """
    if by_hand(system, analysis):
        return record(system)[1]
    return trace_of(system, start, stop, analysis.facts.channels, analysis.segments.step)
