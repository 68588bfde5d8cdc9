"""Antifreeze: too little to protect, and too little inhibitor."""

from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import GLYCOL, HEATING
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.properties import FluidKind


def weak_antifreeze(context: FindingContext) -> Finding | None:
    """A mixture described with so little antifreeze that it does more harm than good."""
    fluid = context.installation.fluid
    if fluid.kind == FluidKind.WATER or fluid.mass_fraction >= context.limits.glycol_least:
        return None
    return context.finding(
        FindingCode.WEAK_ANTIFREEZE,
        f"{fluid.mass_fraction:.0%} antifreeze protects to a few degrees below zero only, and its "
        "inhibitor is too thin to stop corrosion.",
        Weight.ADVISORY,
        [
            context.evidence(
                "antifreeze by mass, as described",
                counted(fluid.mass_fraction),
                context.limits.glycol_least,
                ViewCode.SETUP,
                above=False,
            )
        ],
        [Cause("topped up with water"), Cause("filled by a rule of thumb")],
        "Measure with a refractometer; then enough for the site's lowest temperature, or freeze-"
        "protection valves and water.",
        HEATING,
        context.costed(None, "no loss of electricity is claimed"),
        GLYCOL,
        f"{context.limits.glycol_least:.0%} or more by refractometer, or water.",
    )
