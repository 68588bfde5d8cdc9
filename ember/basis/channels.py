"""The vocabulary of what can be logged.

A channel is called by its quantity, or by its quantity and a label where an installation has
several of them: `power:unit`, `energy:backup`.
"""

from dataclasses import dataclass
from enum import StrEnum

from ember.basis.errors import DescriptionError

ELECTRICITY_PRICE = "electricity_price"


class Kind(StrEnum):
    """How a channel behaves between two readings."""

    RATE = "rate"  # per second; integrates to an amount
    LEVEL = "level"  # a state such as a temperature; holds
    COUNTER = "counter"  # a register that only rises
    FLAG = "flag"  # on or off
    WORDS = "words"  # of a log; becomes flags when it is read


@dataclass(frozen=True, slots=True)
class Quantity:
    """One thing that can be logged: unit inside the core, sane range, and what it is."""

    name: str
    unit: str
    kind: Kind
    low: float
    high: float
    meaning: str


# Sane ranges are common practice, chosen: wider than any working heat pump, narrower than a wrong
# unit.
QUANTITIES = {
    q.name: q
    for q in (
        Quantity("flow_temp", "degC", Kind.LEVEL, -30, 110, "water leaving the unit"),
        Quantity("return_temp", "degC", Kind.LEVEL, -30, 110, "water coming back to the unit"),
        Quantity("flow_rate", "m3_per_s", Kind.RATE, 0, 0.02, "volume flow of the water"),
        Quantity("water_volume", "m3", Kind.COUNTER, 0, 1e8, "volume register of the water"),
        Quantity("outdoor_temp", "degC", Kind.LEVEL, -60, 60, "outdoor air"),
        Quantity(
            "source_temp", "degC", Kind.LEVEL, -25, 40, "brine or well water entering the unit"
        ),
        Quantity("outdoor_humidity", "percent", Kind.LEVEL, 0, 101, "relative humidity outdoors"),
        Quantity("tank_temp", "degC", Kind.LEVEL, -30, 110, "hot-water tank"),
        Quantity("room_temp", "degC", Kind.LEVEL, -20, 60, "room air"),
        Quantity("power", "watt", Kind.RATE, -100, 200e3, "electric power"),
        Quantity(
            "grid_power", "watt", Kind.RATE, -200e3, 200e3, "power from the grid; to it negative"
        ),
        Quantity(
            "battery_power", "watt", Kind.RATE, -200e3, 200e3, "power of a battery; to it negative"
        ),
        Quantity("energy", "joule", Kind.COUNTER, 0, 4e13, "electricity register"),
        Quantity("heat_energy", "joule", Kind.COUNTER, 0, 4e13, "heat register of a heat meter"),
        Quantity(
            "heat_power", "watt", Kind.RATE, -60e3, 200e3, "heat rate as the controller reports it"
        ),
        Quantity(
            "environmental_yield",
            "joule",
            Kind.COUNTER,
            0,
            4e13,
            "heat from the source alone (environmental yield)",
        ),
        Quantity(
            "evaporating_pressure", "pascal", Kind.LEVEL, -1e5, 6e6, "evaporating pressure, gauge"
        ),
        Quantity(
            "condensing_pressure", "pascal", Kind.LEVEL, -1e5, 15e6, "condensing pressure, gauge"
        ),
        Quantity("discharge_temp", "degC", Kind.LEVEL, -40, 180, "hot gas leaving the compressor"),
        Quantity("suction_temp", "degC", Kind.LEVEL, -60, 80, "suction gas before the compressor"),
        Quantity("superheat", "kelvin", Kind.LEVEL, -20, 60, "superheat of the suction gas"),
        Quantity("subcooling", "kelvin", Kind.LEVEL, -20, 60, "subcooling of the liquid"),
        Quantity("compressor_speed", "hertz", Kind.LEVEL, 0, 250, "compressor speed"),
        Quantity("valve_position", "percent", Kind.LEVEL, 0, 101, "opening of the expansion valve"),
        Quantity("fan_speed", "hertz", Kind.LEVEL, 0, 60, "speed of the outdoor fan"),
        Quantity("supply_air_temp", "degC", Kind.LEVEL, -20, 80, "air leaving the indoor unit"),
        Quantity("return_air_temp", "degC", Kind.LEVEL, -20, 60, "air entering the indoor unit"),
        Quantity("airflow", "m3_per_s", Kind.RATE, 0, 10, "air through the indoor unit"),
        Quantity("indoor_fan", "fraction", Kind.LEVEL, 0, 5000, "indoor fan's speed, as logged"),
        Quantity(
            "air_humidity",
            "percent",
            Kind.LEVEL,
            0,
            101,
            "relative humidity of the indoor unit's air",
        ),
        Quantity(
            "solar_radiation",
            "watt_per_m2",
            Kind.LEVEL,
            -5,
            1500,
            "global solar radiation on the level",
        ),
        Quantity("electricity_price", "per_kWh", Kind.LEVEL, -1e3, 1e4, "price of the electricity"),
        Quantity("compressor_on", "fraction", Kind.FLAG, 0, 1, "compressor running"),
        Quantity("defrost_on", "fraction", Kind.FLAG, 0, 1, "defrost running"),
        Quantity("hot_water_on", "fraction", Kind.FLAG, 0, 1, "valve set to the hot-water tank"),
        Quantity("cooling_on", "fraction", Kind.FLAG, 0, 1, "set to cooling"),
        Quantity("mode", "fraction", Kind.WORDS, 0, 1, "operating mode in words or codes"),
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
