"""The house around the unit: its heat loss, its emitters, its tank, and what was there before.

None of it enters a sum of heat and electricity; it says what a figure is to be compared with.
"""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)
Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Share = Annotated[float, Field(gt=0, le=1)]
Temp = Annotated[float, Field(ge=-60, le=100)]


class Emitters(StrEnum):
    """What gives the heat to the rooms."""

    RADIATORS = "radiators"
    UNDERFLOOR = "underfloor"
    FAN_COILS = "fan_coils"
    MIXED = "mixed"
    AIR = "air"


class Built(StrEnum):
    """Age band of the house."""

    BEFORE_1920 = "before_1920"
    TO_1950 = "1920_1950"
    TO_1980 = "1950_1980"
    TO_2000 = "1980_2000"
    TO_2015 = "2000_2015"
    SINCE_2015 = "since_2015"


@dataclass(frozen=True, config=_strict)
class House:
    """The house. Everything may be unknown.

    floor_area_m2 : heated floor [m2]. heat_loss_kw : at design_outdoor and design_indoor [kW].
    design_flow : flow temperature at that outdoor temperature [degC].
    airtightness_ach50 : air changes an hour at 50 Pa.
    """

    floor_area_m2: Positive | None = None
    heat_loss_kw: Positive | None = None
    design_outdoor: Temp | None = None
    design_indoor: Temp = 20.0
    design_flow: Temp | None = None
    emitters: Emitters | None = None
    built: Built | None = None
    airtightness_ach50: Positive | None = None


@dataclass(frozen=True, config=_strict)
class Tank:
    """The hot-water tank.

    effective_share : of the volume that a lift warms; below a coil the water stays cold (0.8 to
        0.9 for many coils, common practice).
    loss_w_k : standing loss [W/K], None for a usual one. ambient : round it [degC]. probes :
        channels of its temperature, whose mean is the tank's.
    """

    volume_l: Positive
    effective_share: Share = 0.85
    set_point: Temp | None = None
    loss_w_k: NotNegative | None = None
    ambient: Temp = 20.0
    probes: Annotated[tuple[str, ...], Field(min_length=1, max_length=8)] = ("tank_temp",)


@dataclass(frozen=True, config=_strict)
class Replaced:
    """The heating that was there before; its bills are in the logbook.

    efficiency : useful heat to fuel, upper or lower heating value as the bill counts.
    hot_water : whether its bills hold the hot water too.
    """

    fuel: Literal["gas", "oil", "lpg", "wood", "coal", "district_heat", "electricity"]
    efficiency: Annotated[float, Field(gt=0, le=1.1)] = 0.85
    hot_water: bool = True
