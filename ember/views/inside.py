"""Inside the unit over a period: how the refrigerant's temperatures moved."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import HOUR, local_from_utc
from ember.basis.codes import ReasonCode
from ember.messages import Reason, because
from ember.operation.record import AROUND_DEFROST
from ember.operation.within import Within, finite, middle

NAMES = ("evaporating", "condensing", "superheat", "subcooling", "discharge", "efficiency")
INSIDE_LEAST_HOURS = 3  # of settled running in a day that is shown


@dataclass(frozen=True)
class InsideDay:
    """Medians of a day's settled running.

    Attributes
    ----------
    approach_air : float | None
        outdoors less evaporating
    approach_water : float | None
        condensing less flow [K].
    """

    start: float
    evaporating: float | None
    condensing: float | None
    superheat: float | None
    subcooling: float | None
    discharge: float | None
    efficiency: float | None
    approach_air: float | None
    approach_water: float | None


@dataclass(frozen=True)
class Profile:
    """The mean over all starts, or around all defrosts, of the record, by minute."""

    name: str
    minutes: list[float]
    values: list[float | None]


@dataclass(frozen=True)
class InsideSeen:
    """The refrigerant.

    Attributes
    ----------
    reason : Reason | None
        what is not logged.
    refrigerant : str | None
        its name.
    """

    reason: Reason | None
    refrigerant: str | None
    days: list[InsideDay]
    whole: InsideDay | None
    starts: list[Profile]
    defrosts: list[Profile]


def inside_seen(within: Within) -> InsideSeen:
    """What the gauges say. Source: saturation and enthalpies from CoolProp, baked."""
    side = within.analysis.installation.refrigerant
    of = within.found.hours.of
    if side is None or "evaporating" not in of:
        absent = ReasonCode.REFRIGERANT_NOT_LOGGED
        if side is None:
            absent = ReasonCode.REFRIGERANT_NOT_DESCRIBED
        return InsideSeen(because(absent), None, [], None, [], [])
    inside = within.hours() & np.isfinite(of["evaporating"])
    instants = within.found.hours.start + HOUR * np.arange(len(inside), dtype=np.int64)
    local_day = local_from_utc(instants, within.analysis.zone) // 86_400
    days = []
    for day in np.unique(local_day[inside]).tolist():
        here = inside & (local_day == day)
        if here.sum() >= INSIDE_LEAST_HOURS:
            days.append(_day(within, here, float(instants[local_day == day][0])))
    step = within.found.step
    profiles = within.found.profiles

    def of_event(event: str, begin: float) -> list[Profile]:
        return [
            Profile(
                name,
                [begin / 60 + (k + 0.5) * step / 60 for k in range(len(values))],
                finite(values),
            )
            for key, values in profiles.items()
            if key.startswith(event) and (name := key.removeprefix(f"{event} "))
        ]

    return InsideSeen(
        None,
        side.refrigerant.value,
        days,
        _day(within, inside, within.period.start) if inside.any() else None,
        of_event("start", 0.0),
        of_event("defrost", AROUND_DEFROST[0]),
    )


def _day(within: Within, here: np.ndarray, start: float) -> InsideDay:
    of = within.found.hours.of
    evaporating, condensing, superheat, subcooling, discharge, efficiency = (
        middle(of[name][here]) for name in NAMES
    )
    return InsideDay(
        start=start,
        evaporating=evaporating,
        condensing=condensing,
        superheat=superheat,
        subcooling=subcooling,
        discharge=discharge,
        efficiency=efficiency,
        approach_air=middle((of["outdoor"] - of["evaporating"])[here]),
        approach_water=middle((of["condensing"] - of["flow"])[here]),
    )
