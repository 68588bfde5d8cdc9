"""The house around the unit: its heat loss, its emitters, its tank, and what was there before.

None of it enters a sum of heat and electricity; it says what a figure is to be compared with.
"""

from enum import StrEnum
from typing import Annotated, Literal
from unicodedata import category, normalize

import numpy as np
from numpy.typing import NDArray
from pydantic import AfterValidator, ConfigDict, Field
from pydantic.dataclasses import dataclass

Floats = NDArray[np.float64]

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)
HOUSE_LARGEST, HOUSE_SMALLEST = 1e9, 1e-9  # numbers beyond which nothing of a plant lies


def _not_tiny(value: float) -> float:
    if value < HOUSE_SMALLEST:
        raise ValueError(f"{value:g} is too small; the least is {HOUSE_SMALLEST:g}")
    return value


def _seen(text: str) -> str:
    """A name as it is seen: one form of each letter, single spaces, nothing invisible."""
    seen = " ".join(normalize("NFC", text).split())
    for letter in seen:
        if category(letter) in _HOUSE_INVISIBLE:
            raise ValueError(f"holds an invisible character (U+{ord(letter):04X}); leave it out")
    return seen


_HOUSE_INVISIBLE = frozenset({"Cc", "Cf", "Cs", "Co", "Zl", "Zp"})
Positive = Annotated[float, Field(gt=0, le=HOUSE_LARGEST), AfterValidator(_not_tiny)]
NotNegative = Annotated[float, Field(ge=0, le=HOUSE_LARGEST)]
Number = Annotated[float, Field(ge=-HOUSE_LARGEST, le=HOUSE_LARGEST)]
Name = Annotated[str, AfterValidator(_seen), Field(min_length=1, max_length=80)]
Words = Annotated[str, Field(max_length=200)]  # a header, a channel, a unit
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
class CurvePoint:
    """Flow temperature that is set at an outdoor temperature [degC]."""

    outdoor: Temp
    flow: Temp


@dataclass(frozen=True, config=_strict)
class SetCurve:
    """The weather curve as the controller is set: by its points, or by slope and offset.

    Attributes
    ----------
    points : Annotated[tuple[CurvePoint, ...], Field(max_length=12)]
        straight lines between them, level beyond. slope, offset [K] : flow = room + offset + slope
        · (room − outdoor), room the design_indoor of the house, as many controllers have it (common
        practice; some bend it a little).
    lowest, highest : Temp | None
        limits of the flow [degC].
    """

    points: Annotated[tuple[CurvePoint, ...], Field(max_length=12)] = ()
    slope: Annotated[float, Field(ge=0, le=5)] | None = None
    offset: Annotated[float, Field(ge=-30, le=30)] = 0.0
    lowest: Temp | None = None
    highest: Temp | None = None

    def __post_init__(self) -> None:
        if (self.slope is None) == (not self.points):
            raise ValueError("curve: give either points or a slope.")
        if self.points and len({p.outdoor for p in self.points}) < 2:
            raise ValueError("curve: a curve needs points at two outdoor temperatures.")

    def flow_at(self, outdoor: Floats, room: float) -> Floats:
        """Flow temperature that is set, (n,) [degC], at outdoor temperatures [degC]."""
        if self.points:
            by = sorted(self.points, key=lambda p: p.outdoor)
            flow = np.interp(outdoor, [p.outdoor for p in by], [p.flow for p in by])
        else:
            flow = room + self.offset + (self.slope or 0.0) * np.maximum(room - outdoor, 0.0)
        low = -np.inf if self.lowest is None else self.lowest
        high = np.inf if self.highest is None else self.highest
        limited: Floats = np.clip(flow, low, high)
        return limited


@dataclass(frozen=True, config=_strict)
class House:
    """The house. Everything may be unknown.

    Attributes
    ----------
    floor_area_m2 : Positive | None
        heated floor [m2].
    heat_loss_kw : Positive | None
        at design_outdoor and design_indoor [kW].
    design_flow : Temp | None
        flow temperature at that outdoor temperature [degC].
    airtightness_ach50 : Positive | None
        air changes an hour at 50 Pa.
    curve : SetCurve | None
        as the controller is set.
    """

    floor_area_m2: Positive | None = None
    heat_loss_kw: Positive | None = None
    design_outdoor: Temp | None = None
    design_indoor: Temp = 20.0
    design_flow: Temp | None = None
    emitters: Emitters | None = None
    built: Built | None = None
    airtightness_ach50: Positive | None = None
    curve: SetCurve | None = None


@dataclass(frozen=True, config=_strict)
class PhaseChange:
    """A store whose filling melts: kwh it takes from empty to full, melts_at [degC]. Its heat does
    not follow from temperatures."""

    kwh: Positive
    melts_at: Temp


@dataclass(frozen=True, config=_strict)
class Tank:
    """The hot-water tank.

    Attributes
    ----------
    effective_share : Share
        of the volume that a charge warms; below a coil the water stays cold (0.8 to 0.9 for many
        coils, common practice).
    loss_w_k : NotNegative | None
        standing loss [W/K], None for a usual one.
    ambient : Temp
        round it [degC].
    probes : Annotated[tuple[Words, ...], Field(min_length=1, max_length=8)]
        channels of its temperature, whose mean is the tank's.
    phase_change : PhaseChange | None
        of a store that melts.
    """

    volume_l: Positive
    effective_share: Share = 0.85
    set_point: Temp | None = None
    loss_w_k: NotNegative | None = None
    ambient: Temp = 20.0
    probes: Annotated[tuple[Words, ...], Field(min_length=1, max_length=8)] = ("tank_temp",)
    phase_change: PhaseChange | None = None


@dataclass(frozen=True, config=_strict)
class Replaced:
    """The heating that was there before; its bills are in the logbook.

    Attributes
    ----------
    efficiency : Annotated[float, Field(gt=0, le=1.1)]
        useful heat to fuel, upper or lower heating value as the bill counts.
    hot_water : bool
        whether its bills hold the hot water too.
    """

    fuel: Literal["gas", "oil", "lpg", "wood", "coal", "district_heat", "electricity"]
    efficiency: Annotated[float, Field(gt=0, le=1.1)] = 0.85
    hot_water: bool = True
