"""Two ways of measuring the same heat: register against flow × ΔT."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import Floats
from ember.description.installation import Factor, Installation, Offset, Swap
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
        return not_checkable(CheckCode.REGISTER_AGAINST_FLOW, "Heat is measured in one way only.")
    if register.name in counts_uncorrected(context.installation):
        return not_checkable(
            CheckCode.REGISTER_AGAINST_FLOW,
            f"'{register.name}' counts with the same sensors, as they were before correction.",
        )
    one, other = meter_energies.heat[register.name].energy, meter_energies.heat[circuit.name].energy
    known = np.isfinite(one) & np.isfinite(other) & ~context.left_out
    positive, counted = np.maximum(other, 0.0), float(one[known].sum())
    total, net = float(positive[known].sum()), float(other[known].sum())
    if 0 < abs(counted - net) < abs(counted - total):
        positive, total = other, net
    if total < 20 * register.resolution_kwh * 3.6e6 or counted <= 0:
        return not_checkable(
            CheckCode.REGISTER_AGAINST_FLOW, "Too little heat for the register's step."
        )
    ratio = counted / total
    said = f"Over the same time the register counts {ratio:.3f} of flow × ΔT."
    picture = _picture(context, np.where(known, one, 0.0), np.where(known, positive, 0.0))
    if abs(ratio - 1) <= REGISTER_AGAINST_FLOW_MOST:
        return sound(CheckCode.REGISTER_AGAINST_FLOW, said, picture)
    mistake = named(ratio)
    if context.mixing and abs(np.log(ratio)) < np.log(1 + MOST_MIXING):
        return not_checkable(
            CheckCode.REGISTER_AGAINST_FLOW,
            f"{said} {context.mixing} Within {MOST_MIXING:.0%} the two may well differ so.",
            "Log flow and temperatures every minute or two for some days.",
        )
    hint = (
        f" A ratio near {mistake[0]:g} is a unit, phase or pulse mistake: {mistake[1]}."
        if mistake
        else ""
    )
    proposals: tuple[Factor, ...] = ()
    if mistake:
        proposals = (
            Factor(
                channel=register.channel,
                factor=1 / mistake[0] if ratio > 1 else mistake[0],
                reason=f"register counted {ratio:.3f} of flow × ΔT: {mistake[1]}",
            ),
        )
    return Check(
        CheckCode.REGISTER_AGAINST_FLOW,
        Soundness.DOUBTFUL,
        said
        + f" More than {REGISTER_AGAINST_FLOW_MOST:.0%} apart: one of them is set wrongly.{hint}",
        (context.whole,),
        "Check glycol, unit, pulse value and the place of the sensors before believing either. "
        "Which of the two is wrong only the meter on site can say.",
        proposals,
        (Affects.HEAT,),
        picture,
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
        "register ÷ flow × ΔT",
        True,
        (series("week", at, ratio),),
        (("", 1 - REGISTER_AGAINST_FLOW_MOST), ("limit", 1 + REGISTER_AGAINST_FLOW_MOST)),
    )
