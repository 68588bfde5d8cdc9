"""What heat costs by other fuels, and from which COP on a heat pump is cheaper."""

from dataclasses import dataclass
from enum import StrEnum

from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate, exact

MMBTU = 293.071  # kWh in a million Btu of the International Table
THERM = 29.3071  # [kWh]
SHORT_TON, POUND = 907.185, 0.45359237  # [kg]


class FuelKind(StrEnum):
    """What gives the heat."""

    GAS = "gas"
    OIL = "oil"
    PROPANE = "propane"
    WOOD = "wood"
    PELLETS = "pellets"
    DISTRICT_HEAT = "district_heat"
    ELECTRICITY = "electricity"


class HeatingValue(StrEnum):
    """Whether the heat of the water vapour in the flue gas is counted."""

    UPPER = "upper"
    LOWER = "lower"
    NONE = "none"  # nothing is burnt


@dataclass(frozen=True)
class FuelUnit:
    """A unit in which a fuel is sold.

    Attributes
    ----------
    kwh : float
        energy of one [kWh].
    value : HeatingValue
        by which that is.
    source : str
        where it is from.
    """

    unit: str
    kwh: float
    value: HeatingValue
    source: str


@dataclass(frozen=True)
class FuelSort:
    """A fuel with its usual units.

    Attributes
    ----------
    upper_per_lower : float
        upper ÷ lower heating value.
    efficiency : float
        usual of a boiler for it, by the heating value of its units; common practice.
    """

    kind: FuelKind
    words: str
    units: tuple[FuelUnit, ...]
    upper_per_lower: float
    efficiency: float


_DEFINED = "by definition"
_BILL = "from memory; the bill says it for the place"
_CP = "common practice, from memory"
_UPPER, _LOWER, _NONE = HeatingValue.UPPER, HeatingValue.LOWER, HeatingValue.NONE

FUELS = (
    FuelSort(
        FuelKind.GAS,
        "natural gas",
        (
            FuelUnit("kWh", 1.0, _UPPER, _DEFINED),
            FuelUnit("m³", 11.0, _UPPER, _BILL),
            FuelUnit("therm", THERM, _UPPER, _DEFINED),
        ),
        1.11,
        0.88,
    ),
    FuelSort(
        FuelKind.OIL,
        "heating oil",
        (
            FuelUnit("litre", 10.6, _UPPER, _CP),
            FuelUnit("US gallon", 138_500 / 1e6 * MMBTU, _UPPER, "138,500 Btu, from memory"),
        ),
        1.06,
        0.85,
    ),
    FuelSort(
        FuelKind.PROPANE,
        "propane",
        (
            FuelUnit("litre", 91_333 / 1e6 * MMBTU / 3.785412, _UPPER, "as the gallon"),
            FuelUnit("US gallon", 91_333 / 1e6 * MMBTU, _UPPER, "91,333 Btu, common practice"),
            FuelUnit("kg", 13.99, _UPPER, _CP),
        ),
        1.087,
        0.90,
    ),
    FuelSort(
        FuelKind.WOOD,
        "split wood, air-dried",
        (
            FuelUnit("kg", 4.1, _LOWER, _CP),
            FuelUnit("tonne", 4100.0, _LOWER, _CP),
            FuelUnit("US ton", 4.1 * SHORT_TON, _LOWER, _CP),
        ),
        1.10,
        0.70,
    ),
    FuelSort(
        FuelKind.PELLETS,
        "wood pellets",
        (
            FuelUnit("kg", 4.8, _LOWER, _CP),
            FuelUnit("bag of 15 kg", 72.0, _LOWER, _CP),
            FuelUnit("bag of 40 lb", 4.8 * 40 * POUND, _LOWER, _CP),
            FuelUnit("tonne", 4800.0, _LOWER, _CP),
            FuelUnit("US ton", 4.8 * SHORT_TON, _LOWER, _CP),
        ),
        1.08,
        0.85,
    ),
    FuelSort(
        FuelKind.DISTRICT_HEAT,
        "district heat",
        (
            FuelUnit("kWh", 1.0, _NONE, _DEFINED),
            FuelUnit("MWh", 1000.0, _NONE, _DEFINED),
            FuelUnit("GJ", 1000 / 3.6, _NONE, _DEFINED),
        ),
        1.0,
        1.0,
    ),
    FuelSort(
        FuelKind.ELECTRICITY,
        "electricity, direct",
        (FuelUnit("kWh", 1.0, _NONE, _DEFINED),),
        1.0,
        1.0,
    ),
)


@dataclass(frozen=True)
class HeatCost:
    """What a fuel's heat costs.

    Attributes
    ----------
    per_kwh, per_mmbtu, per_therm : float
        price of that much useful heat.
    efficiency : float
        by the heating value of the content.
    """

    per_kwh: float
    efficiency: float

    @property
    def per_mmbtu(self) -> float:
        """Price of a million Btu of useful heat."""
        return self.per_kwh * MMBTU

    @property
    def per_therm(self) -> float:
        """Price of a therm of useful heat."""
        return self.per_kwh * THERM


def fuel_named(kind: str) -> FuelSort:
    """A fuel. Raises DescriptionError for one that is none."""
    found = next((one for one in FUELS if one.kind == kind), None)
    if found is None:
        named = ", ".join(one.kind.value for one in FUELS)
        raise DescriptionError(f"fuel: '{kind[:40]}' is none of {named}.", "kind")
    return found


def cost_of_heat(
    price: float,
    kwh: float,
    efficiency: float,
    by: HeatingValue = HeatingValue.NONE,
    of: HeatingValue = HeatingValue.NONE,
    upper_per_lower: float = 1.0,
) -> HeatCost:
    """What a kWh of useful heat costs by a fuel.

    Parameters
    ----------
    price : float
        of a unit.
    kwh : float
        energy of the unit [kWh], by the heating value `of`.
    efficiency : float
        as a share, by the heating value `by`: a condensing boiler may have 1.05 by the lower.
    upper_per_lower : float
        of the fuel.

    Raises DescriptionError where one of them is not above zero.

    Source: price ÷ (energy content × efficiency), common practice.
    """
    for name, value in (("price", price), ("kwh", kwh), ("efficiency", efficiency)):
        if not value > 0:
            raise DescriptionError(f"{name}: {value:g} is not above zero.", name)
    if by != of and HeatingValue.NONE not in (by, of):
        efficiency *= upper_per_lower if of == HeatingValue.LOWER else 1 / upper_per_lower
    return HeatCost(price / (kwh * efficiency), efficiency)


def break_even_cop(electricity: float, heat: HeatCost) -> float:
    """The COP from which on heat by electricity at that price [per kWh] is cheaper.

    Source: electricity price ÷ cost of the other heat, common practice.
    """
    return electricity / heat.per_kwh


def pumped_heat(price: float, cop: Estimate, currency: str) -> Estimate:
    """What a kWh of heat costs by a COP, at an average price of electricity [per kWh]."""
    return exact(price, currency).over(cop, currency)


def saved_by_pump(
    heat: Estimate, electricity: Estimate, other: HeatCost, price: float, currency: str
) -> Estimate:
    """The same heat by the fuel, less the electricity of that heat; standing charges on neither.

    Parameters
    ----------
    heat, electricity : Estimate
        of the same readings [kWh].
    price : float
        paid for electricity on average [per kWh].

    Source: heat × cost of the other heat − electricity × price, common practice.
    """
    return heat.scaled(other.per_kwh, currency) - electricity.scaled(price, currency)
