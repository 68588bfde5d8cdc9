"""Working results out, keeping them, and finding them again.

Kept results are found by the hash of what they were made from, never edited, and made anew when
readings, description or core change.
"""

import hashlib
import threading
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace
from functools import cache
from pathlib import Path
from typing import Generic, TypeVar

import numpy as np
import orjson
from cachetools import LRUCache

import ember
from ember.assessment.assess import answer, with_effects
from ember.assessment.cached import from_bytes, to_bytes
from ember.assessment.record_analysis import RecordAnalysis, Walked, analyse_record
from ember.balance.days import days
from ember.basis.errors import EmberError
from ember.description.installation import Installation
from ember.diagnosis import Findings
from ember.diagnosis.cached import to_json as findings_to_json
from ember.operation import Operation, operation
from ember.operation import cached as operation_cached
from ember.views.curves import curves
from ember.views.standing import standing
from server.assessments.finding_status import follow, open_findings
from server.assessments.models import CachedResults
from server.assessments.rows import days_shown, fleet_system
from server.jobs.models import Job
from server.jobs.queueing import queue, start
from server.jobs.running import Tell, handles
from server.readings.codec import CODEC_QUARTER, quarters
from server.readings.models import Import
from server.readings.record import has_record, part_of, record
from server.readings.store import NotThere, StoreError, silent
from server.systems.models import System

ANALYSES = 128 << 20  # kept in memory by each process, unpacked [bytes]
OPERATIONS = 32 << 20  # likewise
UNPACKED, BESIDE = 5, 500_000  # times its packed size, and that it takes besides [bytes]
CACHE_ATTEMPTS = 3  # times results are made anew because something changed meanwhile
T = TypeVar("T")
CACHE_AROUND = 2 * 86_400  # read on either side of a cut, so that slow registers are read twice [s]


@cache
def core() -> str:
    """A hash of the core's own source: results of another core are stale."""
    digest = hashlib.sha256(ember.VERSION.encode())
    for path in sorted(Path(ember.__file__).parent.rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()


def state_of(system: System, imports: Sequence[tuple[str, str]] | None = None) -> str:
    """The hash of what a system's results are made from.

    imports : digest and rule of each stored import, in order; None: looked up.
    """
    if imports is None:
        imports = stored_imports(system=system).get(system.pk, [])
    parts = [core(), system.description, str(system.revision)]
    parts += [f"{digest} {rule}" for digest, rule in imports]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()


def stored_imports(**of: object) -> dict[int, list[tuple[str, str]]]:
    """Digest and rule of each stored import, in order, by system."""
    found: dict[int, list[tuple[str, str]]] = {}
    rows = Import.objects.filter(state=Import.State.STORED, **of).order_by("pk")
    for pk, digest, rule in rows.values_list("system_id", "digest", "rule"):
        found.setdefault(pk, []).append((digest, rule))
    return found


def cache_results(system: System, tell: Tell = silent) -> CachedResults | None:
    """Works out a system's results and keeps them; None where no readings are stored.

    Where readings or description change meanwhile, it begins again.
    """
    cached = None
    for _ in range(CACHE_ATTEMPTS):
        system.refresh_from_db()
        made_from = state_of(system)
        cached = _cached(system, made_from, tell)
        system.refresh_from_db()
        if state_of(system) == made_from:
            break
    return cached


def _cached(system: System, made_from: str, tell: Tell) -> CachedResults | None:
    tell(0.85, "reading the record")
    try:
        described, trace = record(system)
    except EmberError:
        CachedResults.objects.filter(system=system).delete()
        return None
    tell(0.9, "one pass over the record")
    analysis = with_effects(analyse_record(described, trace), trace)
    tell(0.93, "figures of each day")
    daily = days(analysis)
    tell(0.95, "runs, starts, defrosts and hot water")
    walked = analysis.walked(analysis.like(trace), analysis.states())
    ran = operation(analysis, trace, walked)
    tell(0.97, "figures of the year and months, findings")
    assessed = answer(analysis, ran=ran)
    judged = Findings(assessed.findings, assessed.not_judged)
    follow(system, judged, analysis, ran)
    opened = replace(assessed, findings=tuple(open_findings(system, assessed.findings)))
    stand = standing(analysis, opened)
    tell(0.99, "an overview for charts of months")
    shown = fleet_system(system.installation, stand, daily)
    cached, _ = CachedResults.objects.update_or_create(
        system=system,
        defaults={
            "made_from": made_from,
            "lost": shown.foremost.sort,
            "row": orjson.dumps(asdict(shown)).decode(),
            "days": orjson.dumps(asdict(days_shown(daily))).decode(),
            "type": type_of(system.installation),
            "findings": findings_to_json(judged),
            "analysis": to_bytes(analysis),
            "operation": operation_cached.to_bytes(ran),
            "overview": _overview(analysis, walked),
        },
    )
    return cached


def type_of(installation: Installation) -> str:
    """A hash of the rated table's points, empty without a table."""
    if installation.rated is None:
        return ""
    points = [installation.rated.kind.value]
    points += sorted(str(p) for p in installation.rated.points)
    return hashlib.sha256("\n".join(points).encode()).hexdigest()


def _overview(analysis: RecordAnalysis, walked: Walked) -> bytes:
    """Heat and power every 15 minutes of the whole record, for long charts."""
    trace = walked.trace
    drawn = curves(analysis, walked)
    named = {"heat": drawn.heat, "power": drawn.power}
    known = {name: values for name, values in named.items() if values is not None}
    first = (trace.start % CODEC_QUARTER) // trace.step  # begin on a whole quarter
    lead = np.full(first, np.nan)
    per = max(1, CODEC_QUARTER // trace.step)
    return quarters({name: np.concatenate([lead, v]) for name, v in known.items()}, per)


class _Memory(Generic[T]):
    """What was unpacked of kept results, found by what it was made from.

    Key and content are read by one query: results may be saved anew between any two.
    """

    def __init__(self, field: str, most: int, unpack: Callable[[bytes], T]) -> None:
        self.field, self.unpack = field, unpack
        self.held: LRUCache[tuple[int, str], tuple[int, T]] = LRUCache(most, lambda one: one[0])
        self.lock = threading.Lock()

    def latest(self, system: int) -> tuple[str, T] | None:
        """The key and the content that are kept now; None where nothing is."""
        rows = CachedResults.objects.filter(system=system)
        made_from = rows.values_list("made_from", flat=True).first()
        with self.lock:
            known = None if made_from is None else self.held.get((system, made_from))
        if made_from is not None and known is not None:
            return made_from, known[1]
        row = rows.values_list("made_from", self.field).first()
        if row is None or not row[1]:
            return None
        content = self.unpack(bytes(row[1]))
        size = BESIDE + UNPACKED * len(row[1])
        with self.lock:
            if size <= self.held.maxsize:
                self.held[system, row[0]] = size, content
        return row[0], content


_analyses = _Memory("analysis", ANALYSES, from_bytes)
_operations = _Memory("operation", OPERATIONS, operation_cached.from_bytes)


@dataclass(frozen=True)
class CachedAnalysis:
    """A system's cached record analysis, and the hash of what it was made from. stale : that is
    not what readings and description are now."""

    analysis: RecordAnalysis
    stale: bool
    made_from: str


def find(system: System) -> CachedAnalysis:
    """The cached record analysis of a system. Raises StoreError where there is none yet."""
    cached = _analyses.latest(system.pk)
    if cached is None:
        raise NotThere(
            f"{system.name}: no figures yet. Import a log, or wait until one is worked out."
        )
    made_from, analysis = cached
    return CachedAnalysis(analysis, made_from != state_of(system), made_from)


def operation_of(system: System, found: CachedAnalysis) -> Operation:
    """The kept operation that was made with a record analysis. Raises Moved, StoreError."""
    cached = _operations.latest(system.pk)
    if cached is None:
        raise NotThere(
            f"{system.name}: its runs and defrosts are not worked out yet. Wait until it is done."
        )
    if cached[0] != found.made_from:
        raise Moved(f"{system.name} was worked out anew just now; load this again.")
    return cached[1]


class Moved(StoreError):
    """What was looked at changed meanwhile."""


def days_of(system: System, found: CachedAnalysis) -> str:
    """The days that were worked out with a record analysis, JSON. Raises Moved."""
    rows = CachedResults.objects.filter(system=system, made_from=found.made_from)
    days = rows.values_list("days", flat=True).first()
    if days is None:
        raise Moved(f"{system.name} was worked out anew just now; load this again.")
    return days


def steady(system: System, look: Callable[[CachedAnalysis], T]) -> T:
    """What is seen in the kept results of a system at one moment; looked at again where they are
    replaced meanwhile. Raises StoreError."""
    for _ in range(CACHE_ATTEMPTS):
        try:
            return look(find(system))
        except Moved as moved:
            said = moved
            system.refresh_from_db()
    raise said


def cut_at(system: System, found: CachedAnalysis, instants: tuple[float, ...]) -> CachedAnalysis:
    """A record analysis with segments that end at some instants.

    Where it is stale it is not cut: what is between two of its edges counts whole. Raises Moved
    where readings or description change while it is cut.
    """
    if found.stale:
        return found
    analysis = found.analysis
    step = analysis.segments.step
    for instant in instants:
        cell = -(-(instant - analysis.start) // step)
        edges = analysis.segments.edges
        at = int(np.searchsorted(edges, cell))
        if at >= len(edges) or edges[at] == cell:
            continue
        try:
            part = part_of(system, analysis, instant - CACHE_AROUND, instant + CACHE_AROUND)
            analysis = analysis.cut(part, [instant])
        except LookupError:  # a register that was not read for days: another pass over it all
            analysis = analyse_record(*record(system), instants)
            break
    if analysis is not found.analysis and state_of(_now(system)) != found.made_from:
        raise Moved(f"{system.name}: its readings changed just now; load this again.")
    return replace(found, analysis=analysis)


def _now(system: System) -> System:
    return System.objects.only("description", "revision").get(pk=system.pk)


def renew(system: System, user: object = None) -> Job | None:
    """Queues working out a system's results anew; the job that waits for that already, where one
    does. One that runs may have read what was before the change: another is queued behind it.

    None where there is nothing to work out.
    """
    if not has_record(system) and not CachedResults.objects.filter(system=system).exists():
        return None
    waiting = system.jobs.filter(kind="figures", state=Job.State.WAITING).first()
    if waiting is not None:
        queue(waiting)
        return waiting
    return start("figures", f"Working out {system.name}", system, user)


def renew_stale() -> int:
    """Queues what is stale: after an update of the program, or a stop between two steps."""
    count = 0
    cached = dict(CachedResults.objects.values_list("system_id", "made_from"))
    stored = stored_imports()
    for system in System.objects.all():
        made_from = cached.get(system.pk)
        behind = (
            made_from != state_of(system, stored.get(system.pk, []))
            if made_from
            else has_record(system)
        )
        if behind and renew(system) is not None:
            count += 1
    return count


@handles("figures")
def _figures(job: Job, tell: Tell) -> dict[str, object]:
    system = job.system
    assert system is not None
    system.refresh_from_db()
    made = CachedResults.objects.filter(system=system, made_from=state_of(system)).exists()
    if not made or job.asked.get("anew"):
        cache_results(system, tell)
    return {}
