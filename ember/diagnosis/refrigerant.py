"""What the refrigerant side says for and against the usual causes of a weak unit.

Source: limits common practice. Without gauges the charge is only a suspicion, and is called so.
"""

from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause
from ember.messages import words_of

say = words_of(__name__)

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
        unread = say("no_pressures_logged")
        charge_against.append(unread)
    else:
        if seen.superheat is not None:
            words = say("superheat", superheat=seen.superheat)
            if seen.superheat > HIGH_SUPERHEAT:
                charge_for.append(say("condensing_high", words=words))
                air_against.append(say("high_would_normal", words=words))
            else:
                charge_against.append(say("normal", words=words))
        if seen.subcooling is not None:
            words = say("subcooling", subcooling=seen.subcooling)
            low = seen.subcooling < LOW_SUBCOOLING
            (charge_for if low else charge_against).append(
                say("low", words=words) if low else say("normal", words=words)
            )
        if seen.approach_air is not None:
            words = say("evaporating_below_air", approach_air=seen.approach_air)
            large = seen.approach_air > LARGE_AIR
            (air_for if large else air_against).append(words)
        if seen.approach_water is not None:
            words = say("condensing_above_flow", approach_water=seen.approach_water)
            large = seen.approach_water > LARGE_WATER
            (water_for if large else water_against).append(words)
    found = [
        Cause(say("cause_air_side"), tuple(air_for), tuple(air_against)),
        Cause(say("cause_refrigerant_charge"), tuple(charge_for), tuple(charge_against)),
        Cause(say("cause_water_side"), tuple(water_for), tuple(water_against)),
        Cause(say("cause_expansion_valve")),
        Cause(
            say("cause_meter_factor"),
            (),
            (say("checks_metering_found"),),
        ),
    ]
    # What the gauges speak for goes first, what they speak against last.
    return tuple(sorted(found, key=lambda c: bool(c.speaks_against) - 2 * bool(c.speaks_for)))
