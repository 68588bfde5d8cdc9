"""What the analyst describes: unit, circuit, meters and what each includes, tariff, rated table.

Its documented JSON form (docs/formats.md, ember.description) is these types, field by field.
"""

from datetime import datetime, time
from enum import StrEnum
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator
from pydantic.dataclasses import dataclass

from ember.channels import quantity_of
from ember.clock import zone_named
from ember.errors import DescriptionError
from ember.house import House, Name, NotNegative, Positive, Replaced, Tank, Temp
from ember.logged import Column, HandKind, HandSeries, Place, Sensor
from ember.media import Fluid

FORMAT = "honest-ember/installation"
FORMAT_VERSION = 1

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)


class Consumer(StrEnum):
    """What uses electricity."""

    COMPRESSOR = "compressor"
    SOURCE = "source"  # outdoor fan, or brine or well pump
    CONTROLS = "controls"  # electronics, crankcase and base-pan heaters
    BACKUP_HEATER = "backup_heater"
    IMMERSION_HEATER = "immersion_heater"
    DISTRIBUTION_PUMP = "distribution_pump"


HEATERS = frozenset({Consumer.BACKUP_HEATER, Consumer.IMMERSION_HEATER})


class HeatSource(StrEnum):
    """What gives heat to the water."""

    HEAT_PUMP = "heat_pump"
    BACKUP_HEATER = "backup_heater"
    IMMERSION_HEATER = "immersion_heater"


class ElectricityAccuracy(StrEnum):
    """How well electricity is measured: MID class, or the kind of meter."""

    CLASS_A = "A"
    CLASS_B = "B"
    CLASS_C = "C"
    PLUG = "plug"
    CLAMP = "clamp"
    UNKNOWN = "unknown"


class Probes(StrEnum):
    """The temperature sensors: a heat meter's matched pair, or two probes of IEC 60751."""

    HEAT_METER_PAIR = "heat_meter_pair"
    CLASS_AA = "AA"
    CLASS_A = "A"
    CLASS_B = "B"


class Pipe(StrEnum):
    """Where a sensor sits."""

    FLOW = "flow"
    RETURN = "return"


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

    capacity_kw : nominal heat output [kW]; minimum_output_kw : the least it can run at [kW].
    low_outdoor_limit : below it the unit stops [degC]; highest_flow : it can reach [degC].
    heads : indoor units, of a multi-head one.
    """

    kind: UnitKind = UnitKind.AIR_TO_WATER
    capacity_kw: Positive | None = None
    minimum_output_kw: Positive | None = None
    low_outdoor_limit: Temp | None = None
    highest_flow: Temp | None = None
    variable_speed: bool = True
    heads: Annotated[int, Field(ge=1, le=30)] | None = None


@dataclass(frozen=True, config=_strict)
class Location:
    """Where it stands, as near as the weather needs [degrees, north and east]."""

    latitude: Annotated[float, Field(ge=-90, le=90)]
    longitude: Annotated[float, Field(ge=-180, le=180)]


@dataclass(frozen=True, config=_strict)
class ElectricityMeter:
    """An electricity meter or power sensor, and the consumers behind it."""

    name: Name
    channel: str
    includes: Annotated[tuple[Consumer, ...], Field(min_length=1)]
    accuracy: ElectricityAccuracy = ElectricityAccuracy.UNKNOWN
    place: Place = ""


@dataclass(frozen=True, config=_strict)
class WaterCircuit:
    """Heat from flow × ΔT: a flow sensor and two temperature sensors, logged.

    meter_in : the pipe in which the flow sensor sits.
    flow_class : accuracy class of the flow sensor, EN 1434-1; None: see flow_limit.
    nominal_flow_m3h : q_p of that sensor [m3/h].
    flow_limit : error limit of a sensor without class, as a share.
    in_service : limits doubled, as allowed for a meter that is not newly verified.
    """

    name: Name
    flow_rate: str = "flow_rate"
    flow_temp: str = "flow_temp"
    return_temp: str = "return_temp"
    meter_in: Pipe = Pipe.RETURN
    includes: Annotated[tuple[HeatSource, ...], Field(min_length=1)] = (HeatSource.HEAT_PUMP,)
    flow_class: Literal[1, 2, 3] | None = None
    nominal_flow_m3h: Positive = 2.5
    flow_limit: Annotated[float, Field(gt=0, le=0.5)] = 0.05
    probes: Probes = Probes.CLASS_B
    in_service: bool = True
    place: Place = ""


@dataclass(frozen=True, config=_strict)
class HeatRegister:
    """The energy register of a heat meter, EN 1434-1.

    resolution_kwh : the register's step [kWh].
    circuit : name of the water circuit whose sensors feed the same meter, if they are logged:
        the two then share their errors.
    """

    name: Name
    channel: str = "heat_energy"
    includes: Annotated[tuple[HeatSource, ...], Field(min_length=1)] = (HeatSource.HEAT_PUMP,)
    accuracy_class: Literal[1, 2, 3] = 3
    nominal_flow_m3h: Positive = 2.5
    resolution_kwh: Positive = 1.0
    circuit: str | None = None
    in_service: bool = True
    place: Place = ""


@dataclass(frozen=True, config=_strict)
class OutdoorSensor:
    """limit_k : error limit of the outdoor temperature where it hangs [K]."""

    channel: str = "outdoor_temp"
    limit_k: Positive = 1.0


@dataclass(frozen=True, config=_strict)
class Band:
    """A price by time of day, local time; a window may cross midnight.

    price : currency per kWh. start, end : wall clock, half-open; end ≤ start crosses midnight.
    weekdays : days on which the window *begins*, 0 = Monday.
    """

    name: Name
    price: float
    start: time
    end: time
    weekdays: tuple[Annotated[int, Field(ge=0, le=6)], ...] = (0, 1, 2, 3, 4, 5, 6)


@dataclass(frozen=True, config=_strict)
class Tariff:
    """price : of every hour that no band names, per kWh. standing_charge : per day."""

    price: float
    currency: Name = "EUR"
    name: Name = "day"
    standing_charge: NotNegative = 0.0
    bands: tuple[Band, ...] = ()


@dataclass(frozen=True, config=_strict)
class RatedPoint:
    """One cell of the maker's table: outdoor and flow temperature [degC], heat output [kW]."""

    outdoor: float
    flow: float
    capacity_kw: Positive
    cop: Annotated[float, Field(gt=0.5, lt=15)]


@dataclass(frozen=True, config=_strict)
class RatedTable:
    """The maker's table, one speed level: outdoor × flow temperature.

    includes_defrost : the values in the frost band have the defrosts in them ("integrated").
    tolerance : of the table itself, as a share.
    """

    points: Annotated[tuple[RatedPoint, ...], Field(min_length=4)]
    includes_defrost: bool = True
    tolerance: Annotated[float, Field(ge=0, lt=0.3)] = 0.03


@dataclass(frozen=True, config=_strict)
class Exclusion:
    """A correction that the analyst has accepted: leave a stretch out, local time."""

    start: datetime
    end: datetime
    reason: Name
    kind: Literal["exclude"] = "exclude"


@dataclass(frozen=True, config=_strict)
class Swap:
    """A correction that the analyst has accepted: two channels were connected crosswise."""

    channels: tuple[str, str]
    reason: Name
    kind: Literal["swap"] = "swap"


Correction = Annotated[Exclusion | Swap, Field(discriminator="kind")]


@dataclass(frozen=True, config=_strict)
class Thresholds:
    """Limits of the verdict; the analyst's to change. Defaults: common practice."""

    below_rated: Positive = 0.90
    wide_limits: Positive = 0.80  # "as rated" is said plainly only where PR − U reaches this
    too_good: Positive = 1.15
    too_good_part_load: Positive = 1.30  # one-speed table of a variable-speed unit


@dataclass(frozen=True, config=_strict)
class Installation:
    """One installed heat pump with its metering. zone : IANA name of its local time."""

    name: Name
    zone: str
    electricity: Annotated[tuple[ElectricityMeter, ...], Field(min_length=1)]
    circuits: tuple[WaterCircuit, ...] = ()
    registers: tuple[HeatRegister, ...] = ()
    consumers: tuple[Consumer, ...] = (Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS)
    unit: HeatPump = HeatPump()
    fluid: Fluid = Fluid()
    outdoor: OutdoorSensor = OutdoorSensor()
    tariff: Tariff | None = None
    rated: RatedTable | None = None
    thresholds: Thresholds = Thresholds()
    corrections: tuple[Correction, ...] = ()
    property: Name | None = None  # units with the same one are compared side by side
    location: Location | None = None
    house: House = House()
    tank: Tank | None = None
    replaced: Replaced | None = None
    sensors: tuple[Sensor, ...] = ()
    by_hand: tuple[HandSeries, ...] = ()
    columns: tuple[Column, ...] = ()
    time_column: str | None = None
    log_zone: str | None = None  # clock of the log where it is naive; None: local time
    format: Literal["honest-ember/installation"] = "honest-ember/installation"
    version: Literal[1] = 1

    @model_validator(mode="after")
    def _consistent(self) -> "Installation":
        zone_named(self.zone)
        if self.log_zone is not None:
            zone_named(self.log_zone)
        _check_names(self)
        _check_channels(self)
        _check_by_hand(self)
        for k, meter in enumerate(self.electricity):
            for consumer in meter.includes:
                if consumer not in self.consumers:
                    raise DescriptionError(
                        f"electricity.{k}.includes: '{consumer}' is not among `consumers`, "
                        "the list of what there is."
                    )
        return self


def _check_names(installation: Installation) -> None:
    names = [meter.name for meter in installation.electricity]
    names += [circuit.name for circuit in installation.circuits]
    names += [register.name for register in installation.registers]
    for name in names:
        if names.count(name) > 1:
            raise DescriptionError(f"the name '{name}' is used twice; each meter needs its own.")
    circuits = {circuit.name for circuit in installation.circuits}
    for k, register in enumerate(installation.registers):
        if register.circuit is not None and register.circuit not in circuits:
            raise DescriptionError(f"registers.{k}.circuit: there is no '{register.circuit}'.")
    for k, correction in enumerate(installation.corrections):
        if isinstance(correction, Exclusion) and correction.end <= correction.start:
            raise DescriptionError(f"corrections.{k}.end: it does not lie after the start.")


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
    mapped = sorted(column.channel for column in installation.columns)
    for one, other in pairwise(mapped):
        if one == other:
            raise DescriptionError(f"columns: two columns are mapped to '{one}'.")


def _check_by_hand(installation: Installation) -> None:
    electric = {meter.name for meter in installation.electricity}
    heat = {circuit.name for circuit in installation.circuits}
    heat |= {register.name for register in installation.registers}
    names = [series.name for series in installation.by_hand]
    for k, series in enumerate(installation.by_hand):
        if names.count(series.name) > 1:
            raise DescriptionError(f"by_hand.{k}.name: '{series.name}' is used twice.")
        known = {HandKind.ELECTRICITY: electric, HandKind.HEAT: heat}.get(series.kind)
        if known is not None and series.meter not in known:
            raise DescriptionError(
                f"by_hand.{k}.meter: no meter of {series.kind.value} is called '{series.meter}'."
            )


def channels_of(installation: Installation) -> tuple[str, ...]:
    """The channels that the description reads, each once."""
    names = [meter.channel for meter in installation.electricity]
    for circuit in installation.circuits:
        names += [circuit.flow_rate, circuit.flow_temp, circuit.return_temp]
    names += [register.channel for register in installation.registers]
    names.append(installation.outdoor.channel)
    return tuple(dict.fromkeys(names))
