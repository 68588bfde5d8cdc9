"""Local days and times of an installation as instants."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from ember.basis.errors import EmberError

TIMES_FIRST_YEAR, TIMES_LAST_YEAR = 1900, 2200  # beyond which nothing was logged


class TimeError(EmberError):
    """A day or time that is none; a sentence for the user."""


def instant(text: str, zone: ZoneInfo, what: str, days: int = 0) -> float:
    """A local day or time as an instant [s].

    Parameters
    ----------
    days : added to a bare day; 1 makes a last day its end.

    Raises TimeError.
    """
    if len(text) == 10:
        day = local_day(text, what, days)
        return datetime(day.year, day.month, day.day, tzinfo=zone).timestamp()
    try:
        wall = datetime.fromisoformat(text)
    except ValueError as error:
        raise _none(text, what) from error
    if not TIMES_FIRST_YEAR <= wall.year <= TIMES_LAST_YEAR:
        raise _none(text, what)
    return (wall if wall.tzinfo else wall.replace(tzinfo=zone)).timestamp()


def local_day(text: str, what: str, days: int = 0) -> date:
    """A local day, so many days later.

    Raises TimeError.
    """
    try:
        day = date.fromisoformat(text) + timedelta(days=days)
    except (ValueError, OverflowError) as error:
        raise _none(text, what) from error
    if not TIMES_FIRST_YEAR <= day.year <= TIMES_LAST_YEAR:
        raise _none(text, what)
    return day


def _none(text: str, what: str) -> TimeError:
    return TimeError(
        f"{what}: '{text[:40]}' is no day or time; write 2026-01-22 or 2026-01-22T05:10."
    )
