"""Antifreeze: too little to protect, and too little inhibitor."""

from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import words_of
from ember.properties import FluidKind

say = words_of(__name__)


def weak_antifreeze(context: FindingContext) -> Finding | None:
    """A mixture described with so little antifreeze that it does more harm than good."""
    fluid = context.installation.fluid
    if fluid.kind == FluidKind.WATER or fluid.mass_fraction >= context.limits.glycol_least:
        return None
    return context.finding(
        FindingCode.WEAK_ANTIFREEZE,
        say("sentence", mass_fraction=fluid.mass_fraction),
        Weight.ADVISORY,
        [
            context.evidence(
                say("antifreeze_mass_described"),
                counted(fluid.mass_fraction),
                context.limits.glycol_least,
                ViewCode.SETUP,
                above=False,
            )
        ],
        [Cause(say("cause_topped_up")), Cause(say("cause_filled_rule"))],
        say("next_check"),
        care("heating"),
        context.costed(None, say("basis_no_loss")),
        care("glycol"),
        say("clears", glycol_least=context.limits.glycol_least),
    )
