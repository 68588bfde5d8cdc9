"""Can the metering be believed? One module a check; checks propose, never correct.

In: a record with its states (`CheckContext`). Out: `Check`s, and what may be claimed. May import:
`ember.rated` and what stands before it.
"""

from collections.abc import Callable, Mapping
from functools import partial
from typing import TypeVar

from ember.basis.codes import CheckCode
from ember.basis.side_by_side import side_by_side
from ember.messages import words_of
from ember.trust.check import (
    Affects,
    Check,
    Effect,
    Picture,
    Series,
    Soundness,
    not_checkable,
)
from ember.trust.clocks import clocks
from ember.trust.consumers import consumers
from ember.trust.context import CheckContext, SummedContext
from ember.trust.controller import controller
from ember.trust.flow_scatter import flow_scatter
from ember.trust.gaps import gaps
from ember.trust.glycol import glycol
from ember.trust.other_loads import other_loads
from ember.trust.outdoor import outdoor_sensor
from ember.trust.pair_offset import pair_offset
from ember.trust.physics import beyond_physics
from ember.trust.rate_register import rate_register
from ember.trust.register_against_flow import register_against_flow
from ember.trust.resets import counter_resets
from ember.trust.resolution import resolution
from ember.trust.spikes import spikes
from ember.trust.state import Claim, TrustKind, TrustState, trust_state
from ember.trust.stuck import stuck
from ember.trust.swapped import swapped_sensors
from ember.trust.too_good import beyond_table
from ember.trust.yield_as_heat import yield_as_heat

say = words_of(__name__)
Work = TypeVar("Work")

__all__ = [
    "CODES",
    "Affects",
    "Check",
    "CheckContext",
    "Claim",
    "Effect",
    "Picture",
    "Series",
    "Soundness",
    "SummedContext",
    "TrustKind",
    "TrustState",
    "checks",
    "first_checks",
    "physical_bound",
    "trust_state",
]


Made = Callable[[SummedContext], Check]

# In the order of the work. Those of the first row tell whether the states can be told at all, on
# which those of the second rest, and with the physical bound whether a COP may be stated. They
# look at no sum.
TRUST_FIRST: dict[CheckCode, Callable[[CheckContext], Check]] = {
    CheckCode.SWAPPED_SENSORS: swapped_sensors,
    CheckCode.CLOCKS: clocks,
    CheckCode.RATE_REGISTERS: rate_register,
    CheckCode.OTHER_LOADS: other_loads,
}
ON_STATES: dict[CheckCode, Made] = {
    CheckCode.FLOW_READING: flow_scatter,
    CheckCode.PAIR_OFFSET: pair_offset,
    CheckCode.STUCK_READINGS: stuck,
    CheckCode.CONSUMERS: consumers,
}
ON_BOTH_SENSORS: dict[CheckCode, Made] = {
    CheckCode.REGISTER_AGAINST_FLOW: register_against_flow,
    CheckCode.CONTROLLER_AGAINST_METER: controller,
}
ALONE: dict[CheckCode, Made] = {
    CheckCode.GLYCOL: glycol,
    CheckCode.YIELD_AS_HEAT: yield_as_heat,
    CheckCode.PHYSICAL_BOUND: beyond_physics,
    CheckCode.BEYOND_TABLE: beyond_table,
    CheckCode.SPIKES: spikes,
    CheckCode.RESOLUTION: resolution,
    CheckCode.COUNTER_RESETS: counter_resets,
    CheckCode.GAPS: gaps,
    CheckCode.OUTDOOR_SENSOR: outdoor_sensor,
}
CODES = (*TRUST_FIRST, *ON_STATES, *ON_BOTH_SENSORS, *ALONE)
HIDDEN = {
    CheckCode.CLOCKS: "not_while_clocks",
    CheckCode.RATE_REGISTERS: "not_while_rate_registers",
    CheckCode.OTHER_LOADS: "not_while_other_loads",
}


def first_checks(
    context: CheckContext, codes: frozenset[CheckCode] | None = None
) -> tuple[Check, ...]:
    """The checks on which others rest.

    Parameters
    ----------
    codes : frozenset[CheckCode] | None
        those to make, None: all of them.
    """
    wanted = {code: partial(made, context) for code, made in TRUST_FIRST.items()}
    return tuple(side_by_side(_of(wanted, codes)).values())


def physical_bound(
    context: SummedContext, codes: frozenset[CheckCode] | None = None
) -> tuple[Check, ...]:
    """The check that may forbid a COP by itself, if it is among `codes`."""
    code = CheckCode.PHYSICAL_BOUND
    return (ALONE[code](context),) if codes is None or code in codes else ()


def _of(
    works: Mapping[CheckCode, Work], codes: frozenset[CheckCode] | None
) -> dict[CheckCode, Work]:
    return {code: work for code, work in works.items() if codes is None or code in codes}


def checks(
    context: SummedContext,
    codes: frozenset[CheckCode] | None,
    first: tuple[Check, ...],
) -> tuple[Check, ...]:
    """The checks of a record.

    A check that rests on what another has found ill is not made, and says so.

    Parameters
    ----------
    codes : frozenset[CheckCode] | None
        those to make, None: all.
    first : tuple[Check, ...]
        what `first_checks` and `physical_bound` have made of them.
    """
    found = {check.code: check for check in first}
    swapped = (
        say("not_while_swapped")
        if CheckCode.SWAPPED_SENSORS in found and found[CheckCode.SWAPPED_SENSORS].unsound
        else None
    )
    hidden = next(
        (say(w) for n, w in HIDDEN.items() if n in found and found[n].unsound and found[n].affects),
        None,
    )
    silent: dict[CheckCode, str | None] = dict.fromkeys(ON_STATES, hidden)
    silent |= dict.fromkeys(ON_BOTH_SENSORS, swapped)
    silent[CheckCode.PAIR_OFFSET] = hidden or swapped
    rest = ON_STATES | ON_BOTH_SENSORS | ALONE
    unmade = {code: made for code, made in _of(rest, codes).items() if code not in found}
    found |= side_by_side(
        {code: partial(made, context) for code, made in unmade.items() if not silent.get(code)}
    )
    found |= {code: not_checkable(code, why) for code in unmade if (why := silent.get(code))}
    return tuple(found[code] for code in CODES if code in found)
