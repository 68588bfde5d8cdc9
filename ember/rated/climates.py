"""The reference climates and flow temperatures of EN 14825, from memory; the hours' totals confirm
them."""

from dataclasses import dataclass

from ember.description.declared import Climate


@dataclass(frozen=True)
class Reference:
    """A climate.

    Attributes
    ----------
    design : float
        outdoors [degC]
    first : int
        of the bins [degC], one kelvin each
    hours : tuple[int, ...]
        of each.
    bivalent : float
        outdoors at which capacity meets the load, where nothing else is said.
    """

    design: float
    first: int
    hours: tuple[int, ...]
    bivalent: float


# Bin hours of EN 14825, from memory; totals 4910, 3590, 6446.
CLIMATES = {
    Climate.AVERAGE: Reference(-10.0, -10, (
        1, 25, 23, 24, 27, 68, 91, 89, 165, 173, 240, 280, 320, 357, 356, 303, 330, 326, 348, 335,
        315, 215, 169, 151, 105, 74,
    ), -7.0),
    Climate.WARMER: Reference(2.0, 2, (
        3, 22, 63, 63, 175, 162, 259, 360, 428, 430, 503, 444, 384, 294,
    ), 4.0),
    Climate.COLDER: Reference(-22.0, -22, (
        1, 6, 13, 17, 19, 26, 39, 41, 35, 52, 37, 41, 43, 54, 90, 125, 169, 195, 278, 306, 454, 385,
        490, 533, 380, 228, 261, 279, 229, 269, 233, 230, 243, 191, 146, 150, 97, 61,
    ), -15.0),
}  # fmt: skip

# Flow temperature at the part-load points, variable outlet (EN 14825, from memory):
# climate → level → (outdoor, flow) pairs, coldest first.
VARIABLE: dict[Climate, dict[int, tuple[tuple[float, float], ...]]] = {
    Climate.AVERAGE: {
        35: ((-10, 35), (-7, 34), (2, 30), (7, 27), (12, 24)),
        45: ((-10, 45), (-7, 43), (2, 37), (7, 33), (12, 28)),
        55: ((-10, 55), (-7, 52), (2, 42), (7, 36), (12, 30)),
        65: ((-10, 65), (-7, 61), (2, 49), (7, 41), (12, 32)),
    },
    Climate.WARMER: {
        35: ((2, 35), (7, 31), (12, 26)),
        45: ((2, 45), (7, 39), (12, 31)),
        55: ((2, 55), (7, 46), (12, 34)),
        65: ((2, 65), (7, 53), (12, 39)),
    },
    Climate.COLDER: {
        35: ((-22, 35), (-15, 32), (-7, 30), (2, 27), (7, 25), (12, 24)),
        45: ((-22, 45), (-15, 41), (-7, 38), (2, 33), (7, 30), (12, 28)),
        55: ((-22, 55), (-15, 49), (-7, 44), (2, 37), (7, 32), (12, 30)),
        65: ((-22, 65), (-15, 57), (-7, 50), (2, 41), (7, 36), (12, 32)),
    },
}
LEVELS = (35, 45, 55, 65)
# Equivalent on-mode hours, and hours of thermostat-off, standby, crankcase and off of a unit that
# only heats, in the average climate (EN 14825, from memory). Those of the other climates are not
# certain here, and auxiliary powers are then left out, which is said.
AVERAGE_HOURS = {"on": 2066, "thermostat off": 178, "standby": 0, "crankcase": 3850, "off": 3672}
NO_LOAD = 16.0  # outdoors at which there is no load [degC]
