"""Months and whole records in local time."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

from ember.basis.clock import DAY, instant_of
from ember.basis.periods import Period

SEASON_DAYS = 330  # from this length on a figure may stand for a year, common practice
YEAR_DAYS = 367  # a longer record holds some months twice


def latest_year(start: float, stop: float, zone: ZoneInfo) -> Period | None:
    """The last twelve months of a record, None if it is no longer than a year."""
    last = datetime.fromtimestamp(stop, zone)
    begin = last.replace(year=last.year - 1, day=min(last.day, 28 if last.month == 2 else 31))
    if begin.timestamp() <= start:
        return None
    return Period("latest 12 months", begin.timestamp(), stop)


def whole(start: float, stop: float) -> Period:
    """The whole of a record by its length."""
    length = (stop - start) / DAY
    return Period("year" if SEASON_DAYS <= length <= YEAR_DAYS else "record", start, stop)


def months(start: float, stop: float, zone: ZoneInfo) -> list[Period]:
    """The calendar months that a stretch touches, cut to it. Names are like 2026-01."""
    day = datetime.fromtimestamp(start, zone).date().replace(day=1)
    found = []
    while (begin := instant_of(day, zone)) < stop:
        following = date(day.year + day.month // 12, day.month % 12 + 1, 1)
        end = instant_of(following, zone)
        found.append(Period(f"{day:%Y-%m}", max(begin, start), min(end, stop)))
        day = following
    return found
