"""Error limits of electricity meters."""

from ember.basis.codes import SourceCode
from ember.description.installation import ElectricityAccuracy
from ember.messages import Source

# As used, so wider than at reference conditions. MID 2014/32/EU, Annex V, classes A, B, C
# (values as used from memory); plug meters and clamps: common practice.
ELECTRICITY_LIMITS = {
    ElectricityAccuracy.CLASS_A: (0.035, SourceCode.MID_CLASS, "A"),
    ElectricityAccuracy.CLASS_B: (0.02, SourceCode.MID_CLASS, "B"),
    ElectricityAccuracy.CLASS_C: (0.01, SourceCode.MID_CLASS, "C"),
    ElectricityAccuracy.PLUG: (0.03, SourceCode.PLUG_METER, ""),
    ElectricityAccuracy.CLAMP: (0.10, SourceCode.CLAMP, ""),
    ElectricityAccuracy.UNKNOWN: (0.035, SourceCode.CLASS_NOT_KNOWN, ""),
}


def electricity_limit(accuracy: ElectricityAccuracy) -> float:
    """Error limit as a share of the reading."""
    return ELECTRICITY_LIMITS[accuracy][0]


def electricity_source(meter: str, accuracy: ElectricityAccuracy) -> Source:
    """The source of uncertainty that a meter of a class is."""
    _, code, detail = ELECTRICITY_LIMITS[accuracy]
    return Source(code, meter, detail)
