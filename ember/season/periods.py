"""Months and whole records in local time."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

from ember.clock import DAY, instant_of
from ember.period import Period

SEASON_DAYS = 330  # from this length on a figure may be called an SPF of a year


def whole(start: float, stop: float) -> Period:
    """The whole of a record: its SPF if it is a year long, its COP otherwise."""
    length = (stop - start) / DAY
    return Period("year" if length >= SEASON_DAYS else "period", start, stop)


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
