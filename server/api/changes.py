"""Changes: what was changed when, and what it was worth in the same weather."""

import csv
from dataclasses import dataclass
from io import StringIO
from zoneinfo import ZoneInfo

from django.http import HttpRequest, HttpResponse
from ninja import Router

from ember.basis.clock import DAY, instant_of, iso_local, zone_named
from ember.messages import NotAvailable, Reason, reason_of
from ember.season import Changed, Pair, SameRooms, Worth
from ember.views.change_seen import CHANGE_DAYS, ChangeSeen, change_seen, stretches
from server.api.entries import INTERVENTIONS
from server.api.files import attachment, harmless
from server.api.fleet import get_system
from server.api.season import AvoidedShown, SignatureShown, avoided_shown, signature_shown
from server.assessments.cache import CachedAnalysis, cut_at, operation_of, steady
from server.assessments.models import FindingStatus
from server.assessments.shown import FigureShown, figure, known
from server.assessments.times import local_day
from server.readings.models import Entry
from server.systems.models import System

router = Router(tags=["rooms"])

FIXED = "Finding fixed"


@dataclass(frozen=True)
class Intervention:
    """A setting changed or work done, as it was noted, or a finding marked as fixed, whose id is
    negative. cost : in the tariff's currency; done_by : who did it."""

    id: int
    time: float
    local: str
    words: str
    note: str
    cost: float | None
    done_by: str
    user: str | None


@dataclass(frozen=True)
class Interventions:
    """The latest first."""

    currency: str | None
    rows: list[Intervention]


@dataclass(frozen=True)
class PaybackShown:
    """Years until the cost of a change is paid back at today's prices, by the saving and by the
    ends of its 95 % interval; null for never."""

    cost: float
    years: float | None
    soonest: float | None
    latest: float | None


@dataclass(frozen=True)
class PairShown:
    """A day before and a day after with the same weather: local dates, outdoor [degC], heat and
    electricity [kWh] and their quotient."""

    days: list[str]
    outdoor: list[float]
    heat: list[float]
    electricity: list[float]
    cop: list[float | None]


@dataclass(frozen=True)
class ChangedShown:
    """One energy before and after in the same weather [kWh a year]. share : saved ÷ before;
    fractional : savings uncertainty at 90 % (ASHRAE Guideline 14)."""

    before: FigureShown
    after: FigureShown
    saved: FigureShown
    share: float
    fractional: float | None
    cv_before: float
    cv_after: float
    worth: Worth


@dataclass(frozen=True)
class SameRoomsShown:
    """A change as warm as before. room_before, room_after : mean room temperatures [degC]; sun :
    what 100 W/m² are worth outdoors [K]; heat : before and after as if; others : electricity that
    rooms and sun saved [kWh a year]; flow : by which it was cooler for the rooms [K]; electricity :
    saved by the change alone [kWh a year]."""

    room_before: float | None
    room_after: float | None
    sun: FigureShown | None
    heat: ChangedShown | None
    others: FigureShown
    flow: float
    electricity: FigureShown
    worth: Worth


@dataclass(frozen=True)
class ChangeFound:
    """A change by the days before and after it. seen : share of a year's days within the weather
    of both; what is said is of those. money : saved a year at the average price paid; payback : of
    what the change of that day cost; avoided : over the actual days after; alike : days of the same
    weather side by side; beside : what else was changed in either stretch, which cannot be told
    apart; same_rooms : where rooms or sun are logged, what is the change's alone; advice : how to
    learn more of what cannot be told yet, else empty."""

    at: float
    before: str
    after: str
    stale: bool
    seen: float
    electricity: ChangedShown | None
    electricity_reason: Reason | None
    heat: ChangedShown | None
    heat_reason: Reason | None
    same_rooms: SameRoomsShown | None
    cop_before: FigureShown | None
    cop_after: FigureShown | None
    cop_change: FigureShown | None
    money: FigureShown | None
    currency: str | None
    payback: PaybackShown | None
    avoided_electricity: AvoidedShown | None
    avoided_electricity_reason: Reason | None
    avoided_heat: AvoidedShown | None
    avoided_heat_reason: Reason | None
    alike: list[PairShown]
    advice: str
    signature_before: SignatureShown | None
    signature_after: SignatureShown | None
    beside: list[Intervention]


@router.get("/systems/{pk}/changes", response=Interventions)
def changes(request: HttpRequest, pk: int) -> Interventions:
    """What was changed at a system, by its notes."""
    system = get_system(pk)
    tariff = system.installation.tariff
    return Interventions(tariff.currency if tariff else None, _noted(system))


@router.get("/systems/{pk}/changes.csv")
def changes_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The same as CSV."""
    system = get_system(pk)
    tariff = system.installation.tariff
    cost = f"cost [{tariff.currency}]" if tariff else "cost"
    text = StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(["local time", "what", "note", cost, "done by", "noted by"])
    for row in _noted(system):
        cells = (row.local, row.words, row.note, "" if row.cost is None else f"{row.cost:.2f}")
        writer.writerow([harmless(c) for c in (*cells, row.done_by, row.user or "")])
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment(f"{system.name} changes", "csv")
    return response


@router.get("/systems/{pk}/change", response=ChangeFound)
def change(
    request: HttpRequest, pk: int, at: str, days: int = CHANGE_DAYS, skip: int = 0
) -> ChangeFound:
    """The days before and after a local day. days : on either side at most; skip : left out after
    it, until the change was done."""
    system = get_system(pk)

    def look(found: CachedAnalysis) -> ChangeFound:
        about = stretches(found.analysis, local_day(at[:10], "at"), days, skip)
        hours = operation_of(system, found).hours
        cut = cut_at(system, found, about.ends)
        noted = [n for n in _noted(system) if about.before.start <= n.time < about.after.stop]
        others = [one for one in noted if abs(one.time - about.before.stop) >= DAY]
        price = sum(one.cost or 0.0 for one in noted if one not in others)
        return _shown(cut, change_seen(cut.analysis, hours, about, price), others)

    return steady(system, look)


def _shown(cut: CachedAnalysis, found: ChangeSeen, others: list[Intervention]) -> ChangeFound:
    zone, compared = cut.analysis.zone, found.compared
    words = [
        f"{iso_local(p.start, zone)} to {iso_local(p.stop, zone)}"
        for p in (found.before, found.after)
    ]
    first, second = found.sides
    return ChangeFound(
        at=found.before.stop,
        before=words[0],
        after=words[1],
        stale=cut.stale,
        seen=compared.seen,
        electricity=_changed(compared.electricity),
        electricity_reason=reason_of(compared.electricity),
        heat=_changed(compared.heat),
        heat_reason=reason_of(compared.heat),
        same_rooms=_same_rooms(found.same_rooms),
        cop_before=figure(compared.cop_before),
        cop_after=figure(compared.cop_after),
        cop_change=figure(compared.cop_change),
        money=figure(found.money),
        currency=found.currency,
        payback=_payback(found),
        avoided_electricity=avoided_shown(found.avoided_electricity),
        avoided_electricity_reason=reason_of(found.avoided_electricity),
        avoided_heat=avoided_shown(found.avoided_heat),
        avoided_heat_reason=reason_of(found.avoided_heat),
        alike=[_pair(one, zone) for one in found.alike],
        advice=found.advice,
        signature_before=signature_shown(first, first.electricity, "electricity"),
        signature_after=signature_shown(second, second.electricity, "electricity"),
        beside=others,
    )


def _noted(system: System) -> list[Intervention]:
    """Changes that were noted, and findings that were marked as fixed, the latest first."""
    zone = zone_named(system.installation.zone)
    noted = [
        Intervention(
            e.pk,
            e.time,
            iso_local(e.time, zone),
            e.content["kind"].capitalize(),
            e.content["note"],
            e.content.get("cost"),
            e.content.get("done_by", ""),
            e.user.get_username() if e.user else None,
        )
        for e in system.entries.filter(kind=Entry.Kind.OBSERVATION).select_related("user")
        if e.content["kind"] in INTERVENTIONS
    ]
    fixed = [
        Intervention(
            -one.pk,  # beside the keys of entries
            instant_of(one.fixed_on, zone),
            one.fixed_on.isoformat(),
            FIXED,
            one.sentence,
            None,
            "",
            None,
        )
        for one in system.statuses.filter(state=FindingStatus.State.FIXED)
        if one.fixed_on is not None
    ]
    return sorted([*noted, *fixed], key=lambda one: (-one.time, -one.id))


def _changed(found: Changed | NotAvailable) -> ChangedShown | None:
    if isinstance(found, NotAvailable):
        return None
    return ChangedShown(
        known(found.before),
        known(found.after),
        known(found.saved),
        found.share,
        found.fractional,
        found.cv_before,
        found.cv_after,
        found.worth,
    )


def _same_rooms(found: SameRooms | None) -> SameRoomsShown | None:
    if found is None:
        return None
    return SameRoomsShown(
        found.room_before,
        found.room_after,
        figure(found.sun),
        _changed(found.heat),
        known(found.others),
        found.flow,
        known(found.electricity),
        found.worth,
    )


def _payback(found: ChangeSeen) -> PaybackShown | None:
    if (back := found.payback) is None:
        return None
    return PaybackShown(found.cost, back.years, back.soonest, back.latest)


def _pair(one: Pair, zone: ZoneInfo) -> PairShown:
    return PairShown(
        [iso_local(t, zone)[:10] for t in one.start],
        list(one.outdoor),
        list(one.heat),
        list(one.electricity),
        [h / e if e else None for h, e in zip(one.heat, one.electricity, strict=True)],
    )
