"""What is asked: which settings, which store, which tariff, which unit."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import ConfigDict, Field, model_validator
from pydantic.dataclasses import dataclass

from ember.description.as_json import read_as
from ember.description.house import Positive
from ember.description.installation import RatedTable
from ember.description.tariff import Tariff

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)


class StoreKind(StrEnum):
    """In what electricity or heat waits for the hours in which it is used."""

    BUILDING = "building"
    TANK = "tank"
    BATTERY = "battery"


@dataclass(frozen=True, config=_strict)
class Store:
    """A store that takes what is cheap and gives it when it is dear, once a day.

    Attributes
    ----------
    kind : StoreKind
        the building moves heating, the tank hot water, the battery all that is metered.
    kwh_k : Positive | None
        heat that the building holds a kelvin [kWh/K].
    swing_k : Positive | None
        by which the building or the tank may be warmer than usual [K].
    litres : Positive | None
        of the tank; None: as described.
    kwh : Positive | None
        that the battery gives a day [kWh].
    efficiency : float
        of the battery, out and in again.
    hours : float
        for how long it holds at most [h].
    """

    kind: StoreKind
    kwh_k: Positive | None = None
    swing_k: Annotated[float, Field(gt=0, le=30)] | None = None
    litres: Positive | None = None
    kwh: Positive | None = None
    efficiency: Annotated[float, Field(gt=0.3, le=1)] = 0.9
    hours: Annotated[float, Field(gt=0, le=24)] = 12.0

    @model_validator(mode="after")
    def _whole(self) -> Self:
        needed = {
            StoreKind.BUILDING: ("kwh_k", "swing_k"),
            StoreKind.TANK: ("swing_k",),
            StoreKind.BATTERY: ("kwh",),
        }[self.kind]
        lacking = [name for name in needed if getattr(self, name) is None]
        if lacking:
            raise ValueError(f"a {self.kind} needs {' and '.join(lacking)}.")
        return self


@dataclass(frozen=True, config=_strict)
class WhatIfAsked:
    """What is asked; nothing of it is asked by default.

    Attributes
    ----------
    flow_lower : float
        by which the flow of heating is lower [K].
    fewer_starts : float
        share of the starts that are left out.
    defrosts_as_expected : bool
        no more defrosts than the frost asks for.
    hot_water_lower : float
        by which the hot water's set point is lower [K].
    heaters_off : bool
        heat of the heaters with meters of their own from the unit.
    unit : RatedTable | None
        another unit, by its table.
    store : Store | None
        use moved into cheap hours.
    tariff : Tariff | None
        another tariff.
    """

    flow_lower: Annotated[float, Field(ge=0, le=30)] = 0.0
    fewer_starts: Annotated[float, Field(ge=0, le=1)] = 0.0
    defrosts_as_expected: bool = False
    hot_water_lower: Annotated[float, Field(ge=0, le=30)] = 0.0
    heaters_off: bool = False
    unit: RatedTable | None = None
    store: Store | None = None
    tariff: Tariff | None = None


def asked_from_json(text: bytes | str) -> WhatIfAsked:
    """What is asked, from JSON with the fields of `WhatIfAsked`. Raises DescriptionError."""
    return read_as(WhatIfAsked, text, "what if")
