"""Backup or immersion heater at work though the heat pump had reserve."""

import numpy as np

from ember.basis.clock import HOUR
from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding
from ember.messages import words_of
from ember.rated.surface import surface

say = words_of(__name__)

HELPING = 100.0  # mean power of heaters in an hour, from which they are at work [W]
RESERVE = 0.85  # of the rated capacity, below which the unit had reserve, common practice, chosen
HEATERS_MILD = 0.0  # outdoors, above which no heater is needed where no table says more [degC]


def heaters_overused(context: FindingContext) -> Finding | None:
    """Heat made with COP 1 that the heat pump could have made.

    An hour counts where heat pump and heater together gave less than RESERVE of the rated capacity
    at its conditions.
    """
    of, inside = context.ran.hours.of, context.within.hours()
    heater = np.nan_to_num(of["heater"])
    working = inside & (heater / HOUR > HELPING)
    if not working.any():
        return None
    table = context.installation.rated
    total = np.nan_to_num(of["given"]) + heater
    if table is not None and context.installation.circuits:
        rated = surface(table).capacity_at(of["outdoor"], of["flow"])
        needless = working & np.isfinite(rated) & (total < RESERVE * rated * HOUR)
        words = say("hours_rated_capacity")
    else:
        needless = working & (of["outdoor"] > HEATERS_MILD)
        words = say("hours_above_outdoors", heaters_mild=HEATERS_MILD)
    wasted = float(heater[needless].sum()) / 3.6e6
    used = context.used
    if used is None or not used.value or needless.sum() < 6:
        return None
    share = wasted / used.value
    if share < context.limits.heater_share / 2:
        return None
    cop = _cop(context)
    lost = context.loss(wasted * (1 - 1 / cop), 0.1, say("cop_heat_pump"))
    first = float(context.ran.hours.start + HOUR * int(needless.argmax()))
    return context.finding(
        FindingCode.HEATER_OVERUSED,
        say("sentence", wasted=wasted, needless=needless.sum(), words=words),
        context.weight(share > context.limits.heater_share and not _weak(context), lost),
        [
            context.evidence(
                say("share_electricity_used"),
                counted(share),
                context.limits.heater_share,
                ViewCode.RUNNING,
                span=(first, first + 86_400.0),
            )
        ],
        [
            Cause(say("cause_bivalent_point")),
            Cause(say("cause_immersion_heater")),
            Cause(say("cause_controller_left")),
        ],
        say("next_check"),
        say("who"),
        context.costed(lost, say("basis_against_heat", cop=cop)),
        care("comfort", "mains"),
        say("clears", heater_share=context.limits.heater_share),
    )


def _weak(context: FindingContext) -> bool:
    """Whether hot-water charges show that the unit lacks the rated capacity itself."""
    charges = context.capacity.charges_over_rated
    return charges is not None and charges < context.limits.capacity * 0.9


def _cop(context: FindingContext) -> float:
    """The COP of the heat pump over the period, no less than 1.5."""
    reckoning = context.figures.reckonings[0] if context.figures.reckonings else None
    found = reckoning.cop.value if reckoning is not None and reckoning.cop is not None else 2.5
    return max(found, 1.5)
