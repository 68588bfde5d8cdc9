"""What is written down by hand: readings, observations, bills; each change can be undone."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from django.db import transaction

from ember.readings import Reading, Turn
from ember.readings.bills import Bill
from server.readings.models import Change, Entry
from server.readings.store import NotThere, StoreError
from server.systems.models import System

ENTRIES_MOST = 20_000  # entries of a system


@dataclass(frozen=True)
class Written:
    """An entry as it is to be. id : of the one it takes the place of; None for a new one."""

    id: int | None
    kind: str
    time: int
    stop: int | None
    content: dict[str, Any]


def reading_content(reading: Reading) -> dict[str, Any]:
    """A reading by hand as an entry keeps it."""
    return {
        "values": dict(reading.values),
        "since": reading.since,
        "note": reading.note,
        "turns": {name: turn.value for name, turn in reading.turns.items()},
    }


def reading_of(entry: Entry) -> Reading:
    """The reading that an entry keeps."""
    content = entry.content
    turns = {name: Turn(why) for name, why in content["turns"].items()}
    return Reading(float(entry.time), content["values"], content["since"], turns, content["note"])


# What figures may rest on: a change of them makes those figures stale.
COUNTED = frozenset({Entry.Kind.READING, Entry.Kind.BILL})


def bill_content(bill: Bill) -> dict[str, Any]:
    """A bill as an entry keeps it."""
    return {k: v for k, v in asdict(bill).items() if k not in ("start", "stop")}


def bill_of(entry: Entry) -> Bill:
    """The bill that an entry keeps."""
    return Bill(float(entry.time), float(entry.stop or entry.time), **entry.content)


def write(
    system: System, user: Any, words: str, put: Sequence[Written], gone: Sequence[int] = ()
) -> Change:
    """Puts entries in and takes others out, in one transaction. Raises StoreError.

    Parameters
    ----------
    words : what is done, for the history. gone : keys of entries that go.
    """
    changed = [one.id for one in put if one.id is not None]
    with transaction.atomic():
        before = _found(system, [*changed, *gone])
        if system.entries.count() + len(put) > ENTRIES_MOST:
            raise StoreError(
                f"{system.name}: more than {ENTRIES_MOST:,} entries by hand are not kept."
            )
        system.entries.filter(pk__in=[one.pk for one in before]).delete()
        known: Any = user if getattr(user, "pk", None) else None
        after = [_created(system, one, known) for one in put]
        if COUNTED & {one.kind for one in (*before, *after)}:
            system.readings_changed()
        return Change.objects.create(
            system=system,
            user=known,
            words=words[:200],
            before=[_plain(one) for one in before],
            after=[_plain(one) for one in after],
        )


def turn(change: Change) -> None:
    """Undoes a change, or does it again. Raises StoreError where what it left was changed since."""
    system = change.system
    out, back = (change.before, change.after) if change.undone else (change.after, change.before)
    with transaction.atomic():
        now = [_plain(one) for one in _found(system, [one["id"] for one in out], change.words)]
        if sorted(now, key=_key) != sorted(out, key=_key):
            raise StoreError(_since(change.words))
        system.entries.filter(pk__in=[one["id"] for one in out]).delete()
        taken = system.entries.filter(pk__in=[one["id"] for one in back])
        if taken.exists():
            raise StoreError(_since(change.words))
        for one in back:
            _created(system, Written(**one), change.user)
        if COUNTED & {one["kind"] for one in (*out, *back)}:
            system.readings_changed()
        changed = Change.objects.filter(pk=change.pk, undone=change.undone)
        if not changed.update(undone=not change.undone):
            raise StoreError(_since(change.words))


def _since(words: str) -> str:
    return f"{words}: what it left was changed since. Undo the later change first."


def _key(one: dict[str, Any]) -> int:
    return int(one["id"])


def _plain(entry: Entry) -> dict[str, Any]:
    return asdict(Written(entry.pk, entry.kind, entry.time, entry.stop, entry.content))


def _found(system: System, keys: Sequence[int], words: str = "") -> list[Entry]:
    found = list(system.entries.filter(pk__in=keys))
    if len(found) != len(set(keys)):
        raise NotThere(
            _since(words) if words else "An entry is no longer there; somebody took it out."
        )
    return found


def _created(system: System, one: Written, user: Any) -> Entry:
    return Entry.objects.create(
        pk=one.id,
        system=system,
        kind=one.kind,
        time=one.time,
        stop=one.stop,
        content=one.content,
        user=user,
    )
