"""One of two rate registers not read."""

from datetime import time

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import FAR_APART, Bools, Floats, filled
from ember.description.installation import Rule
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
from ember.trust.context import CheckContext

say = words_of(__name__)

RATE_REGISTER_QUARTER = 900  # [s]
# of the usual electricity per heat, below which the register did not move
RATE_REGISTER_SILENT = 0.15
# of the silent quarters, those in between at which electricity is counted
RATE_REGISTER_APART = 0.3
PARTLY = 0.6  # likewise, for a quarter beside a silent one: clocks change, rates do not always
RATE_REGISTER_LEAST_SHARE = 0.01  # of all heat, for a quarter of an hour of the day to be judged
RATE_REGISTER_LEAST_HOURS, MOST_HOURS = 1.0, 20.0  # of the day that are silent


def rate_register(context: CheckContext) -> Check:
    """Whether the unit's electricity stands still at certain hours of the day although heat
    passes. Source: energy balance; limits common practice."""
    if context.unit is None:
        return not_checkable(CheckCode.RATE_REGISTERS, say("unit_electricity_not"))
    if context.unit.native > FAR_APART:
        return not_checkable(CheckCode.RATE_REGISTERS, say("readings_hours_apart"))
    name = next(iter(context.meter_energies.heat), None)
    if context.circuit is not None:
        name = context.circuit.name
    if name is None:
        return not_checkable(CheckCode.RATE_REGISTERS, say("no_heat_measured"))
    heat = np.maximum(filled(context.meter_energies.heat[name].energy), 0.0)
    used = np.zeros(len(context.trace))  # of all meters: a backup heater alone also makes heat
    for meter_energy in context.meter_energies.electricity.values():
        used += filled(meter_energy.energy)
    known = np.isfinite(context.unit.energy) & np.isfinite(context.meter_energies.heat[name].energy)
    known &= ~context.left_out
    if context.circuit is not None:
        known &= context.surely_heating
    per, local = context.clock(RATE_REGISTER_QUARTER)
    count = len(local)

    def per_quarter(values: Floats) -> Floats:
        blocks = np.where(known, values, 0.0)[: count * per].reshape(-1, per).sum(axis=1)
        return np.bincount((local * 4).astype(int), blocks, 96).astype(np.float64)

    warmth, power = per_quarter(heat), per_quarter(used)
    if warmth.sum() < 50 * 3.6e6:
        return not_checkable(CheckCode.RATE_REGISTERS, say("too_little_heat"))
    judged = warmth > RATE_REGISTER_LEAST_SHARE * warmth.sum() / 4
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.where(judged, power / warmth, np.nan)
    usual = float(np.nanpercentile(share, 75))
    silent = judged & (share < RATE_REGISTER_SILENT * usual)
    hours = np.count_nonzero(silent) / 4
    picture = Picture(
        say("hour_day"),
        say("electricity_heat"),
        False,
        (series(say("quarter_hour"), np.arange(96) / 4 + 0.125, share, "bars"),),
    )
    if not RATE_REGISTER_LEAST_HOURS <= hours <= MOST_HOURS:
        return sound(
            CheckCode.RATE_REGISTERS,
            say("electricity_counted_every"),
            picture,
        )
    widened = _widened(silent, share < PARTLY * usual)
    first, last = _window(widened)
    begin, end = (t.hour * 4 + t.minute // 15 for t in (first, last))
    inside = (np.arange(96) - begin) % 96 < (end - begin) % 96
    if np.count_nonzero(inside & judged & ~widened) > RATE_REGISTER_APART * np.count_nonzero(
        widened
    ):
        return sound(
            CheckCode.RATE_REGISTERS,
            say("hours_electricity_stands"),
            picture,
        )
    return Check(
        code=CheckCode.RATE_REGISTERS,
        soundness=Soundness.BROKEN,
        sentence=say(
            "sentence",
            first=first,
            last=last,
            name=context.unit.name,
            warmth=warmth[silent].sum() / 3600000.0,
        ),
        spans=(context.whole,),
        remedy=say("remedy"),
        proposals=(
            Rule(
                from_time=first,
                to_time=last,
                reason=say("other_rate_register"),
            ),
        ),
        affects=(Affects.ELECTRICITY,),
        picture=picture,
    )


def _widened(silent: Bools, partly: Bools) -> Bools:
    """The silent quarters with those around them that are silent for a part of the year."""
    while True:
        next_to = np.roll(silent, 1) | np.roll(silent, -1)
        wider = silent | (next_to & partly)
        if (wider == silent).all():
            return silent
        silent = wider


def _window(silent: Bools) -> tuple[time, time]:
    """The shortest stretch of the day, over midnight if need be, that holds all silent quarters."""
    at = np.flatnonzero(silent)
    gaps = np.diff(np.append(at, at[0] + 96))
    widest = int(np.argmax(gaps))
    first, last = int(at[(widest + 1) % len(at)]), int(at[widest] + 1) % 96
    return time(first // 4, first % 4 * 15), time(last // 4, last % 4 * 15)
