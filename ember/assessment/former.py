"""Results as they were written before: version 1, brought to the form of version 2.

In: an assessment, or figures of a span, as parsed JSON. Out: the same with the names of today, and
a code beside each sentence. May import: `ember.basis`, `ember.messages`.
"""

import re
from collections.abc import Callable
from typing import Any

from ember.basis.codes import CheckCode, FindingCode, KnownBy, ReasonCode, SourceCode
from ember.messages import finding_name

VERSION = 2

# What version 1 said, word for word.
REASONS = (
    ("no heat is measured", ReasonCode.NO_HEAT),
    ("no readings of .+", ReasonCode.NO_READINGS),
    ("yield alone: the unit's electricity is not metered", ReasonCode.YIELD_ALONE),
    (
        "reported by the controller, not measured; a week or two with a borrowed reference "
        "meter gives a transfer factor",
        ReasonCode.REPORTED_WITHOUT_TRANSFER,
    ),
    ("reported by the controller, not measured", ReasonCode.REPORTED_ALONE),
    ("'.+' also holds .+, which .+ leaves out", ReasonCode.METER_HOLDS_MORE),
    ("the meters overlap in a way that cannot be taken apart", ReasonCode.METERS_OVERLAP),
    ("'.+' also holds the heat of the .+, which is not metered alone", ReasonCode.HEAT_HOLDS_MORE),
    ("'.+' lacks the heat of the .+, which is not metered", ReasonCode.HEAT_LACKS),
    (".+ not metered.*", ReasonCode.NOT_METERED),
    ("the metering is broken \\(.+\\); no COP is stated", ReasonCode.METERING_BROKEN),
    ("the metering is in doubt \\(.+\\)", ReasonCode.METERING_DOUBTFUL),
    ("no electricity in the covered time", ReasonCode.NO_ELECTRICITY_COVERED),
    ("no heat in the covered time", ReasonCode.NO_HEAT_COVERED),
    ("all of it is cooling, whose EER stands apart", ReasonCode.ALL_COOLING),
    (
        "shorter than the .+ days from one reading to the next; only their sum is known",
        ReasonCode.TOO_SHORT,
    ),
    ("no rated table is given", ReasonCode.NO_TABLE),
    ("the table has capacities and no COP", ReasonCode.TABLE_WITHOUT_COP),
    ("no .+ is logged, so the conditions are not known", ReasonCode.CONDITIONS_NOT_LOGGED),
    (
        "no .+ temperature of this time is known, so the conditions are not",
        ReasonCode.CONDITIONS_NOT_KNOWN,
    ),
    (
        "neither a flow temperature is read nor the house's set curve, design flow "
        "temperature or emitters described \\(Set up: house\\)",
        ReasonCode.FLOW_NOT_DESCRIBED,
    ),
    (
        "no settled heating lies inside it \\(.+ of it is outside\\)\\. Nothing is extrapolated",
        ReasonCode.OUTSIDE_TABLE,
    ),
    ("a heater in the same meter cannot be told apart", ReasonCode.HEATER_NOT_APART),
    ("readings .+ min apart mix starts and defrosts in", ReasonCode.READINGS_MIX),
    ("only sums between readings are known", ReasonCode.SUMS_ALONE),
    ("cooling, whose EER stands apart in Running", ReasonCode.COOLING_APART),
    ("no reading of .+", ReasonCode.NO_READING_OF),
    (".+: no readings of .+", ReasonCode.METER_MISSING),
    ("no level can be computed from these meters", ReasonCode.NO_LEVEL),
    ("no outdoor temperature is known", ReasonCode.OUTDOOR_NOT_KNOWN),
    (
        "the house's design outdoor temperature is not described \\(Set up: house\\)",
        ReasonCode.DESIGN_NOT_DESCRIBED,
    ),
    ("it was never cold enough to heat", ReasonCode.NEVER_COLD),
)
SOURCES = (
    ("electricity meter", SourceCode.ELECTRICITY_METER),
    ("heat meter", SourceCode.HEAT_METER),
    ("moment of the start", SourceCode.START_MOMENT),
    ("begin and end", SourceCode.BEGIN_AND_END),
    ("outdoor sensor", SourceCode.OUTDOOR_SENSOR),
    ("flow temperature", SourceCode.FLOW_TEMPERATURE),
    ("supply air temperature", SourceCode.SUPPLY_TEMPERATURE),
    ("store's described heat", SourceCode.STORE_HEAT),
    ("(?P<of>.+): (?P<detail>.+) for the mean", SourceCode.TANK_PROBES),
    ("(?P<of>.+): volume", SourceCode.TANK_VOLUME),
    ("(?P<of>.+): standing loss", SourceCode.STANDING_LOSS),
    ("(?P<of>.+): draws too small to see", SourceCode.TANK_DRAWS),
    ("tank probe", SourceCode.TANK_PROBE),
    ("(?P<of>.+): assumed power", SourceCode.ASSUMED_POWER),
    ("(?P<of>.+): airflow", SourceCode.AIRFLOW),
    ("(?P<of>.+): air temperatures", SourceCode.AIR_TEMPERATURES),
    ("(?P<of>.+): flow sensor", SourceCode.FLOW_SENSOR),
    ("(?P<of>.+): temperature pair", SourceCode.TEMPERATURE_PAIR),
    ("(?P<of>.+): calculator", SourceCode.CALCULATOR),
    ("(?P<of>.+): two probes, class (?P<detail>.+)", SourceCode.TWO_PROBES),
    ("(?P<of>.+): offset correction", SourceCode.OFFSET_CORRECTION),
    ("fluid properties", SourceCode.FLUID_PROPERTIES),
    ("(?P<of>.+): readings (?P<detail>.+) min apart", SourceCode.READINGS_APART),
    ("(?P<of>.+): electricity that reaches the refrigerant", SourceCode.TO_REFRIGERANT),
    ("(?P<of>.+): pressures and temperatures", SourceCode.PRESSURES),
    ("(?P<of>.+): yield", SourceCode.YIELD),
    ("(?P<of>.+): reported, not measured", SourceCode.REPORTED),
    ("(?P<of>.+): transfer factor", SourceCode.TRANSFER_FACTOR),
    ("electricity that does not reach the water", SourceCode.LOST_ELECTRICITY),
    ("(?P<of>.+): corrected factor", SourceCode.CORRECTED_FACTOR),
    ("(?P<of>.+): corrected offset", SourceCode.CORRECTED_OFFSET),
    ("shared out evenly between readings, (?P<detail>.+)", SourceCode.SHARED_EVENLY),
    ("(?P<of>.+): sampling", SourceCode.SAMPLING),
    ("(?P<of>.+): steps of the temperatures", SourceCode.TEMPERATURE_STEPS),
    ("(?P<of>.+): register step", SourceCode.REGISTER_STEP),
    ("time not covered", SourceCode.TIME_NOT_COVERED),
    ("rated table", SourceCode.RATED_TABLE),
    ("(?P<of>.+): power", SourceCode.CONSUMER_POWER),
    ("(?P<of>.+): share in the rating", SourceCode.CONSUMER_SHARE),
    ("efficiency of the heating before", SourceCode.EFFICIENCY_BEFORE),
    ("scatter of the hours", SourceCode.HOURS_SCATTER),
    ("the flow that is needed", SourceCode.FLOW_NEEDED),
    ("running at one speed, above the mean", SourceCode.ONE_SPEED),
    ("change at a date", SourceCode.DATE_CHANGE),
    ("pair of sensors", SourceCode.SENSOR_PAIR),
    ("running not compared", SourceCode.NOT_COMPARED),
    ("heat loss", SourceCode.HEAT_LOSS),
    ("hours of use", SourceCode.HOURS_OF_USE),
    ("(?P<of>.+): MID class (?P<detail>.+)", SourceCode.MID_CLASS),
    ("(?P<of>.+): class not known, taken as MID class A", SourceCode.CLASS_NOT_KNOWN),
    ("(?P<of>.+): plug meter", SourceCode.PLUG_METER),
    ("(?P<of>.+): clamp without voltage", SourceCode.CLAMP),
)
FORMER_KNOWN_BY = (
    ("flag", KnownBy.FLAG),
    ("logged compressor_speed", KnownBy.SPEED),
    ("inferred: power", KnownBy.POWER),
    ("inferred: steps of the electricity register", KnownBy.REGISTER_STEPS),
    ("inferred: supply air", KnownBy.AIR),
    ("inferred: the tank", KnownBy.TANK),
    ("inferred: heat is taken", KnownBy.HEAT_TAKEN),
    ("inferred", KnownBy.WATER),
    ("by the weather alone", KnownBy.WEATHER),
    ("none", KnownBy.NONE_THERE),
)
# What version 1 called them: it had names alone. They stay, whatever they are called today.
CHECK_CODES = {code.value.replace("_", " "): code.value for code in CheckCode} | {
    "register against flow × ΔT": CheckCode.REGISTER_AGAINST_FLOW.value,
    "beyond the table": CheckCode.BEYOND_TABLE.value,
}
FINDING_CODES = (
    {code.value.replace("_", " "): code.value for code in FindingCode}
    | {f"metering: {name}": f"metering_{code}" for name, code in CHECK_CODES.items()}
    | {
        "defrosts too often": FindingCode.FREQUENT_DEFROSTS.value,
        "over-steep curve": FindingCode.CURVE_TOO_STEEP.value,
        "ΔT too wide": FindingCode.DELTA_TOO_WIDE.value,
        "ΔT too narrow": FindingCode.DELTA_TOO_NARROW.value,
        "low outdoor limit reached": FindingCode.LOW_OUTDOOR_LIMIT.value,
        "COP too good": FindingCode.COP_TOO_GOOD.value,
    }
)
WEIGHTS = {"act": "action", "look": "advisory"}
KEYS = {
    "way": "method",
    "holds": "loads",
    "touches": "affects",
    "silent": "not_judged",
    "why_not": "reason",
    "why_no_comparison": "comparison_reason",
    "why_no_table": "table_reason",
}
REASONED = {"why_not", "why_no_comparison", "no_sum", "why_no_table", "because"}


def upgraded(value: Any) -> Any:
    """Results of version 1 as those of version 2; of version 2 they come back as they are."""
    if isinstance(value, dict) and value.get("version", 1) != 1:
        return value
    return _value(value)


def _value(value: Any) -> Any:
    if isinstance(value, list):
        return [_value(one) for one in value]
    if not isinstance(value, dict):
        return value
    found: dict[str, Any] = {}
    key: str
    for key, one in value.items():
        if key in SPECIAL:
            found |= SPECIAL[key](one)
        elif key in REASONED:
            found[KEYS.get(key, key)] = reason(one)
        else:
            found[KEYS.get(key, key)] = _value(one)
    return found


def reason(sentence: Any) -> Any:
    """A sentence of version 1 with its code; nothing stays nothing."""
    if not isinstance(sentence, str):
        return sentence
    if not sentence:
        return None
    bare = re.sub(r"^No comparison(?: with (?:a|the) rated table)?: (.*)\\.$", r"\\1", sentence)
    bare = bare.removeprefix("no level can be computed: ")
    code = next((c for pattern, c in REASONS if re.fullmatch(pattern, bare)), ReasonCode.LEFT_OUT)
    return {"code": code.value, "sentence": sentence}


def code_of_finding(name: str) -> str:
    """The code of a finding by its name in version 1. Raises KeyError."""
    return FINDING_CODES[name]


def _checks(found: list[dict[str, Any]]) -> dict[str, Any]:
    return {"checks": [{"code": CHECK_CODES[one["name"]], **_value(one)} for one in found]}


def _findings(found: list[dict[str, Any]]) -> dict[str, Any]:
    made = []
    for one in found:
        kind = one["kind"]
        rest = {k: v for k, v in one.items() if k not in ("kind", "weight")}
        code = FINDING_CODES[kind]
        named = {"code": code, "name": finding_name(FindingCode(code))}
        made.append({**named, "weight": WEIGHTS[one["weight"]], **_value(rest)})
    return {"findings": made}


def _silent(found: list[dict[str, str]]) -> dict[str, Any]:
    made = []
    for one in found:
        code = FINDING_CODES[one["kind"]]
        name = finding_name(FindingCode(code))
        made.append({"code": code, "name": name, "reason": reason(one["because"])})
    return {"not_judged": made}


def _doubts(found: list[dict[str, Any]]) -> dict[str, Any]:
    made = _checks(found)["checks"]
    for one in made:
        one["whole"] = any(span["name"] == "whole record" for span in one["spans"])
    return {"doubts": made}


def _left_out(found: list[dict[str, Any]]) -> dict[str, Any]:
    return {"left_out": [{**one, "reason": reason(one["reason"])} for one in found]}


def _missing_meters(found: dict[str, str]) -> dict[str, Any]:
    return {"missing_meters": {name: reason(why) for name, why in found.items()}}


def _basis(found: dict[str, str]) -> dict[str, Any]:
    known = {}
    for what, words in found.items():
        by = next((by for start, by in FORMER_KNOWN_BY if words.startswith(start)), KnownBy.NOTHING)
        by = KnownBy.HAND if what == "by hand" else by
        known[what] = {"by": by.value, "words": words}
    return {"basis": known}


def _budget(found: Any) -> dict[str, Any]:
    if not isinstance(found, list):
        return {"budget": _value(found)}
    return {"budget": [{**source(one["source"], "random" in one), **one} for one in found]}


def source(words: str, detailed: bool) -> dict[str, str]:
    """A source of uncertainty of version 1 by its code.

    Parameters
    ----------
    detailed : bool
        with what tells it from others of its kind, as figures of a span have it.
    """
    matches = ((code, re.fullmatch(pattern, words)) for pattern, code in SOURCES)
    code, told = next(
        ((code, match.groupdict()) for code, match in matches if match),
        (SourceCode.METHOD, {"detail": words}),
    )
    found = {"code": code.value, "of": told.get("of", "")}
    return found | ({"detail": told.get("detail", "")} if detailed else {})


def _bands(found: list[dict[str, Any]]) -> dict[str, Any]:
    """Of a cost: version 1 had no prices that change, and no tiers."""
    return {"bands": [_value(one) | {"since": None, "on_top": False} for one in found]}


def _version(_: int) -> dict[str, Any]:
    return {"version": VERSION}


SPECIAL: dict[str, Callable[[Any], dict[str, Any]]] = {
    "version": _version,
    "bands": _bands,
    "budget": _budget,
    "checks": _checks,
    "findings": _findings,
    "silent": _silent,
    "doubts": _doubts,
    "left_out": _left_out,
    "missing_meters": _missing_meters,
    "basis": _basis,
}
