"""Sun or exhaust air on the outdoor sensor."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import Floats
from ember.description.installation import Prefer
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext, coarse

OUTDOOR_CELL = 600  # [s]
HALF_HOUR = 1800  # over which a rise is taken [s]
OUTDOOR_RISE = 3.0  # [K] in half an hour that weather hardly brings, common practice
OUTDOOR_LEAST_DAYS = 5
OUTDOOR_LEAST_SHARE = 0.06  # of the days
SPREAD = 2.5  # of the times of day, standard deviation [h]
OUTDOOR_APART = 2.0  # mean difference to a weather series [K], common practice
HOURLY_APART = 2.5  # at some hour of the day against the others [K]


def outdoor_sensor(context: CheckContext) -> Check:
    """Whether the outdoor temperature leaps up at the same time of day, or disagrees with another
    series of it. Source: common practice."""
    channel = context.installation.outdoor.channel
    trace = context.trace
    if channel not in trace:
        return not_checkable(
            CheckCode.OUTDOOR_SENSOR,
            "No outdoor temperature is logged.",
            "Fetch the weather in the Log.",
        )
    per, local = context.clock(OUTDOOR_CELL)
    temp = coarse(trace[channel], per)
    others = [c for c in trace.channels if c.partition(":")[0] == "outdoor_temp" and c != channel]
    other = others[0] if others else None
    if other is not None:
        difference = temp - coarse(trace[other], per)
        hourly = _by_hour(difference, local)
        picture = Picture(
            "hour of the day",
            "logged minus the other series [K]",
            False,
            (series("mean", np.arange(24) + 0.5, hourly, "bars"),),
            (("none", 0.0),),
        )
        mean = float(np.nanmean(difference)) if np.isfinite(difference).any() else np.nan
        swing = float(np.nanmax(hourly) - np.nanmedian(hourly))
        said = (
            f"{channel} lies {mean:+.1f} K from {other} in the mean, and at worst "
            f"{swing:.1f} K higher at one hour of the day than at the others."
        )
        if abs(mean) < OUTDOOR_APART and swing < HOURLY_APART:
            return sound(CheckCode.OUTDOOR_SENSOR, said, picture)
        return _ill(context, said, channel, other, picture)
    if per * trace.step > HALF_HOUR:
        return not_checkable(
            CheckCode.OUTDOOR_SENSOR,
            "Readings more than half an hour apart do not show the sun on a sensor.",
            "Fetch the weather in the Log to compare with.",
        )
    ahead = max(1, round(HALF_HOUR / (per * trace.step)))
    rise = temp[ahead:] - temp[:-ahead]
    at = local[:-ahead]
    day = (trace.start + trace.step * per * np.arange(len(rise))) // 86_400
    steep = np.isfinite(rise) & (rise > OUTDOOR_RISE) & (at > 5) & (at < 21)
    sunny = np.unique(day[steep])
    days = len(np.unique(day))
    first = {int(d): float(h) for d, h in zip(day[steep][::-1], at[steep][::-1], strict=True)}
    spread = float(np.std(list(first.values()))) if first else 0.0
    rises = np.where(np.isfinite(rise), rise, 0.0)
    hours = at.astype(int)
    highest = [float(rises[hours == h].max(initial=0.0)) for h in range(24)]
    picture = Picture(
        "hour of the day",
        "steepest rise in half an hour [K]",
        False,
        (series("steepest", np.arange(24) + 0.5, highest, "bars"),),
        (("limit", OUTDOOR_RISE),),
    )
    said = (
        f"On {len(sunny)} of {days} days the outdoor temperature rises by more than "
        f"{OUTDOOR_RISE:g} K in "
        "half an hour"
    )
    if len(sunny) < max(OUTDOOR_LEAST_DAYS, OUTDOOR_LEAST_SHARE * days) or spread > SPREAD:
        return sound(CheckCode.OUTDOOR_SENSOR, said + "; weather does that now and then.", picture)
    clock = f"{np.median(list(first.values())):.0f}"
    said += f", about {clock} o'clock each time: sun, or exhaust air, reaches the sensor."
    return _ill(context, said, channel, None, picture)


def _by_hour(values: Floats, local: Floats) -> Floats:
    known = np.isfinite(values)
    hours = local[known].astype(int)
    count = np.bincount(hours, minlength=24)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean: Floats = np.bincount(hours, values[known], 24) / count
    return mean


def _ill(
    context: CheckContext, said: str, channel: str, other: str | None, picture: Picture
) -> Check:
    proposals: tuple[Prefer, ...] = ()
    remedy = (
        "Fetch or import the weather of the place (Log), then prefer it; move the sensor to the "
        "shade, away from the unit's exhaust. The COP itself does not use it, the comparison with "
        "the rated table does."
    )
    if other is not None:
        proposals = (
            Prefer(use=other, instead_of=channel, reason="sun or exhaust air on the sensor"),
        )
        remedy = f"Prefer {other}; move the sensor to the shade, away from the unit's exhaust."
    return Check(
        CheckCode.OUTDOOR_SENSOR,
        Soundness.DOUBTFUL,
        said,
        (context.whole,),
        remedy,
        proposals,
        (Affects.CONDITIONS,),
        picture,
    )
