"""Sun or exhaust air on the outdoor sensor."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import Floats
from ember.description.installation import Prefer
from ember.messages import words_of
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

say = words_of(__name__)

OUTDOOR_CELL = 600  # [s]
HALF_HOUR = 1800  # over which a rise is taken [s]
OUTDOOR_RISE = 3.0  # [K] in half an hour that weather hardly brings, common practice, chosen
OUTDOOR_LEAST_DAYS = 5
OUTDOOR_LEAST_SHARE = 0.06  # of the days
SPREAD = 2.5  # of the times of day, standard deviation [h]
OUTDOOR_APART = 2.0  # mean difference to a weather series [K], common practice, chosen
HOURLY_APART = 2.5  # at some hour of the day against the others [K]


def outdoor_sensor(context: CheckContext) -> Check:
    """Whether the outdoor temperature leaps up at the same time of day, or disagrees with another
    series of it. Source: common practice."""
    channel = context.installation.outdoor.channel
    trace = context.trace
    if channel not in trace:
        return not_checkable(
            CheckCode.OUTDOOR_SENSOR,
            say("no_outdoor_temperature"),
            say("fetch_weather_log"),
        )
    per, local = context.clock(OUTDOOR_CELL)
    temp = coarse(trace[channel], per)
    others = [c for c in trace.channels if c.partition(":")[0] == "outdoor_temp" and c != channel]
    other = others[0] if others else None
    if other is not None:
        difference = temp - coarse(trace[other], per)
        hourly = _by_hour(difference, local)
        picture = Picture(
            say("hour_day"),
            say("logged_minus_other"),
            False,
            (series("mean", np.arange(24) + 0.5, hourly, "bars"),),
            (("none", 0.0),),
        )
        mean = float(np.nanmean(difference)) if np.isfinite(difference).any() else np.nan
        swing = float(np.nanmax(hourly) - np.nanmedian(hourly))
        said = say("lies_mean_worst", channel=channel, mean=mean, other=other, swing=swing)
        if abs(mean) < OUTDOOR_APART and swing < HOURLY_APART:
            return sound(CheckCode.OUTDOOR_SENSOR, said, picture)
        return _ill(context, said, channel, other, picture)
    if per * trace.step > HALF_HOUR:
        return not_checkable(
            CheckCode.OUTDOOR_SENSOR,
            say("readings_more_than"),
            say("fetch_weather_log_compare"),
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
        say("hour_day"),
        say("steepest_rise_half"),
        False,
        (series("steepest", np.arange(24) + 0.5, highest, "bars"),),
        (("limit", OUTDOOR_RISE),),
    )
    said = say("days_outdoor_temperature", sunny=len(sunny), days=days, outdoor_rise=OUTDOOR_RISE)
    if len(sunny) < max(OUTDOOR_LEAST_DAYS, OUTDOOR_LEAST_SHARE * days) or spread > SPREAD:
        return sound(CheckCode.OUTDOOR_SENSOR, said + say("weather_does_now"), picture)
    clock = f"{np.median(list(first.values())):.0f}"
    said += say("about_clock_each", clock=clock)
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
    remedy = say("fetch_import_weather")
    if other is not None:
        proposals = (Prefer(use=other, instead_of=channel, reason=say("sun_exhaust_air")),)
        remedy = say("prefer_move_sensor", other=other)
    return Check(
        code=CheckCode.OUTDOOR_SENSOR,
        soundness=Soundness.DOUBTFUL,
        sentence=said,
        spans=(context.whole,),
        remedy=remedy,
        proposals=proposals,
        affects=(Affects.CONDITIONS,),
        picture=picture,
    )
