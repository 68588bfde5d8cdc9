"""The vocabulary of what can be logged.

A channel is called by its quantity, or by its quantity and a label where an installation has
several of them: `power:unit`, `energy:backup`.
"""

from dataclasses import dataclass
from enum import StrEnum

from ember.errors import DescriptionError


class Kind(StrEnum):
    """How a channel behaves between two readings."""

    RATE = "rate"  # per second; integrates to an amount
    LEVEL = "level"  # a state such as a temperature; holds
    COUNTER = "counter"  # a register that only rises
    FLAG = "flag"  # on or off


@dataclass(frozen=True, slots=True)
class Quantity:
    """One thing that can be logged: unit inside the core, sane range, and what it is."""

    name: str
    unit: str
    kind: Kind
    low: float
    high: float
    meaning: str
    words: str  # what headers call it, by alternatives; those with ! need a fitting unit too


# Sane ranges are common practice: wider than any working heat pump, narrower than a wrong unit.
QUANTITIES = {
    q.name: q
    for q in (
        Quantity(
            "flow_temp",
            "degC",
            Kind.LEVEL,
            -30,
            110,
            "water leaving the unit",
            "flow temp|flow t|supply temp|leaving water|t flow|tflow|vorlauf|lwt|!flow|!supply",
        ),
        Quantity(
            "return_temp",
            "degC",
            Kind.LEVEL,
            -30,
            110,
            "water coming back to the unit",
            "return temp|return t|entering water|t return|treturn|rücklauf|ruecklauf|ewt|!return",
        ),
        Quantity(
            "flow_rate",
            "m3_per_s",
            Kind.RATE,
            0,
            0.02,
            "volume flow of the water",
            "flow rate|flowrate|water flow|volume flow|durchfluss|flow",
        ),
        Quantity(
            "outdoor_temp",
            "degC",
            Kind.LEVEL,
            -60,
            60,
            "outdoor air",
            "outdoor temp|outside temp|outdoor|outside|ambient|oat|t out|außen|aussen",
        ),
        Quantity(
            "source_temp",
            "degC",
            Kind.LEVEL,
            -25,
            40,
            "brine or well water entering the unit",
            "source temp|brine in|brine temp|source in|ground loop in|!brine|!source",
        ),
        Quantity(
            "outdoor_humidity",
            "percent",
            Kind.LEVEL,
            0,
            101,
            "relative humidity outdoors",
            "outdoor humidity|outside humidity|humidity|rh|feuchte",
        ),
        Quantity(
            "tank_temp",
            "degC",
            Kind.LEVEL,
            -30,
            110,
            "hot-water tank",
            "tank temp|cylinder temp|tank|cylinder|dhw temp|hot water temp|speicher",
        ),
        Quantity(
            "room_temp",
            "degC",
            Kind.LEVEL,
            -20,
            60,
            "room air",
            "room temp|indoor temp|room|indoor|raum",
        ),
        Quantity(
            "power",
            "watt",
            Kind.RATE,
            -100,
            200e3,
            "electric power",
            "power|electric power|leistung",
        ),
        Quantity(
            "energy",
            "joule",
            Kind.COUNTER,
            0,
            4e13,
            "electricity register",
            "energy|electricity|import|kwh",
        ),
        Quantity(
            "heat_energy",
            "joule",
            Kind.COUNTER,
            0,
            4e13,
            "heat register of a heat meter",
            "heat energy|heat meter|heat register|heat kwh|heat|wärme|waerme",
        ),
        Quantity(
            "heat_power",
            "watt",
            Kind.RATE,
            -60e3,
            200e3,
            "heat rate as the controller reports it",
            "heat power|heat output|thermal power|heating capacity|wärmeleistung",
        ),
        Quantity(
            "environmental_yield",
            "joule",
            Kind.COUNTER,
            0,
            4e13,
            "heat from the source alone (environmental yield)",
            "environmental yield|environmental energy|source yield|source energy",
        ),
        Quantity(
            "evaporating_pressure",
            "pascal",
            Kind.LEVEL,
            -1e5,
            6e6,
            "evaporating pressure, gauge",
            "evaporating pressure|suction pressure|low pressure",
        ),
        Quantity(
            "condensing_pressure",
            "pascal",
            Kind.LEVEL,
            -1e5,
            15e6,
            "condensing pressure, gauge",
            "condensing pressure|discharge pressure|high pressure",
        ),
        Quantity(
            "discharge_temp",
            "degC",
            Kind.LEVEL,
            -40,
            180,
            "hot gas leaving the compressor",
            "discharge temp|hot gas temp|discharge gas",
        ),
        Quantity(
            "suction_temp",
            "degC",
            Kind.LEVEL,
            -60,
            80,
            "suction gas before the compressor",
            "suction temp|suction gas",
        ),
        Quantity(
            "superheat", "kelvin", Kind.LEVEL, -20, 60, "superheat of the suction gas", "superheat"
        ),
        Quantity(
            "subcooling",
            "kelvin",
            Kind.LEVEL,
            -20,
            60,
            "subcooling of the liquid",
            "subcooling|sub cooling",
        ),
        Quantity(
            "compressor_speed",
            "hertz",
            Kind.LEVEL,
            0,
            250,
            "compressor speed",
            "compressor speed|compressor frequency|compressor freq",
        ),
        Quantity(
            "valve_position",
            "percent",
            Kind.LEVEL,
            0,
            101,
            "opening of the expansion valve",
            "expansion valve|valve position|valve opening",
        ),
        Quantity(
            "fan_speed",
            "hertz",
            Kind.LEVEL,
            0,
            60,
            "speed of the outdoor fan",
            "fan speed|fan rpm",
        ),
        Quantity(
            "supply_air_temp",
            "degC",
            Kind.LEVEL,
            -20,
            80,
            "air leaving the indoor unit",
            "supply air temp|supply air|discharge air",
        ),
        Quantity(
            "return_air_temp",
            "degC",
            Kind.LEVEL,
            -20,
            60,
            "air entering the indoor unit",
            "return air temp|return air",
        ),
        Quantity(
            "airflow",
            "m3_per_s",
            Kind.RATE,
            0,
            10,
            "air through the indoor unit",
            "airflow|air flow|air volume",
        ),
        Quantity(
            "air_humidity",
            "percent",
            Kind.LEVEL,
            0,
            101,
            "relative humidity of the indoor unit's air",
            "supply air humidity|return air humidity|indoor humidity",
        ),
        Quantity(
            "solar_radiation",
            "watt_per_m2",
            Kind.LEVEL,
            -5,
            1500,
            "global solar radiation on the level",
            "global radiation|solar radiation|global horizontal|irradiance",
        ),
        Quantity(
            "compressor_on",
            "fraction",
            Kind.FLAG,
            0,
            1,
            "compressor running",
            "compressor on|compressor|verdichter",
        ),
        Quantity(
            "defrost_on",
            "fraction",
            Kind.FLAG,
            0,
            1,
            "defrost running",
            "defrost on|defrost|abtau",
        ),
        Quantity(
            "hot_water_on",
            "fraction",
            Kind.FLAG,
            0,
            1,
            "valve set to the hot-water tank",
            "hot water on|dhw on|hot water valve|dhw valve|valve|hot water|dhw",
        ),
        Quantity(
            "cooling_on", "fraction", Kind.FLAG, 0, 1, "set to cooling", "cooling on|cooling mode"
        ),
    )
}


def quantity_of(channel: str) -> Quantity:
    """What a channel measures. Raises DescriptionError for an unknown name."""
    name = channel.partition(":")[0]
    if name not in QUANTITIES:
        known = ", ".join(QUANTITIES)
        raise DescriptionError(
            f"'{channel}' is no channel. Write one of {known}, "
            "with a label after a colon where there are several."
        )
    return QUANTITIES[name]
