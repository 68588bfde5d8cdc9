"""The flow temperature that a house asks for: by its set curve, its design, or its emitters."""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Floats
from ember.description.house import Emitters, House
from ember.messages import words_of

say = words_of(__name__)

# EN 442, EN 1264; else radiators
DESIGN_EXPONENT = {Emitters.UNDERFLOOR: 1.1, Emitters.FAN_COILS: 1.0}
RADIATORS = 1.3  # EN 442
USUAL_FLOW = {
    Emitters.UNDERFLOOR: 35.0, Emitters.FAN_COILS: 45.0, Emitters.MIXED: 50.0,
    Emitters.RADIATORS: 55.0,
}  # of a design [degC], common practice, agreed  # fmt: skip
BY_CURVE, BY_DESIGN, BY_EMITTERS = 1.0, 5.0, 8.0  # how far each may be off [K], common practice


@dataclass(frozen=True)
class AskedFlow:
    """Flow temperature at each outdoor temperature, (n,) [degC], its limit [K], and by what."""

    flow: Floats
    limit: float
    words: str


def asked_flow(house: House, outdoor: Floats, design_outdoor: float | None) -> AskedFlow | None:
    """The flow temperature that the house asks for; None where nothing tells it.

    Parameters
    ----------
    outdoor : array, (n,)
        [degC].
    design_outdoor : float | None
        of the house, or of the climate [degC].

    Source: emitters give by the power of their excess over the room, EN 442 and EN 1264.
    """
    if house.curve is not None:
        flow = house.curve.flow_at(outdoor, house.design_indoor)
        return AskedFlow(flow, BY_CURVE, say("weather_curve_set"))
    at_design, limit = house.design_flow, BY_DESIGN
    words = say("flow_temperature_house")
    if at_design is None and house.emitters in USUAL_FLOW:
        at_design, limit = USUAL_FLOW[house.emitters], BY_EMITTERS
        words = say("flow_design_usual", at_design=at_design, emitters=house.emitters.value)
    if at_design is None or design_outdoor is None:
        return None
    span = max(house.design_indoor - design_outdoor, 1.0)
    exponent = (
        RADIATORS if house.emitters is None else DESIGN_EXPONENT.get(house.emitters, RADIATORS)
    )
    load = np.clip((house.design_indoor - outdoor) / span, 0.0, 1.2)
    excess = (at_design - house.design_indoor) * load ** (1 / exponent)
    return AskedFlow(house.design_indoor + excess, limit, words)
