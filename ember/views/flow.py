"""The flow temperature against what the house needs, and what the excess costs."""

from dataclasses import dataclass

import numpy as np

from ember.basis.practice import HEATING_BASE, KELVIN_SAVES
from ember.basis.quantity import KWH
from ember.basis.series import Floats
from ember.description.house import House
from ember.messages import words_of
from ember.operation.within import Within
from ember.views.control import ControlSeen, Curve

say = words_of(__name__)

FLOW_EXPONENT = 1.3  # of radiators (EN 442)
# standard uncertainty of what a kelvin saves, as a share, common practice, chosen
SLOPE_ROUGH = 0.25
NEEDED_LIMIT = 3.0  # of the flow that is needed, as described or seen [K], common practice, chosen


@dataclass(frozen=True)
class FlowExcess:
    """The flow over what is needed.

    Attributes
    ----------
    mean : float
        weighted by electricity [K].
    kwh : float
        what it costs [kWh].
    per_kelvin : float
        what a kelvin less saves, as a share.
    by_table : bool
        whether the rated table says that.
    words : str
        what the need rests on.
    """

    mean: float
    kwh: float
    per_kelvin: float
    by_table: bool
    words: str


def needed_flow(house: House, curve: Curve | None, outdoor: Floats) -> tuple[Floats, str] | None:
    """Flow temperature the house needs, (n,) [degC], and on what that rests.

    From the described flow at design; else from what suffices in the coldest hours seen. Source:
    radiator output ∝ (mean water − room)^1.3 (EN 442), load falling in a line to 0 at 15 °C.
    """
    if curve is None:
        return None
    room = house.design_indoor
    if house.design_flow is not None and house.design_outdoor is not None:
        flow, at = house.design_flow, house.design_outdoor
        words = say("outdoors_described", flow=flow, at=at)
    else:
        at = curve.low
        flow = curve.at_zero + curve.slope * at
        words = say("sufficed_outdoors", at=at)
    share = np.clip((HEATING_BASE - outdoor) / (HEATING_BASE - at), 0.0, None)
    return room + (flow - room) * share ** (1 / FLOW_EXPONENT), words


def flow_excess(within: Within, control: ControlSeen) -> FlowExcess | None:
    """The flow of the hours of heating over what is needed; None where no curve is seen."""
    of = within.found.hours.of
    use = within.hours() & (of["hot_water"] == 0) & (of["on"] > 0) & (of["cooling"] == 0)
    use &= np.isfinite(of["outdoor"]) & (of["used"] > 0)
    curve = control.curve
    needed = needed_flow(within.analysis.installation.house, curve, of["outdoor"][use])
    if needed is None or curve is None or not use.any():
        return None
    line = curve.at_zero + curve.slope * of["outdoor"]
    # Hours with short runs have no settled flow; there the line stands for it.
    flow = np.where(np.isfinite(of["flow"]), of["flow"], line)[use]
    above = np.maximum(flow - needed[0], 0.0)
    energy = of["used"][use] / KWH
    mean = float((above * energy).sum() / energy.sum())
    by_table = control.per_kelvin is not None
    slope = KELVIN_SAVES if control.per_kelvin is None else control.per_kelvin
    kwh = float((energy * (1 - np.exp(-slope * above))).sum())
    return FlowExcess(mean, kwh, slope, by_table, needed[1])
