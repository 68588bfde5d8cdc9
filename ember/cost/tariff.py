"""Price windows as instants: local time, across midnight, right on days of 23 and 25 hours."""

from dataclasses import dataclass
from datetime import date, time, timedelta
from functools import lru_cache
from itertools import pairwise
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import DAY, instant_of, local_days
from ember.basis.errors import DescriptionError
from ember.basis.series import Ints
from ember.description.installation import Tariff


@dataclass(frozen=True)
class Windows:
    """When each band's price holds, in order of time.

    Attributes
    ----------
    start, stop : Ints
        arrays, (w,) Instants [s], half-open.
    band : Ints
        array, (w,) Index of the band.
    """

    start: Ints
    stop: Ints
    band: Ints

    def band_at(self, instants: Ints) -> Ints:
        """The band at instants, (n,) → index, −1 where none is named."""
        if not len(self.start):
            return np.full(len(instants), -1, np.int64)
        k = np.searchsorted(self.start, instants, side="right") - 1
        inside = (k >= 0) & (instants < self.stop[np.maximum(k, 0)])
        return np.where(inside, self.band[np.maximum(k, 0)], -1)


@lru_cache(maxsize=64)
def windows(tariff: Tariff, start: int, stop: int, zone: ZoneInfo) -> Windows:
    """The bands' windows between two instants [s].

    Raises DescriptionError if two bands claim the same time.
    """
    days, _ = local_days(start, stop, zone)
    found = []
    for day in [days[0] - timedelta(days=1), *days]:
        for k, band in enumerate(tariff.bands):
            if day.weekday() in band.weekdays:
                found.append((*_window(day, band.start, band.end, zone), k))
    found.sort()
    for (_, end, one), (begin, _, other) in pairwise(found):
        if begin < end:
            names = tariff.bands[one].name, tariff.bands[other].name
            raise DescriptionError(f"tariff.bands: '{names[0]}' and '{names[1]}' overlap.")
    table = np.array(found, np.int64).reshape(-1, 3)
    return Windows(table[:, 0], table[:, 1], table[:, 2])


def _window(day: date, start: time, end: time, zone: ZoneInfo) -> tuple[int, int]:
    begin, close = (t.hour * 3600 + t.minute * 60 + t.second for t in (start, end))
    if close <= begin:
        close += DAY
    return instant_of(day, zone, begin), instant_of(day, zone, close)
