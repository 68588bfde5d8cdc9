"""What the analyst describes: unit, circuit, meters and what each includes, tariff, rated table.

Its documented JSON form (docs/formats.md, `as_json`) is these types, field by field.
"""

import re
from enum import StrEnum
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator
from pydantic.dataclasses import dataclass

from ember.basis.channels import quantity_of
from ember.basis.clock import zone_named
from ember.basis.errors import DescriptionError
from ember.description.declared import Declared
from ember.description.house import (
    House,
    Name,
    NotNegative,
    Positive,
    Replaced,
    Tank,
    Temp,
    Words,
)
from ember.description.logged import Column, HandKind, HandSeries, Sensor
from ember.description.meters import (
    HEATERS,
    AirCircuit,
    Consumer,
    ElectricityAccuracy,
    ElectricityMeter,
    FixedPower,
    HeatRegister,
    HeatSource,
    OutdoorSensor,
    Pipe,
    Probes,
    Refrigerant,
    RefrigerantSide,
    ReportedHeat,
    RunsWith,
    Service,
    SourceYield,
    WaterCircuit,
)
from ember.description.remedies import (
    AddElectricity,
    ClockShift,
    Correction,
    Exclusion,
    Factor,
    Loads,
    Offset,
    Prefer,
    Rule,
    StateIs,
    Swap,
    Transfer,
)
from ember.description.supply import SUPPLY_CHANNELS, Supply
from ember.description.tariff import Band, Tariff
from ember.description.thresholds import Thresholds
from ember.properties import Fluid

__all__ = [
    "HEATERS",
    "AddElectricity",
    "AirCircuit",
    "Band",
    "ClockShift",
    "Consumer",
    "Correction",
    "ElectricityAccuracy",
    "ElectricityMeter",
    "Exclusion",
    "Factor",
    "FixedPower",
    "HeatPump",
    "HeatRegister",
    "HeatSource",
    "Installation",
    "Loads",
    "Location",
    "Offset",
    "OutdoorSensor",
    "Pipe",
    "Prefer",
    "Probes",
    "RatedPoint",
    "RatedTable",
    "Refrigerant",
    "RefrigerantSide",
    "ReportedHeat",
    "Rule",
    "RunsWith",
    "Service",
    "SourceYield",
    "Speed",
    "StateIs",
    "Swap",
    "TableKind",
    "Tariff",
    "Thresholds",
    "Transfer",
    "UnitKind",
    "WaterCircuit",
    "channels_of",
    "heat_meters",
    "part_load_is_better",
    "working",
]  # fmt: skip


_strict = ConfigDict(extra="forbid", allow_inf_nan=False)


class UnitKind(StrEnum):
    """Where the unit takes its heat from, and what it gives it to."""

    AIR_TO_WATER = "air_to_water"
    GROUND_SOURCE = "ground_source"
    AIR_TO_AIR_SINGLE = "air_to_air_single"
    AIR_TO_AIR_MULTI_HEAD = "air_to_air_multi_head"
    AIR_TO_AIR_DUCTED = "air_to_air_ducted"


@dataclass(frozen=True, config=_strict)
class HeatPump:
    """The unit.

    Attributes
    ----------
    capacity_kw : Positive | None
        nominal heat output [kW]
    minimum_output_kw : Positive | None
        the least it can run at [kW].
    low_outdoor_limit : Temp | None
        below it the unit stops [degC]
    """

    kind: UnitKind = UnitKind.AIR_TO_WATER
    capacity_kw: Positive | None = None
    minimum_output_kw: Positive | None = None
    low_outdoor_limit: Temp | None = None
    variable_speed: bool = True

    @property
    def on_air(self) -> bool:
        """Whether it heats the room's air, not water."""
        return table_kind(self.kind) == TableKind.AIR


@dataclass(frozen=True, config=_strict)
class Location:
    """Where it stands, as near as the weather needs [degrees, north and east]."""

    latitude: Annotated[float, Field(ge=-90, le=90)]
    longitude: Annotated[float, Field(ge=-180, le=180)]


@dataclass(frozen=True, config=_strict)
class Carbon:
    """What a kWh of electricity stands for there [kg CO2], and whose figure that is."""

    kg_per_kwh: NotNegative
    source: Name


class TableKind(StrEnum):
    """What a rated table is over: outdoor × flow, brine × flow, or outdoor × indoor air."""

    WATER = "water"
    GROUND = "ground"
    AIR = "air"


class Speed(StrEnum):
    """Of the compressor, as tables name it where they give no number."""

    MINIMUM = "minimum"
    NOMINAL = "nominal"
    MAXIMUM = "maximum"


Level = Annotated[str, Field(min_length=1, max_length=40)]
# A temperature of a table before it is doubted: °F that are taken for °C must not be an error yet.
AsWritten = Annotated[float, Field(ge=-150, le=400)]


@dataclass(frozen=True, config=_strict)
class RatedPoint:
    """One cell of the maker's table: outdoor and flow temperature [degC], heat output [kW].

    Attributes
    ----------
    outdoor : AsWritten
        the source, which is the brine's entry for ground source.
    flow : AsWritten
        what is given, which is the indoor dry bulb for air-to-air
    airflow_m3h : Positive | None
        of its row, where the table has several.
    speed : Level
        the level of load or speed of the point: minimum, nominal, maximum, or as the maker gives
        it, "50 %", "45 Hz", "5 kW".
    capacity_kw, cop : Positive | None
        None where the maker's sheet lacks it.
    """

    outdoor: AsWritten
    flow: AsWritten
    capacity_kw: Positive | None
    cop: Annotated[float, Field(gt=0.5, lt=15)] | None
    speed: Level = Speed.NOMINAL
    airflow_m3h: Positive | None = None

    def __post_init__(self) -> None:
        if self.capacity_kw is None and self.cop is None:
            raise DescriptionError("capacity_kw: a point has a capacity, a COP, or both.")


@dataclass(frozen=True, config=_strict)
class RatedTable:
    """The maker's table.

    Attributes
    ----------
    includes_defrost : bool
        the values in the frost band have the defrosts in them ("integrated").
    tolerance : Annotated[float, Field(ge=0, lt=0.3)]
        of the table itself, as a share.
    name : Name | None
        of the type of unit; systems with the same points are of one type.
    outdoor_unit, indoor_unit : Name | None
        the pair that the table is of; another coil indoors gives another table.
    low_outdoor_limit : Temp | None
        below it the unit stops [degC]. minimum_hz … maximum_hz : compressor speed of each level,
        where known; with a logged speed it is matched by that, else by delivered heat.
    """

    points: Annotated[tuple[RatedPoint, ...], Field(min_length=2, max_length=1000)]
    includes_defrost: bool = True
    tolerance: Annotated[float, Field(ge=0, lt=0.3)] = 0.03
    kind: TableKind = TableKind.WATER
    name: Name | None = None
    outdoor_unit: Name | None = None
    indoor_unit: Name | None = None
    low_outdoor_limit: Temp | None = None
    minimum_hz: Positive | None = None
    nominal_hz: Positive | None = None
    maximum_hz: Positive | None = None

    @property
    def gives_cop(self) -> bool:
        """Whether the table has COPs; one of capacities alone is compared with nothing."""
        return any(p.cop is not None for p in self.points)

    @property
    def gives_capacity(self) -> bool:
        """Whether the table has capacities."""
        return any(p.capacity_kw is not None for p in self.points)

    @property
    def pair(self) -> str | None:
        """The pair of outdoor unit and indoor coil that the table is of, where it says so."""
        return " with ".join(n for n in (self.outdoor_unit, self.indoor_unit) if n) or None

    @property
    def speeds(self) -> tuple[str, ...]:
        """The levels it has, slowest first: by name, by number, else by what they give."""
        there = {p.speed for p in self.points}
        if there <= set(Speed):
            return tuple(s for s in Speed if s in there)
        numbers = {level: number_of(level) for level in there}
        if all(n is not None for n in numbers.values()):
            return tuple(sorted(there, key=lambda level: numbers[level] or 0.0))

        def middle(level: str) -> float:
            given = sorted(p.capacity_kw or 0.0 for p in self.points if p.speed == level)
            return given[len(given) // 2]

        return tuple(sorted(there, key=middle))

    @property
    def main(self) -> str:
        """The level that is drawn first: nominal, else the one in the middle."""
        levels = self.speeds
        return Speed.NOMINAL if Speed.NOMINAL in levels else levels[len(levels) // 2]

    def hertz(self, level: str) -> float | None:
        """The compressor's speed at a level [Hz], None where the table does not say it."""
        named = {
            Speed.MINIMUM: self.minimum_hz,
            Speed.NOMINAL: self.nominal_hz,
            Speed.MAXIMUM: self.maximum_hz,
        }
        if level in named:
            return named[Speed(level)]
        return number_of(level) if level.lower().replace(" ", "").endswith("hz") else None


def table_kind(unit: UnitKind) -> TableKind:
    """The kind of rated table that fits a kind of unit."""
    if unit == UnitKind.GROUND_SOURCE:
        return TableKind.GROUND
    air = unit not in (UnitKind.AIR_TO_WATER, UnitKind.GROUND_SOURCE)
    return TableKind.AIR if air else TableKind.WATER


def number_of(level: str) -> float | None:
    """The number in the name of a level, as "50 %"; None where there is none."""
    found = re.match(r"^\s*(\d+(?:[.,]\d+)?)", level)
    return float(found[1].replace(",", ".")) if found else None


@dataclass(frozen=True, config=_strict)
class Installation:
    """One installed heat pump with its metering.

    Attributes
    ----------
    zone : Words
        IANA name of its local time.
    """

    name: Name
    zone: Words
    electricity: Annotated[tuple[ElectricityMeter, ...], Field(min_length=1, max_length=24)]
    circuits: Annotated[tuple[WaterCircuit, ...], Field(max_length=12)] = ()
    registers: Annotated[tuple[HeatRegister, ...], Field(max_length=24)] = ()
    air: Annotated[tuple[AirCircuit, ...], Field(max_length=30)] = ()
    reported: Annotated[tuple[ReportedHeat, ...], Field(max_length=12)] = ()
    yields: Annotated[tuple[SourceYield, ...], Field(max_length=12)] = ()
    fixed: Annotated[tuple[FixedPower, ...], Field(max_length=24)] = ()
    refrigerant: RefrigerantSide | None = None
    consumers: Annotated[tuple[Consumer, ...], Field(max_length=24)] = (
        Consumer.COMPRESSOR,
        Consumer.SOURCE,
        Consumer.CONTROLS,
    )
    # Of them: heaters that are there and surely rest.
    idle: Annotated[tuple[Consumer, ...], Field(max_length=24)] = ()
    unit: HeatPump = HeatPump()
    fluid: Fluid = Fluid()
    outdoor: OutdoorSensor = OutdoorSensor()
    tariff: Tariff | None = None
    carbon: Carbon | None = None
    supply: Supply | None = None  # what feeds the house besides the grid
    units: Literal["si", "us"] | None = None  # in which its people read it; None: as one chooses
    rated: RatedTable | None = None
    declared: Declared | None = None
    thresholds: Thresholds = Thresholds()
    corrections: Annotated[tuple[Correction, ...], Field(max_length=200)] = ()
    property: Name | None = None  # units with the same one are compared side by side
    location: Location | None = None
    house: House = House()
    tank: Tank | None = None
    replaced: Replaced | None = None
    sensors: Annotated[tuple[Sensor, ...], Field(max_length=100)] = ()
    by_hand: Annotated[tuple[HandSeries, ...], Field(max_length=50)] = ()
    columns: Annotated[tuple[Column, ...], Field(max_length=500)] = ()
    time_column: Words | None = None
    log_heartbeat: Positive | None = None  # longest silence of a log written on change [s]
    log_zone: Words | None = None  # clock of the log where it is naive; None: local time
    format: Literal["honest-ember/installation"] = "honest-ember/installation"
    version: Literal[2] = 2

    @model_validator(mode="after")
    def _consistent(self) -> "Installation":
        zone_named(self.zone)
        if self.log_zone is not None:
            zone_named(self.log_zone)
        _check_names(self)
        _check_channels(self)
        for consumer in self.idle:
            if consumer not in HEATERS:
                raise DescriptionError(f"idle: '{consumer}' is no heater.")
        _check_by_hand(self)
        held: tuple[tuple[str, tuple[ElectricityMeter | FixedPower, ...]], ...] = (
            ("electricity", self.electricity),
            ("fixed", self.fixed),
        )
        for where, meters in held:
            for k, meter in enumerate(meters):
                for consumer in meter.includes:
                    if consumer not in self.consumers:
                        raise DescriptionError(
                            f"{where}.{k}.includes: '{consumer}' is not among `consumers`, "
                            "the list of what there is."
                        )
        return self


def _check_names(installation: Installation) -> None:
    names = [meter.name for meter in installation.electricity]
    names += [meter.name for meter in installation.fixed]
    names += [meter.name for meter in _heat_meters(installation)]
    names += [installation.refrigerant.name] if installation.refrigerant else []
    for name in names:
        if names.count(name) > 1:
            raise DescriptionError(f"the name '{name}' is used twice; each meter needs its own.")
    circuits = {circuit.name for circuit in installation.circuits}
    for k, register in enumerate(installation.registers):
        if register.circuit is not None and register.circuit not in circuits:
            raise DescriptionError(f"registers.{k}.circuit: there is no '{register.circuit}'.")
    for k, correction in enumerate(installation.corrections):
        _check_correction(f"corrections.{k}", correction, names)


def _check_correction(where: str, correction: Correction, names: list[str]) -> None:
    match correction:
        case Loads(meter=meter) | AddElectricity(meter=meter) | Transfer(meter=meter):
            if meter not in names:
                raise DescriptionError(f"{where}.meter: no meter is called '{meter}'.")
        case Prefer(use=use, instead_of=other):
            for name, field in ((use, "use"), (other, "instead_of")):
                if name not in names:
                    quantity_of(name)  # says itself what is wrong
                elif (use in names) != (other in names):
                    raise DescriptionError(f"{where}.{field}: a meter stands for no channel.")
        case Swap(channels=channels) | ClockShift(channels=channels):
            for channel in channels:
                quantity_of(channel)
        case Offset(channel=channel) | Factor(channel=channel):
            quantity_of(channel)
        case Rule(channel=str(channel)):
            quantity_of(channel)


def _check_channels(installation: Installation) -> None:
    def check(where: str, channel: str, *kinds: str) -> None:
        if quantity_of(channel).name not in kinds:
            raise DescriptionError(
                f"{where}: '{channel}' is not a channel of {' or '.join(kinds)}."
            )

    for k, meter in enumerate(installation.electricity):
        check(f"electricity.{k}.channel", meter.channel, "power", "energy")
    for k, register in enumerate(installation.registers):
        check(f"registers.{k}.channel", register.channel, "heat_energy")
    for k, circuit in enumerate(installation.circuits):
        check(f"circuits.{k}.flow_rate", circuit.flow_rate, "flow_rate")
        check(f"circuits.{k}.flow_temp", circuit.flow_temp, "flow_temp")
        check(f"circuits.{k}.return_temp", circuit.return_temp, "return_temp")
    for k, air in enumerate(installation.air):
        check(f"air.{k}.supply_temp", air.supply_temp, "supply_air_temp")
        check(f"air.{k}.return_temp", air.return_temp, "return_air_temp")
        if air.airflow is not None:
            check(f"air.{k}.airflow", air.airflow, "airflow")
        if air.fan_speed is not None:
            check(f"air.{k}.fan_speed", air.fan_speed, "indoor_fan")
        for humidity in (air.supply_humidity, air.return_humidity):
            if humidity is not None:
                check(f"air.{k}.humidity", humidity, "air_humidity")
    for k, reported in enumerate(installation.reported):
        check(f"reported.{k}.channel", reported.channel, "heat_power", "heat_energy")
    if (side := installation.refrigerant) is not None:
        for field in REFRIGERANT_FIELDS:
            if (channel := getattr(side, field)) is not None:
                check(f"refrigerant.{field}", channel, field)
    for k, source in enumerate(installation.yields):
        check(f"yields.{k}.channel", source.channel, "environmental_yield")
    if installation.supply is not None:
        for field, signed in SUPPLY_CHANNELS.items():
            if (channel := getattr(installation.supply, field)) is not None:
                kinds = ("power", "energy", *([signed] if signed else []))
                check(f"supply.{field}", channel, *kinds)
    mapped = sorted(column.channel for column in installation.columns)
    for one, other in pairwise(mapped):
        if one == other:
            raise DescriptionError(f"columns: two columns are mapped to '{one}'.")


def _check_by_hand(installation: Installation) -> None:
    electric = {meter.name for meter in installation.electricity}
    heat = {meter.name for meter in _heat_meters(installation)}
    names = [series.name for series in installation.by_hand]
    for k, series in enumerate(installation.by_hand):
        if names.count(series.name) > 1:
            raise DescriptionError(f"by_hand.{k}.name: '{series.name}' is used twice.")
        known = {HandKind.ELECTRICITY: electric, HandKind.HEAT: heat}.get(series.kind)
        if known is not None and series.meter not in known:
            raise DescriptionError(
                f"by_hand.{k}.meter: no meter of {series.kind.value} is called '{series.meter}'."
            )


REFRIGERANT_FIELDS = (
    "evaporating_pressure", "condensing_pressure", "discharge_temp", "suction_temp", "superheat",
    "subcooling",
)  # fmt: skip
HeatMeter = WaterCircuit | HeatRegister | AirCircuit | SourceYield | ReportedHeat


def _heat_meters(installation: Installation) -> tuple[HeatMeter, ...]:
    return (
        *installation.circuits,
        *installation.registers,
        *installation.air,
        *installation.yields,
        *installation.reported,
    )


def heat_meters(installation: Installation) -> dict[str, tuple[HeatSource, ...]]:
    """What each meter of heat holds, the one to be used first first: flow × ΔT counts what
    defrosts take back, a register does not; then air, yield, and what is only reported; a
    source that the analyst prefers goes before the one it stands for."""
    held = {
        meter.name: (HeatSource.HEAT_PUMP,) if isinstance(meter, SourceYield) else meter.includes
        for meter in _heat_meters(installation)
    }
    order = list(held)
    for correction in installation.corrections:
        if isinstance(correction, Prefer) and correction.use in held:
            order.remove(correction.use)
            order.insert(order.index(correction.instead_of), correction.use)
    return {name: held[name] for name in order}


def working(installation: Installation) -> frozenset[Consumer]:
    """The consumers that are there and do not surely rest."""
    return frozenset(installation.consumers) - frozenset(installation.idle)


def part_load_is_better(installation: Installation) -> bool:
    """Whether a variable-speed unit is set against a table of one speed: its part load is then
    better by nature."""
    one = installation.rated is None or len(installation.rated.speeds) < 2
    return installation.unit.variable_speed and one


def channels_of(installation: Installation) -> tuple[str, ...]:
    """The channels that the description reads, each once."""
    names = [meter.channel for meter in installation.electricity]
    for circuit in installation.circuits:
        names += [circuit.flow_rate, circuit.flow_temp, circuit.return_temp]
    names += [register.channel for register in installation.registers]
    for air in installation.air:
        names += air.channels
    names += [meter.channel for meter in installation.yields]
    names += [meter.channel for meter in installation.reported]
    if (side := installation.refrigerant) is not None:
        fields = (getattr(side, field) for field in REFRIGERANT_FIELDS)
        names += [channel for channel in fields if channel is not None]
    names.append(installation.outdoor.channel)
    return tuple(dict.fromkeys(names))
