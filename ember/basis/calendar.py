"""Months and whole records in local time."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

from ember.basis.clock import instant_of
from ember.basis.periods import Period

SEASON_DAYS = 330  # from this length on a figure may stand for a year, common practice, chosen
YEAR_DAYS = 367  # a longer record holds some months twice


def latest_year(start: float, stop: float, zone: ZoneInfo) -> Period | None:
    """The last twelve months of a record, None if it is no longer than a year."""
    last = datetime.fromtimestamp(stop, zone)
    begin = last.replace(year=last.year - 1, day=min(last.day, 28 if last.month == 2 else 31))
    if begin.timestamp() <= start:
        return None
    return Period("latest 12 months", begin.timestamp(), stop)


def year_earlier(instant: float, zone: ZoneInfo) -> float:
    """The same time of the same local day a year earlier [s]; of 29 February, the 28th."""
    at = datetime.fromtimestamp(instant, zone)
    day = 28 if (at.month, at.day) == (2, 29) else at.day
    return at.replace(year=at.year - 1, day=day).timestamp()


def is_year(period: Period) -> bool:
    """Whether a period is long enough, and no longer, for its quotient to be called an SPF."""
    return SEASON_DAYS <= period.days <= YEAR_DAYS


def whole(start: float, stop: float) -> Period:
    """The whole of a record by its length."""
    found = Period("record", start, stop)
    return Period("year", start, stop) if is_year(found) else found


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
