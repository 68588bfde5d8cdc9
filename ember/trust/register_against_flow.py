"""Two ways of measuring the same heat: register against flow × ΔT."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import Floats
from ember.description.installation import Factor, Installation, Offset, Swap
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
from ember.trust.context import CheckContext, by_day
from ember.trust.ratios import named

say = words_of(__name__)

REGISTER_AGAINST_FLOW_MOST = 0.05  # by which the two may disagree, common practice
MOST_MIXING = 0.3  # where readings lie so far apart that they mix running and rest


def register_against_flow(context: CheckContext) -> Check:
    """Whether a heat register and the logged flow × ΔT agree. Source: common practice.

    Heat taken back in defrosts is set aside, unless the register agrees better with it: it then
    counts net.
    """
    meter_energies = context.meter_energies
    register = next(
        (r for r in context.installation.registers if r.name in meter_energies.heat), None
    )
    circuit = context.circuit
    if register is None or circuit is None:
        return not_checkable(CheckCode.REGISTER_AGAINST_FLOW, say("heat_measured_one"))
    if register.name in counts_uncorrected(context.installation):
        return not_checkable(
            CheckCode.REGISTER_AGAINST_FLOW,
            say("counts_same_sensors", name=register.name),
        )
    one, other = meter_energies.heat[register.name].energy, meter_energies.heat[circuit.name].energy
    known = np.isfinite(one) & np.isfinite(other) & ~context.left_out
    positive, counted = np.maximum(other, 0.0), float(one[known].sum())
    total, net = float(positive[known].sum()), float(other[known].sum())
    if 0 < abs(counted - net) < abs(counted - total):
        positive, total = other, net
    if total < 20 * register.resolution_kwh * 3.6e6 or counted <= 0:
        return not_checkable(CheckCode.REGISTER_AGAINST_FLOW, say("too_little_heat"))
    ratio = counted / total
    said = say("over_same_time", ratio=ratio)
    picture = _picture(context, np.where(known, one, 0.0), np.where(known, positive, 0.0))
    if abs(ratio - 1) <= REGISTER_AGAINST_FLOW_MOST:
        return sound(CheckCode.REGISTER_AGAINST_FLOW, said, picture)
    mistake = named(ratio)
    if context.mixing and abs(np.log(ratio)) < np.log(1 + MOST_MIXING):
        return not_checkable(
            CheckCode.REGISTER_AGAINST_FLOW,
            say("within_two_may", said=said, mixing=context.mixing, most_mixing=MOST_MIXING),
            say("log_flow_temperatures"),
        )
    hint = say("ratio_near_unit", factor=mistake[0], meaning=mistake[1]) if mistake else ""
    proposals: tuple[Factor, ...] = ()
    if mistake:
        proposals = (
            Factor(
                channel=register.channel,
                factor=1 / mistake[0] if ratio > 1 else mistake[0],
                reason=say("register_counted_flow", ratio=ratio, meaning=mistake[1]),
            ),
        )
    return Check(
        code=CheckCode.REGISTER_AGAINST_FLOW,
        soundness=Soundness.DOUBTFUL,
        sentence=said
        + say("more_than_apart", register_against_flow_most=REGISTER_AGAINST_FLOW_MOST, hint=hint),
        spans=(context.whole,),
        remedy=say("remedy"),
        proposals=proposals,
        affects=(Affects.HEAT,),
        picture=picture,
    )


def counts_uncorrected(installation: Installation) -> frozenset[str]:
    """The registers of meters whose sensors, logged too, have been corrected since."""
    changed: set[str] = set()
    for c in installation.corrections:
        match c:
            case Offset(channel=channel) | Factor(channel=channel):
                changed.add(channel)
            case Swap(channels=channels):
                changed |= set(channels)
    circuits = {
        c.name for c in installation.circuits if changed & {c.flow_rate, c.flow_temp, c.return_temp}
    }
    return frozenset(r.name for r in installation.registers if r.circuit in circuits)


def _picture(context: CheckContext, one: Floats, other: Floats) -> Picture:
    """Ratio of the two by week."""
    weeks = context.days[::7]
    if weeks[-1] != context.days[-1]:
        weeks = np.append(weeks, context.days[-1])
    register, heat = by_day(one, weeks), by_day(other, weeks)
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = np.where(heat > 3.6e7, register / heat, np.nan)
    at = (context.trace.start + weeks[:-1] * context.trace.step).astype(float)
    return Picture(
        "week",
        say("register_flow_delta"),
        True,
        (series("week", at, ratio),),
        (("", 1 - REGISTER_AGAINST_FLOW_MOST), ("limit", 1 + REGISTER_AGAINST_FLOW_MOST)),
    )
