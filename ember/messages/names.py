"""What a check and a finding are called on screens and in reports."""

from ember.basis.codes import CheckCode, FindingCode

CHECKS: dict[CheckCode, str] = {
    CheckCode.SWAPPED_SENSORS: "swapped sensors",
    CheckCode.CLOCKS: "clocks",
    CheckCode.RATE_REGISTERS: "rate registers",
    CheckCode.OTHER_LOADS: "other loads",
    CheckCode.FLOW_READING: "flow reading",
    CheckCode.PAIR_OFFSET: "pair offset",
    CheckCode.STUCK_READINGS: "stuck readings",
    CheckCode.CONSUMERS: "consumers",
    CheckCode.REGISTER_AGAINST_FLOW: "register against flow × ΔT",
    CheckCode.CONTROLLER_AGAINST_METER: "controller against meter",
    CheckCode.GLYCOL: "glycol",
    CheckCode.YIELD_AS_HEAT: "yield as heat",
    CheckCode.PHYSICAL_BOUND: "physical bound",
    CheckCode.BEYOND_TABLE: "beyond the table",
    CheckCode.SPIKES: "spikes",
    CheckCode.RESOLUTION: "resolution",
    CheckCode.COUNTER_RESETS: "counter resets",
    CheckCode.GAPS: "gaps",
    CheckCode.OUTDOOR_SENSOR: "outdoor sensor",
}

FINDINGS: dict[FindingCode, str] = {
    FindingCode.BELOW_RATED_SINCE: "below rated since",
    FindingCode.BELOW_RATED: "below rated",
    FindingCode.BELOW_RATED_IN_FROST: "below rated in frost",
    FindingCode.BELOW_RATED_AT_PART_LOAD: "below rated at part load",
    FindingCode.BELOW_RATED_AT_HIGH_FLOW: "below rated at high flow",
    FindingCode.CAPACITY_SHORT: "capacity short",
    FindingCode.OVERSIZED: "oversized",
    FindingCode.NEEDLESS_DEFROSTS: "needless defrosts",
    FindingCode.TIMED_DEFROSTS: "timed defrosts",
    FindingCode.FREQUENT_DEFROSTS: "defrosts too often",
    FindingCode.INEFFECTIVE_DEFROSTS: "ineffective defrosts",
    FindingCode.OVERDUE_DEFROSTS: "overdue defrosts",
    FindingCode.SHORT_CYCLING: "short cycling",
    FindingCode.FIXED_FLOW_TEMPERATURE: "fixed flow temperature",
    FindingCode.CURVE_TOO_STEEP: "heating curve too steep",
    FindingCode.DELTA_TOO_WIDE: "ΔT too wide",
    FindingCode.DELTA_TOO_NARROW: "ΔT too narrow",
    FindingCode.PUMPS_FIGHTING: "pumps fighting",
    FindingCode.BUFFER_BLENDING: "buffer blending",
    FindingCode.HEATER_OVERUSED: "heater overused",
    FindingCode.HOT_WATER_TOO_HOT: "hot water too hot",
    FindingCode.HOT_WATER_TOO_OFTEN: "hot water too often",
    FindingCode.HOT_WATER_OUT_OF_REACH: "hot water out of reach",
    FindingCode.HIGH_STANDBY: "high standby",
    FindingCode.PUMP_ALWAYS_ON: "pump always on",
    FindingCode.LOW_OUTDOOR_LIMIT: "low outdoor limit reached",
    FindingCode.ROOM_NOT_HELD: "room not held",
    FindingCode.WEAK_ANTIFREEZE: "weak antifreeze",
    FindingCode.COP_TOO_GOOD: "COP too good",
} | {
    FindingCode(f"metering_{code.value}"): f"metering: {name}"
    for code, name in CHECKS.items()
    if code not in (CheckCode.PHYSICAL_BOUND, CheckCode.BEYOND_TABLE)  # they say: COP too good
}
