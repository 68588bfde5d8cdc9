"""Glycol that the heat meter does not know of."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.description.installation import Factor
from ember.messages import words_of
from ember.properties import Fluid, FluidKind, liquid
from ember.trust.check import Affects, Check, Soundness, not_checkable, sound
from ember.trust.context import CheckContext

say = words_of(__name__)

GLYCOL_NEAR = 0.012  # within which the register's excess is that of the glycol
GLYCOL_LEAST = 0.01  # of an effect before anything is said
# U of the factor (k = 2): concentration known to some percent, common practice, chosen
FACTOR_U = 0.01


def glycol(context: CheckContext) -> Check:
    """Whether a register counts a mixture as water.

    Source: heat carried per litre and kelvin, ρ·c_p, of mixture and water (CoolProp).
    """
    fluid = context.installation.fluid
    if fluid.kind == FluidKind.WATER:
        quarter = _ratio(Fluid(FluidKind.PROPYLENE_GLYCOL, 0.25), 35.0)
        return not_checkable(
            CheckCode.GLYCOL,
            say("described_water_no", quarter=1 / quarter - 1),
            say("ask_measure_refractometer"),
        )
    register = next(
        (r for r in context.installation.registers if r.name in context.meter_energies.heat), None
    )
    if register is None:
        return sound(
            CheckCode.GLYCOL,
            say("heat_worked_out"),
        )
    circuit = context.circuit
    temp = 35.0
    if circuit is not None and context.on.any():
        temp = float(np.nanmedian(context.trace[circuit.flow_temp][context.on]))
    factor = _ratio(fluid, temp)
    share = f"{fluid.mass_fraction:.0%} {fluid.kind.value.replace('_', ' ')}"
    said = say("carries_water_does", share=share, factor=factor)
    if not register.set_for_water:
        return sound(CheckCode.GLYCOL, say("described_set", said=said, name=register.name))
    if 1 - factor < GLYCOL_LEAST:
        return sound(CheckCode.GLYCOL, said + say("too_little_matter"))
    if circuit is not None and not context.mixing:
        one = context.meter_energies.heat[register.name].energy
        other = np.maximum(context.meter_energies.heat[circuit.name].energy, 0.0)
        known = np.isfinite(one) & np.isfinite(other) & ~context.left_out
        total = float(other[known].sum())
        ratio = float(one[known].sum()) / total if total > 0 else np.nan
        said += say("register_counts_flow", ratio=ratio)
        said += f"{1 / factor:.3f}."
        if not abs(ratio * factor - 1) < GLYCOL_NEAR:
            return sound(CheckCode.GLYCOL, said)
    return Check(
        CheckCode.GLYCOL,
        Soundness.DOUBTFUL,
        say("sentence", said=said, name=register.name, factor=1 / factor - 1),
        (context.whole,),
        say("remedy"),
        (
            Factor(
                channel=register.channel,
                factor=round(factor, 4),
                U=FACTOR_U,
                reason=say("meter_set_water", share=share),
            ),
        ),
        (Affects.HEAT,) if context.uses(register.name) else (),
    )


def _ratio(fluid: Fluid, temp: float) -> float:
    """ρ·c_p of a mixture over that of water at temp [degC]."""
    at = np.array([temp])
    mixture, water = liquid(fluid), liquid(Fluid())
    return float((mixture.rho(at) * mixture.cp(at) / (water.rho(at) * water.cp(at)))[0])
