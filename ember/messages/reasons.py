"""Why something is not available, as a code and as a sentence."""

from dataclasses import dataclass

from ember.basis.codes import ReasonCode as Code

# Sentences without capital and full stop, so that they may stand within another.
SENTENCES: dict[Code, str] = {
    Code.NO_HEAT: "no heat is measured",
    Code.NO_METER: "no meter",
    Code.NO_LEVEL: "no level can be computed from these meters",
    Code.NO_READINGS: "no readings of {what}",
    Code.METER_MISSING: "{meter}: {reason}",
    Code.YIELD_ALONE: "yield alone: the unit's electricity is not metered",
    Code.REPORTED_ALONE: "reported by the controller, not measured",
    Code.REPORTED_WITHOUT_TRANSFER: "reported by the controller, not measured; a week or two "
    "with a "
    "borrowed reference meter gives a transfer factor",
    Code.NOT_METERED: "{what} not metered{hint}",
    Code.METER_HOLDS_MORE: "'{meter}' also holds {what}, which {level} leaves out",
    Code.METERS_OVERLAP: "the meters overlap in a way that cannot be taken apart",
    Code.HEAT_HOLDS_MORE: "'{meter}' also holds the heat of the {what}, which is not metered alone",
    Code.HEAT_LACKS: "'{meter}' lacks the heat of the {what}, which is not metered",
    Code.METERING_BROKEN: "the metering is broken ({checks}); no COP is stated",
    Code.METERING_DOUBTFUL: "the metering is in doubt ({checks})",
    Code.NO_ELECTRICITY_COVERED: "no electricity in the covered time",
    Code.NO_HEAT_COVERED: "no heat in the covered time",
    Code.ALL_COOLING: "all of it is cooling, whose EER stands apart",
    Code.TOO_SHORT: "shorter than the {days} days from one reading to the next; only their sum is "
    "known",
    Code.NO_TABLE: "no rated table is given",
    Code.TABLE_WITHOUT_COP: "the table has capacities and no COP",
    Code.CONDITIONS_NOT_LOGGED: "no {what} is logged, so the conditions are not known",
    Code.CONDITIONS_NOT_KNOWN: "no {what} temperature of this time is known, so the conditions are "
    "not",
    Code.FLOW_NOT_DESCRIBED: "neither a flow temperature is read nor the house's set curve, design "
    "flow temperature or emitters described (Set up: house)",
    Code.OUTSIDE_TABLE: "no settled heating lies inside it ({share} of it is outside). Nothing is "
    "extrapolated",
    Code.HEATER_NOT_APART: "a heater in the same meter cannot be told apart",
    Code.READINGS_MIX: "readings {minutes} min apart mix starts and defrosts in",
    Code.SUMS_ALONE: "only sums between readings are known",
    Code.WEATHER_TOO_SHORT: "{days} days of outdoor temperature are logged; a year's is needed",
    Code.DESIGN_TOO_WARM: "the design temperature is no colder than 16 °C",
    Code.HEAT_LOSS_NOT_DESCRIBED: "the house's heat loss is not described (Set up: house), nor its "
    "floor area and age",
    Code.HOUSE_FLOW_NOT_DESCRIBED: "the flow temperature is not known: describe the set curve, the "
    "design flow or the emitters (Set up: house)",
    Code.NO_TANK: "no tank is described",
    Code.TANK_NOT_LOGGED: "the tank's temperature is not logged",
    Code.TANK_SELDOM_QUIET: "too few hours in which the tank only cools",
    Code.FIRST_READING: "the first reading",
    Code.ONE_READING: "choose two readings",
    Code.NOT_READ_AT_ENDS: "{meter} was not read at both ends",
    Code.COOLING_APART: "cooling, whose EER stands apart in Running",
    Code.NO_READING_OF: "no reading of {what}",
    Code.LEFT_OUT: "{words}",
    Code.STARTS_TOO_COARSE: "readings every {minutes} min do not show how a start goes; every two "
    "minutes or finer would",
    Code.STARTS_NOT_KNOWN: "{words}",
    Code.REFRIGERANT_NOT_DESCRIBED: "no refrigerant channels are described: evaporating and "
    "condensing "
    "pressure, discharge and suction temperature would show approach, superheat and compressor "
    "efficiency",
    Code.REFRIGERANT_NOT_LOGGED: "the channels of the refrigerant side are described, but not "
    "logged",
    Code.NO_SETTLED_HEATING: "no settled heating with flow and outdoor temperature in this period",
    Code.FLOW_NOT_LOGGED: "a weather curve needs the flow temperature of settled heating, not "
    "logged",
    Code.DEFROSTS_NOT_KNOWN: "{words}",
    Code.DEFROSTS_SWAPPED: "defrosts cannot be told while flow and return are swapped",
    Code.HOT_WATER_NOT_KNOWN: "{words}",
    Code.NO_CHARGE: "no hot-water charge in this period",
    Code.TOO_FEW_CHARGES: "{count} charges without a draw; a tank is a calorimeter only while "
    "no water "
    "is drawn, and {least} such charges are needed",
    Code.TOO_LITTLE_SETTLED: "too little settled heating with flow and outdoor temperature",
    Code.TOO_FEW_IN_BINS: "too few hours in any bin",
    Code.SCOP_A_GUESS: "{share} of the heat lies in bins that the table does not reach; it "
    "would be a guess",
    Code.OUTDOOR_NOT_KNOWN: "no outdoor temperature is known",
    Code.DESIGN_NOT_DESCRIBED: "the house's design outdoor temperature is not described (Set "
    "up: house)",
    Code.NEVER_COLD: "it was never cold enough to heat",
    Code.NOT_WORKED_OUT: "{words}",
    Code.CHARGES_NOT_METERED: "the electricity of these charges is not known",
    Code.TABLE_LACKS: "the table has no {what}",
    Code.BRINE_NOT_BINNED: "brine units are rated at fixed brine temperatures; the table's "
    "own points hold "
    "them, and no bin sum over the outdoor air is made",
    Code.NOTHING_LOGGED: "nothing is logged yet",
    Code.NOT_KNOWN_HERE: "{reason}",
    Code.NO_TIME_TO_FETCH: "no readings are stored yet, so there is no time to fetch it for",
    Code.NO_WEATHER_SERVICE: "no weather service is set up (EMBER_WEATHER)",
    Code.NO_PLACE: "the description says no place; give latitude and longitude",
}


@dataclass(frozen=True)
class Reason:
    """Why something is not available, not counted or not judged."""

    code: Code
    sentence: str

    def __str__(self) -> str:
        return self.sentence


@dataclass(frozen=True)
class NotAvailable:
    """A result that cannot be, and why."""

    reason: Reason

    def __str__(self) -> str:
        return self.reason.sentence


def no_comparison(reason: Reason, table: str = "") -> Reason:
    """The same reason as that of a comparison that is not made. table : with which, in words."""
    with_table = f" with {table}" if table else ""
    return Reason(reason.code, f"No comparison{with_table}: {reason}.")


def because(code: Code, **values: object) -> Reason:
    """A reason with its sentence. Raises KeyError where a value is lacking that it names."""
    return Reason(code, SENTENCES[code].format(**values))


def not_available(code: Code, **values: object) -> NotAvailable:
    """A result that cannot be."""
    return NotAvailable(because(code, **values))
