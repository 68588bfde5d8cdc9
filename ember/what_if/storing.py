"""Use moved from dear into cheap hours, with the building, the tank or a battery as the store."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import local_days
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.basis.series import Floats, Ints
from ember.description.tariff import Tariff
from ember.messages import Reason, Source, because, words_of
from ember.season import Signature, season_seen
from ember.views.modes import modes
from ember.what_if.asked import Store, StoreKind
from ember.what_if.effect import UsePart, WhatIfCode, WhatIfEffect
from ember.what_if.parts import HALF, ORDER, UseParts

say = words_of(__name__)

ROUGH = 0.3  # standard uncertainty of what is moved, as a share, common practice, chosen
FULL = 95  # percentile of the half-hours that counts as full power, common practice, chosen
WATER_KWH = 4.186 / 3600  # heat capacity of a litre [kWh/K], for that alone
USUAL_TANK_LOSS = 2.0  # standing loss of a tank [W/K], common practice, chosen


@dataclass(frozen=True)
class MovedUse:
    """A profile after moving.

    Attributes
    ----------
    profile : dict[UsePart, Floats]
        electricity of each part in each half-hour, (h,) [kWh].
    moved, more : float
        electricity that was moved, and what more is used for it [kWh].
    days : int
        on which anything was.
    """

    profile: dict[UsePart, Floats]
    moved: float
    more: float
    days: int


@dataclass(frozen=True)
class _Held:
    """What a store holds: electricity it can give a day [kWh], what is lost a half-hour and at
    once as shares, and the parts that it moves."""

    daily: float
    per_half: float
    at_once: float
    parts: tuple[UsePart, ...]
    said: tuple[str, ...]
    comfort: tuple[str, ...]


def held(parts: UseParts, store: Store) -> _Held | Reason:
    """What a store can do in this house."""
    if store.kind == StoreKind.BATTERY:
        assert store.kwh is not None
        said = (say("battery", kwh=store.kwh, efficiency=store.efficiency),)
        return _Held(store.kwh, 0.0, 1 / store.efficiency - 1, ORDER, said, ())
    assert store.swing_k is not None
    cops = [one.reckoning.cop for one in modes(parts.within)]
    known = [cop.value for cop in cops if cop is not None]
    if not known:
        return because(ReasonCode.WHAT_IF_NO_COP)
    if store.kind == StoreKind.BUILDING:
        assert store.kwh_k is not None
        loss = _house_loss(parts)
        if loss is None:
            return because(ReasonCode.WHAT_IF_NO_LOSS)
        heat = store.kwh_k * store.swing_k
        per_half = loss / 1000 / store.kwh_k * (HALF / 3600)
        said = (say("building", kwh=heat, loss=loss, tau=store.kwh_k / loss * 1000),)
        comfort = (say("warmer_rooms", swing=store.swing_k),)
        return _Held(heat / known[0], per_half, 0.0, (UsePart.HEATING,), said, comfort)
    tank = parts.within.analysis.installation.tank
    litres = store.litres or (tank.volume_l * tank.effective_share if tank else None)
    if litres is None:
        return because(ReasonCode.NO_TANK)
    capacity = litres * WATER_KWH
    rate = tank.loss_w_k if tank is not None and tank.loss_w_k is not None else USUAL_TANK_LOSS
    said = (say("tank", litres=litres, kwh=capacity * store.swing_k, loss=rate),)
    comfort = (say("hotter_tank", swing=store.swing_k),)
    return _Held(
        capacity * store.swing_k / known[-1],
        rate / 1000 / capacity * (HALF / 3600),
        0.0,
        (UsePart.HOT_WATER,),
        said,
        comfort,
    )


def _house_loss(parts: UseParts) -> float | None:
    """Of the house by its heat over the weather, else by its survey [W/K]."""
    analysis = parts.within.analysis
    seen = season_seen(analysis, parts.within.period)
    if isinstance(seen.heat, Signature) and seen.loss is not None:
        return seen.loss.value
    return seen.described_loss


def moved(
    parts: UseParts, store: Store, by: _Held, profile: dict[UsePart, Floats], price: Floats
) -> MovedUse:
    """A profile with use moved to cheaper half-hours before it, each day by itself, the greatest
    difference first; a kWh is moved only where that pays with what is lost on the way.

    Parameters
    ----------
    profile : dict[UsePart, Floats]
        electricity of each part, (h,) [kWh].
    price : array, (h,)
        per kWh.

    Source: greedy within the day; at most full power in each half-hour, common practice.
    """
    used = sum((profile[part] for part in by.parts if part in profile), np.zeros(len(price)))
    running = used[used > 0]
    after = {part: values.copy() for part, values in profile.items()}
    if not len(running):
        return MovedUse(after, 0.0, 0.0, 0)
    full = float(np.percentile(running, FULL))
    if store.kind == StoreKind.BATTERY:  # it fills within four hours
        full = np.inf
    zone = parts.within.analysis.zone
    _, midnights = local_days(int(parts.edges[0]), int(parts.edges[-1]), zone)
    day = np.searchsorted(midnights, parts.edges[:-1], side="right")
    reach = int(store.hours * 3600 / HALF)
    total = more = 0.0
    days = 0
    for first, last in _days(day):
        taken, extra = _one_day(used[first:last], price[first:last], full, reach, by)
        if taken.any():
            days += 1
            change = extra - taken
            total += float(taken.sum())
            more += float(change.sum())
            for part in by.parts:
                if part in after:
                    here = after[part][first:last]
                    share = np.divide(here, used[first:last], out=np.zeros(len(here)),
                                      where=used[first:last] > 0)  # fmt: skip
                    here -= taken * share
            to = next(part for part in by.parts if part in after)
            after[to][first:last] += extra
    return MovedUse(after, total, more, days)


def _days(day: Ints) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(day)) + 1
    return list(zip([0, *edges.tolist()], [*edges.tolist(), len(day)], strict=True))


def _one_day(
    used: Floats, price: Floats, full: float, reach: int, by: _Held
) -> tuple[Floats, Floats]:
    """What is taken from each half-hour of a day, and what is added to each [kWh]."""
    taken, extra = np.zeros(len(used)), np.zeros(len(used))
    if not np.isfinite(price).all() or np.ptp(price) <= 0:
        return taken, extra
    room = np.maximum(full - used, 0.0) if np.isfinite(full) else np.full(len(used), by.daily / 8)
    ahead = np.subtract.outer(np.arange(len(used)), np.arange(len(used)))  # [to, from]
    factor = 1 + by.at_once + by.per_half * np.maximum(ahead, 0)
    gain = price[:, None] - price[None, :] * factor
    gain[(ahead <= 0) | (ahead > reach)] = -np.inf
    left = by.daily
    for pair in np.argsort(-gain, axis=None, kind="stable")[: np.count_nonzero(gain > 0)].tolist():
        at, source = divmod(pair, len(used))
        amount = min(used[at] - taken[at], left, room[source] / factor[at, source])
        if amount <= 0:
            continue
        taken[at] += amount
        extra[source] += amount * factor[at, source]
        room[source] -= amount * factor[at, source]
        left -= amount
        if left <= 0:
            break
    return taken, extra


def stored(parts: UseParts, store: Store, tariff: Tariff | None) -> WhatIfEffect:
    """What moving alone would have saved, at the tariff in force; where that has one price at all
    hours, at the other that is asked."""
    named = {
        StoreKind.BUILDING: say("with_building"),
        StoreKind.TANK: say("with_tank"),
        StoreKind.BATTERY: say("with_battery"),
    }
    name, formula = named[store.kind], say("formula")

    def without(why: Reason) -> WhatIfEffect:
        return WhatIfEffect(WhatIfCode.STORE, name, formula, None, None, (), (), why, None)

    own = parts.within.analysis.installation.tariff
    if own is None and tariff is None:
        return without(because(ReasonCode.NO_TARIFF))
    if not parts.hours_known:
        return without(because(ReasonCode.WHAT_IF_NO_HOURS))
    by = held(parts, store)
    if isinstance(by, Reason):
        return without(by)
    asked = tariff if own is None or (tariff and tariff.currency == own.currency) else None
    price = parts.price_by_half(None if own is not None else asked)
    further: tuple[str, ...] = ()
    if not _varies(price) and own is not None and asked is not None:
        price, further = parts.price_by_half(asked), (say("by_the_other"),)
    if not _varies(price):
        return without(because(ReasonCode.WHAT_IF_ONE_PRICE))
    found = moved(parts, store, by, parts.by_half, price)
    currency = (own or tariff).currency  # type: ignore[union-attr]
    saved = paid(parts.by_half, price) - paid(found.profile, price)
    said = (say("moved", kwh=found.moved, days=found.days, of=round(parts.within.days)), *by.said)
    return WhatIfEffect(
        WhatIfCode.STORE, name, formula, rough(-found.more, "kWh"), rough(saved, currency),
        (*said, say("spare"), *further), by.comfort, None, None,
    )  # fmt: skip


def _varies(price: Floats) -> bool:
    known = price[np.isfinite(price)]
    return bool(len(known)) and float(np.ptp(known)) > 0


def paid(profile: dict[UsePart, Floats], price: Floats) -> float:
    """Σ electricity × price of its half-hour."""
    known = np.isfinite(price)
    return float(sum((values[known] * price[known]).sum() for values in profile.values()))


def rough(value: float, unit: str, share: float = ROUGH) -> Estimate:
    """A figure that rests on moving, with the error of that."""
    method = UncertaintyComponent(
        Source(SourceCode.METHOD, detail=say("rough")), abs(value) * share
    )
    return Estimate(value, unit, (method,) if value else ())
