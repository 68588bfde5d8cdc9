"""What a maker declares by EN 14825: points A to G, auxiliary powers, limits."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

from ember.description.house import Name, NotNegative, Positive, Temp

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)
Hours = Annotated[float, Field(ge=0, le=8760)]


class Climate(StrEnum):
    """A reference climate of EN 14825."""

    AVERAGE = "average"
    WARMER = "warmer"
    COLDER = "colder"


@dataclass(frozen=True, config=_strict)
class Aux:
    """Powers of a unit that gives no heat [W]; None where the maker says none."""

    thermostat_off: NotNegative | None = None
    standby: NotNegative | None = None
    crankcase: NotNegative | None = None
    off: NotNegative | None = None


@dataclass(frozen=True, config=_strict)
class AuxTimes:
    """Hours of a year in each of these states, and equivalent hours of heating [h]; None: those of
    the climate, where they are certain."""

    heating: Hours | None = None
    thermostat_off: Hours | None = None
    standby: Hours | None = None
    crankcase: Hours | None = None
    off: Hours | None = None


@dataclass(frozen=True, config=_strict)
class DeclaredPoint:
    """One point. outdoor, flow [degC].

    Attributes
    ----------
    capacity_kw, cop : Positive
        as declared
    load_kw : Positive | None
        at it, None: by the design load
    cc : Annotated[float, Field(ge=0, le=1)] | None
        its degradation coefficient, None where not given.
    """

    name: Name
    outdoor: Temp
    flow: Temp
    capacity_kw: Positive
    cop: Annotated[float, Field(gt=0.5, lt=15)]
    load_kw: Positive | None = None
    cc: Annotated[float, Field(ge=0, le=1)] | None = None


@dataclass(frozen=True, config=_strict)
class Declared:
    """A maker's declaration for one application.

    Attributes
    ----------
    level : Literal[35, 45, 55, 65]
        of flow temperature [degC]
    variable : bool
        the outlet follows the weather.
    design_load_kw : Positive
        at the climate's design temperature.
    bivalent, low_limit : Temp | None
        outdoors [degC].
    """

    design_load_kw: Positive
    points: Annotated[tuple[DeclaredPoint, ...], Field(min_length=2, max_length=12)]
    climate: Climate = Climate.AVERAGE
    level: Literal[35, 45, 55, 65] = 35
    variable: bool = True
    bivalent: Temp | None = None
    low_limit: Temp | None = None
    aux: Aux = Aux()
    aux_hours: AuxTimes = AuxTimes()
