"""What measures: electricity meters, and every way of measuring heat."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

from ember.basis.errors import DescriptionError
from ember.description.house import Name, NotNegative, Positive, Words
from ember.description.logged import Place

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


class Service(StrEnum):
    """What the energy that a meter counts is for. Like is only paired with like."""

    ALL = "all"
    HEATING = "heating"
    HOT_WATER = "hot_water"
    COOLING = "cooling"

    @property
    def words(self) -> str:
        """For people."""
        return self.value.replace("_", " ")


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


Consumers = Annotated[tuple[Consumer, ...], Field(min_length=1, max_length=12)]
Sources = Annotated[tuple[HeatSource, ...], Field(min_length=1, max_length=12)]


@dataclass(frozen=True, config=_strict)
class ElectricityMeter:
    """An electricity meter or power sensor, and the consumers behind it.

    Attributes
    ----------
    resolution_kwh : Positive | None
        last digit of its register [kWh]; None: the smallest step that is read.
    """

    name: Name
    channel: Words
    includes: Consumers
    accuracy: ElectricityAccuracy = ElectricityAccuracy.UNKNOWN
    place: Place = ""
    resolution_kwh: Positive | None = None
    serves: Service = Service.ALL


@dataclass(frozen=True, config=_strict)
class WaterCircuit:
    """Heat from flow × ΔT: a flow sensor and two temperature sensors, logged.

    Attributes
    ----------
    meter_in : Pipe
        the pipe in which the flow sensor sits.
    flow_class : Literal[1, 2, 3] | None
        accuracy class of the flow sensor, EN 1434-1; None: see flow_limit.
    nominal_flow_m3h : Positive
        q_p of that sensor [m3/h].
    flow_limit : Annotated[float, Field(gt=0, le=0.5)]
        error limit of a sensor without class, as a share.
    in_service : bool
        limits doubled, as allowed for a meter that is not newly verified.
    """

    name: Name
    flow_rate: Words = "flow_rate"
    flow_temp: Words = "flow_temp"
    return_temp: Words = "return_temp"
    meter_in: Pipe = Pipe.RETURN
    includes: Sources = (HeatSource.HEAT_PUMP,)
    flow_class: Literal[1, 2, 3] | None = None
    nominal_flow_m3h: Positive = 2.5
    flow_limit: Annotated[float, Field(gt=0, le=0.5)] = 0.05
    probes: Probes = Probes.CLASS_B
    in_service: bool = True
    place: Place = ""
    serves: Service = Service.ALL


@dataclass(frozen=True, config=_strict)
class HeatRegister:
    """The energy register of a heat meter, EN 1434-1.

    Attributes
    ----------
    resolution_kwh : Positive
        the register's step [kWh].
    set_for_water : bool
        the meter's calculator takes what fills the circuit for water.
    circuit : Words | None
        name of the water circuit whose sensors feed the same meter, if they are logged: the two
        then share their errors.
    """

    name: Name
    channel: Words = "heat_energy"
    includes: Sources = (HeatSource.HEAT_PUMP,)
    accuracy_class: Literal[1, 2, 3] = 3
    nominal_flow_m3h: Positive = 2.5
    resolution_kwh: Positive = 1.0
    circuit: Words | None = None
    set_for_water: bool = True
    in_service: bool = True
    place: Place = ""
    serves: Service = Service.ALL


@dataclass(frozen=True, config=_strict)
class OutdoorSensor:
    """limit_k : error limit of the outdoor temperature where it hangs [K]."""

    channel: Words = "outdoor_temp"
    limit_k: Positive = 1.0


class RunsWith(StrEnum):
    """When a consumer that is not metered runs."""

    COMPRESSOR = "compressor"
    PUMP = "pump"  # while the water flows
    ALWAYS = "always"


@dataclass(frozen=True, config=_strict)
class FixedPower:
    """A consumer without a meter, known by its power and when it runs.

    Attributes
    ----------
    watts : Positive
        while it runs [W].
    limit : Annotated[float, Field(gt=0, le=1)]
        of that power, as a share.
    """

    name: Name
    includes: Consumers
    watts: Positive
    runs_with: RunsWith = RunsWith.PUMP
    limit: Annotated[float, Field(gt=0, le=1)] = 0.3
    serves: Service = Service.ALL


@dataclass(frozen=True, config=_strict)
class ReportedHeat:
    """Heat as the unit's own controller reports it: often estimated, not measured.

    No COP is stated from it alone; a transfer factor from a borrowed reference meter allows one.

    Attributes
    ----------
    resolution_kwh : Positive | None
        last digit of its register [kWh]; None: the smallest step that is read.
    """

    name: Name
    channel: Words = "heat_power"
    includes: Sources = (HeatSource.HEAT_PUMP,)
    place: Place = ""
    resolution_kwh: Positive | None = None
    serves: Service = Service.ALL


@dataclass(frozen=True, config=_strict)
class SourceYield:
    """Environmental yield: what the source gave. With the electricity it is at most the heat.

    Attributes
    ----------
    lost : Annotated[float, Field(ge=0, le=0.5)]
        greatest share of the unit's electricity that does not reach the water.
    resolution_kwh : Positive | None
        last digit of its register [kWh]; None: the smallest step that is read.
    """

    name: Name
    channel: Words = "environmental_yield"
    limit: Annotated[float, Field(gt=0, le=0.5)] = 0.10
    lost: Annotated[float, Field(ge=0, le=0.5)] = 0.10
    place: Place = ""
    resolution_kwh: Positive | None = None
    serves: Service = Service.ALL


@dataclass(frozen=True, config=_strict)
class FanPoint:
    """Airflow of an indoor fan at one of its speeds, in whatever the log counts them [m3/h]."""

    speed: NotNegative
    m3h: NotNegative


@dataclass(frozen=True, config=_strict)
class AirCircuit:
    """Heat of an indoor unit from its air: airflow and the air before and after it.

    Attributes
    ----------
    airflow : Words | None
        channel
    fan_speed : Words | None
        channel with the speeds of `fan`, by which it is known; neither: nominal_m3h all the time
        the compressor runs.
    airflow_limit : Annotated[float, Field(gt=0, le=0.5)]
        error limit of the airflow, as a share; nominal ones are worth ±15–20 %.
    airflow_in : Literal['return', 'supply']
        the duct in which the airflow is measured, whose air sets the density.
    standard : bool
        it is given as standard volume, of dry air at 20 °C and 101.325 kPa.
    supply_humidity, return_humidity : Words | None
        channels, which cooling needs.
    """

    name: Name
    supply_temp: Words = "supply_air_temp"
    return_temp: Words = "return_air_temp"
    airflow: Words | None = None
    fan_speed: Words | None = None
    fan: Annotated[tuple[FanPoint, ...], Field(max_length=12)] = ()
    nominal_m3h: Positive | None = None
    airflow_limit: Annotated[float, Field(gt=0, le=0.5)] = 0.20
    airflow_in: Literal["return", "supply"] = "return"
    standard: bool = False
    supply_humidity: Words | None = None
    return_humidity: Words | None = None
    includes: Sources = (HeatSource.HEAT_PUMP,)
    probe_limit_k: Positive = 0.5
    altitude_m: Annotated[float, Field(ge=-400, le=5000)] = 0.0
    place: Place = ""

    def __post_init__(self) -> None:
        if self.fan_speed is not None and len({p.speed for p in self.fan}) < 2:
            raise DescriptionError("fan: give the airflow at two speeds of the fan or more.")
        if self.airflow is None and self.fan_speed is None and self.nominal_m3h is None:
            raise DescriptionError("nominal_m3h: give the airflow, or the channel that has it.")

    @property
    def channels(self) -> tuple[str, ...]:
        """The channels that it reads."""
        optional = (self.airflow, self.fan_speed, self.supply_humidity, self.return_humidity)
        return self.supply_temp, self.return_temp, *(c for c in optional if c is not None)


class Refrigerant(StrEnum):
    """What circulates in the unit."""

    R290 = "R290"
    R32 = "R32"
    R410A = "R410A"
    R134A = "R134a"
    R407C = "R407C"


@dataclass(frozen=True, config=_strict)
class RefrigerantSide:
    """Heat by the refrigerant's enthalpies and the unit's electricity: an independent estimate,
    shown beside the others. No COP rests on it, since it says nothing of defrosts and starts.

    Attributes
    ----------
    subcooling : Words | None
        channel, or subcooling_k [K] where it is not logged.
    superheat : Words | None
        channel instead of suction_temp.
    reaches, limit : Annotated[float, Field(gt=0.5, le=1)]
        share of the unit's electricity that reaches the refrigerant, and its error limit (shell,
        inverter and fan take the rest; common practice).
    """

    refrigerant: Refrigerant
    name: Name = "refrigerant side"
    evaporating_pressure: Words = "evaporating_pressure"
    condensing_pressure: Words = "condensing_pressure"
    discharge_temp: Words = "discharge_temp"
    suction_temp: Words | None = "suction_temp"
    superheat: Words | None = None
    subcooling: Words | None = None
    subcooling_k: Annotated[float, Field(ge=0, le=30)] = 4.0
    reaches: Annotated[float, Field(gt=0.5, le=1)] = 0.90
    limit: Annotated[float, Field(gt=0, le=0.3)] = 0.07
