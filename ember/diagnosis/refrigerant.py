"""What the refrigerant side says for and against the usual causes of a weak unit.

Source: limits common practice. Without gauges the charge is only a suspicion, and is called so.
"""

from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause

HIGH_SUPERHEAT = 12.0  # of settled running [K]
LARGE_AIR = 13.0  # outdoors less evaporating [K]
LARGE_WATER = 6.0  # condensing less flow [K]
LOW_SUBCOOLING = 1.5  # [K]


def weak_unit(context: FindingContext) -> tuple[Cause, ...]:
    """Causes of a unit that is weak everywhere, the likeliest first."""
    seen = context.inside.whole
    charge_for: list[str] = []
    charge_against: list[str] = []
    air_for: list[str] = []
    air_against: list[str] = []
    water_for: list[str] = []
    water_against: list[str] = []
    if seen is None:
        unread = "no pressures are logged: a suspicion until superheat and subcooling are read"
        charge_against.append(unread)
    else:
        if seen.superheat is not None:
            words = f"superheat {seen.superheat:.1f} K"
            if seen.superheat > HIGH_SUPERHEAT:
                charge_for.append(f"{words}: high")
                air_against.append(f"{words}: high, it would be normal")
            else:
                charge_against.append(f"{words}: normal")
        if seen.subcooling is not None:
            words = f"subcooling {seen.subcooling:.1f} K"
            low = seen.subcooling < LOW_SUBCOOLING
            (charge_for if low else charge_against).append(f"{words}: {'low' if low else 'normal'}")
        if seen.approach_air is not None:
            words = f"evaporating {seen.approach_air:.1f} K below the air"
            large = seen.approach_air > LARGE_AIR
            (air_for if large else air_against).append(words)
        if seen.approach_water is not None:
            words = f"condensing {seen.approach_water:.1f} K above the flow"
            large = seen.approach_water > LARGE_WATER
            (water_for if large else water_against).append(words)
    found = [
        Cause("air side: fouled or recirculating outdoor coil", tuple(air_for), tuple(air_against)),
        Cause("refrigerant charge", tuple(charge_for), tuple(charge_against)),
        Cause("water side of the condenser", tuple(water_for), tuple(water_against)),
        Cause("expansion valve or compressor"),
        Cause(
            "a meter factor set wrongly",
            (),
            ("the checks of the metering found none; they do not exclude a constant one",),
        ),
    ]
    # What the gauges speak for goes first, what they speak against last.
    return tuple(sorted(found, key=lambda c: bool(c.speaks_against) - 2 * bool(c.speaks_for)))
