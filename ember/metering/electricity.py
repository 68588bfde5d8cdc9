"""Error limits of electricity meters."""

from ember.description.installation import ElectricityAccuracy

# As used, so wider than at reference conditions. MID 2014/32/EU, Annex V, classes A, B, C
# (values as used from memory); plug meters and clamps: common practice.
ELECTRICITY_LIMITS = {
    ElectricityAccuracy.CLASS_A: (0.035, "MID class A"),
    ElectricityAccuracy.CLASS_B: (0.02, "MID class B"),
    ElectricityAccuracy.CLASS_C: (0.01, "MID class C"),
    ElectricityAccuracy.PLUG: (0.03, "plug meter"),
    ElectricityAccuracy.CLAMP: (0.10, "clamp without voltage"),
    ElectricityAccuracy.UNKNOWN: (0.035, "class not known, taken as MID class A"),
}


def electricity_limit(accuracy: ElectricityAccuracy) -> tuple[float, str]:
    """Error limit as a share of the reading, and what it is of."""
    return ELECTRICITY_LIMITS[accuracy]
