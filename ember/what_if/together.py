"""All that is asked together, nothing counted twice."""

from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.cost import standing_charge
from ember.description.tariff import Tariff
from ember.messages import Reason, Source, because, words_of
from ember.operation.within import Within
from ember.what_if.asked import WhatIfAsked
from ember.what_if.effect import UsePart, WhatIfCode, WhatIfEffect
from ember.what_if.measures import measures
from ember.what_if.parts import UseParts
from ember.what_if.storing import held, moved, paid, rough, stored

say = words_of(__name__)


@dataclass(frozen=True)
class PartUse:
    """A part of the electricity as it was, and what a kWh of it cost on average."""

    part: UsePart
    name: str
    electricity: Estimate
    price: float | None


@dataclass(frozen=True)
class WhatIf:
    """What the period would have used and cost.

    Attributes
    ----------
    uses : tuple[PartUse, ...]
        its electricity in parts, none of which stands in two.
    effects : tuple[WhatIfEffect, ...]
        of each that is asked, by itself.
    together : WhatIfEffect | None
        of all of them that can be told; None where fewer than two are.
    """

    uses: tuple[PartUse, ...]
    effects: tuple[WhatIfEffect, ...]
    together: WhatIfEffect | None
    currency: str | None


def what_if(within: Within, asked: WhatIfAsked) -> WhatIf:
    """What a period would have used and cost with what is asked, by its own readings.

    Parameters
    ----------
    within : Within
        the events of a period, at whose ends the record analysis is cut.

    Each by itself acts on the period as it was. Together each acts on what those before it have
    left of its part, moving on the profile after them, and the tariff last.
    """
    parts = UseParts(within)
    effects = measures(parts, asked)
    if asked.store is not None:
        effects.append(stored(parts, asked.store, asked.tariff))
    if asked.tariff is not None:
        effects.append(_other_tariff(parts, asked.tariff))
    tariff = within.analysis.installation.tariff
    currency = tariff.currency if tariff else asked.tariff.currency if asked.tariff else None
    named = {
        UsePart.HEATING: say("heating"),
        UsePart.HOT_WATER: say("hot_water"),
        UsePart.HEATERS: say("heaters"),
        UsePart.REST: say("rest"),
    }
    uses = tuple(
        PartUse(part, named[part], used, parts.prices.get(part))
        for part, used in parts.electricity.items()
    )
    told = [one for one in effects if one.reason is None]
    both = _together(parts, asked, told) if len(told) > 1 else None
    return WhatIf(uses, tuple(effects), both, currency)


def _other_tariff(parts: UseParts, tariff: Tariff) -> WhatIfEffect:
    """The period as it was at another tariff; standing charges on both sides, tiers on neither."""
    within = parts.within
    own = within.analysis.installation.tariff
    name, formula = say("tariff"), say("tariff_formula")
    if own is None or own.currency != tariff.currency or tariff.by_the_hour is not None:
        return WhatIfEffect(
            WhatIfCode.TARIFF, name, formula, None, None, (), (), _no_tariff(own, tariff), None
        )
    if not parts.hours_known:
        why = because(ReasonCode.WHAT_IF_NO_HOURS)
        return WhatIfEffect(WhatIfCode.TARIFF, name, formula, None, None, (), (), why, None)
    saved = _bill(parts, own, None, parts.by_half) - _bill(parts, own, tariff, parts.by_half)
    meter = sum(e.value for e in parts.electricity.values())
    u = sum(e.u for e in parts.electricity.values()) / meter if meter else 0.0
    money = Estimate(
        saved,
        tariff.currency,
        (UncertaintyComponent(Source(SourceCode.ELECTRICITY_METER), abs(saved) * u),),
    )
    said = (say("half_hours"), say("standing"))
    return WhatIfEffect(WhatIfCode.TARIFF, name, formula, None, money, said, (), None, None)


def _no_tariff(own: Tariff | None, asked: Tariff) -> Reason:
    if own is None:
        return because(ReasonCode.NO_TARIFF)
    if asked.by_the_hour is not None:
        return because(ReasonCode.WHAT_IF_BY_THE_HOUR)
    return because(ReasonCode.WHAT_IF_CURRENCY, own=own.currency, other=asked.currency)


def _bill(
    parts: UseParts, own: Tariff, other: Tariff | None, profile: dict[UsePart, np.ndarray]
) -> float:
    """What a profile costs by the tariff in force or another, with its standing charge."""
    period = parts.within.period
    standing = standing_charge(
        other or own, [(period.start, period.stop)], parts.within.analysis.zone
    )
    return paid(profile, parts.price_by_half(other)) + standing[0]


def _together(parts: UseParts, asked: WhatIfAsked, told: list[WhatIfEffect]) -> WhatIfEffect:
    left = dict.fromkeys(parts.electricity, 1.0)
    apart: list[WhatIfEffect] = []  # starts and defrosts are the unit's own that is there
    if any(one.code == WhatIfCode.UNIT for one in told):
        apart = [one for one in told if one.code in (WhatIfCode.STARTS, WhatIfCode.DEFROSTS)]
        told = [one for one in told if one not in apart]
    several: list[Estimate] = []
    for one in told:
        if one.part is not None and one.electricity is not None:
            left[one.part] *= 1 - one.electricity.value / parts.electricity[one.part].value
            several.append(one.electricity)
    saved = sum(parts.electricity[part].value * (1 - share) for part, share in left.items())
    alone = sum(one.value for one in several)
    scale = saved / alone if alone else 0.0
    budget = [component.times(scale) for one in several for component in one.budget]
    profile = {part: values * left[part] for part, values in parts.by_half.items()}
    own = parts.within.analysis.installation.tariff
    by_tariff = any(one.code == WhatIfCode.TARIFF for one in told)
    tariff = asked.tariff if by_tariff or own is None else None
    if asked.store is not None and any(one.code == WhatIfCode.STORE for one in told):
        by = held(parts, asked.store)
        assert not isinstance(by, Reason)
        then = moved(parts, asked.store, by, profile, parts.price_by_half(tariff))
        profile = then.profile
        saved -= then.more
        budget += rough(-then.more, "kWh").budget
    money = None
    if own is not None and profile:
        value = _bill(parts, own, None, parts.by_half) - _bill(parts, own, tariff, profile)
        error = sum(abs(one.money.u) ** 2 for one in told if one.money is not None) ** 0.5
        method = Source(SourceCode.METHOD, detail=say("alone"))
        money = Estimate(value, own.currency, (UncertaintyComponent(method, error),))
    said = [say("not_twice")]
    if tariff is not None and asked.store is not None:
        said.append(say("by_that_tariff"))
    if apart:
        said.append(say("of_that_unit", names=", ".join(one.name for one in apart)))
    return WhatIfEffect(
        WhatIfCode.TOGETHER, say("together"), say("together_formula"),
        Estimate(saved, "kWh", merge(budget)), money, tuple(said), (), None, None,
    )  # fmt: skip
