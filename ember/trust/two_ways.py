"""Two ways of measuring the same heat: register against flow × ΔT."""

import numpy as np

from ember.installation import Installation
from ember.metering import Streams
from ember.period import Period
from ember.trace import Trace
from ember.trust.check import Check, Soundness, not_checkable, sound

NAME = "register against flow × ΔT"
MOST = 0.05  # by which the two may disagree, common practice
# Mistakes of unit, phase or pulse value that a ratio betrays (handbook §6).
MISTAKES = (3.6, 1000.0, 0.2778, 60.0, 16.67, 3.785, 3.412, 1.163, 1.8, 2.0, 3.0, 10.0, 12.0)


def two_ways(installation: Installation, trace: Trace, streams: Streams, swapped: Check) -> Check:
    """Whether a heat register and the logged flow × ΔT agree. Source: common practice.

    With swapped sensors the comparison says nothing. Heat taken back in defrosts is set aside:
    a register does not run backwards.
    """
    register = next((r for r in installation.registers if r.name in streams.heat), None)
    circuit = next((c for c in installation.circuits if c.name in streams.heat), None)
    if register is None or circuit is None:
        return not_checkable(NAME, "Heat is measured in one way only.")
    if swapped.soundness == Soundness.BROKEN:
        return not_checkable(NAME, "Not while the sensors are swapped.")
    one, other = streams.heat[register.name].energy, streams.heat[circuit.name].energy
    known = np.isfinite(one) & np.isfinite(other)
    total = float(np.maximum(other[known], 0.0).sum())
    counted = float(one[known].sum())
    if total < 20 * register.resolution_kwh * 3.6e6 or counted <= 0:
        return not_checkable(NAME, "Too little heat for the register's step.")
    ratio = counted / total
    said = f"Over the same time the register counts {ratio:.3f} of flow × ΔT."
    if abs(ratio - 1) <= MOST:
        return sound(NAME, said)
    named = next((m for m in MISTAKES for r in (ratio, 1 / ratio) if abs(r / m - 1) < 0.03), None)
    hint = f" A ratio near {named:g} is a unit, phase or pulse mistake." if named else ""
    return Check(
        NAME,
        Soundness.DOUBTFUL,
        said + f" More than {MOST:.0%} apart: one of them is set wrongly.{hint}",
        (Period("whole record", trace.start, trace.stop),),
        "Check glycol, unit, pulse value and the place of the sensors before believing either.",
        (),
    )
