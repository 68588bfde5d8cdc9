"""What is logged of an installation beside its meters: columns of files, further sensors, the sheet
of readings by hand."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

from ember.basis.channels import Kind, quantity_of
from ember.basis.errors import DescriptionError
from ember.basis.quantity import compatible_units, unit_named
from ember.description.house import Name, Positive, Words

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)
ModeState = Literal["off", "heating", "hot_water", "defrost", "cooling"]
Place = Annotated[str, Field(max_length=80)]


@dataclass(frozen=True, config=_strict)
class Sensor:
    """Another sensor that is logged: room, tank, refrigerant.

    Attributes
    ----------
    limit_k : Positive | None
        its error limit, in the unit of its channel.
    probe : Literal['AA', 'A', 'B'] | None
        of a temperature, its class of IEC 60751, from which the limit follows where none is given.
    """

    channel: Words
    limit_k: Positive | None = None
    place: Place = ""
    probe: Literal["AA", "A", "B"] | None = None

    def __post_init__(self) -> None:
        if quantity_of(self.channel).kind == Kind.COUNTER:
            raise DescriptionError(f"channel: '{self.channel}' is a register; describe its meter.")
        if self.probe is not None and quantity_of(self.channel).unit != "degC":
            raise DescriptionError(f"probe: '{self.channel}' is no temperature.")


@dataclass(frozen=True, config=_strict)
class Column:
    """A column of the log: its header, its channel, and its unit if the header does not say.

    Attributes
    ----------
    counts : Positive | None
        where the column counts pulses, what one pulse is worth, in `unit`.
    each_row : bool
        the column has the amount since the row before instead of a register.
    modes : Annotated[tuple[tuple[Words, ModeState], ...], Field(max_length=100)]
        of a column of modes, each word or code with the state that it means.
    """

    header: Annotated[str, Field(max_length=1000)]
    channel: Words
    unit: Words | None = None
    counts: Positive | None = None
    each_row: bool = False
    modes: Annotated[tuple[tuple[Words, ModeState], ...], Field(max_length=100)] = ()

    def __post_init__(self) -> None:
        if bool(self.modes) != (quantity_of(self.channel).kind == Kind.WORDS):
            raise DescriptionError("modes: say of a column of modes which state each word is.")
        counter = quantity_of(self.channel).kind == Kind.COUNTER
        if self.unit is not None and unit_named(self.unit) is None:
            raise DescriptionError(f"the unit '{self.unit}' is not known")
        if (self.counts or self.each_row) and not counter:
            raise DescriptionError(f"counts, each_row: '{self.channel}' is no register.")
        if self.counts and self.unit is None:
            raise DescriptionError("counts: say in `unit` what one pulse is worth.")


class Keeps(StrEnum):
    """What a display keeps: a register, or a total that falls back to zero by design."""

    REGISTER = "register"
    DAY = "day"
    MONTH = "month"
    YEAR = "year"


class HandKind(StrEnum):
    """What a series read by hand is of."""

    ELECTRICITY = "electricity"
    HEAT = "heat"
    ENVIRONMENTAL_YIELD = "environmental_yield"  # source energy: never heat
    OTHER = "other"  # a temperature, a pressure, a speed

    @property
    def words(self) -> str:
        """For people."""
        return self.value.replace("_", " ")


@dataclass(frozen=True, config=_strict)
class HandSeries:
    """A column of the sheet of readings by hand.

    Attributes
    ----------
    meter : Name | None
        of electricity and heat, the described meter whose register or total it is; several series
        of one meter (two rates) are added.
    channel : Words | None
        of another quantity, what it is.
    unit : Words
        in which it is written down.
    resolution : Positive
        the display's last digit, in `unit`.
    digits : Annotated[int, Field(ge=3, le=12)] | None
        before the point, where the register rolls over.
    """

    name: Name
    kind: HandKind
    unit: Words
    meter: Name | None = None
    channel: Words | None = None
    keeps: Keeps = Keeps.REGISTER
    resolution: Positive = 1.0
    digits: Annotated[int, Field(ge=3, le=12)] | None = None

    def __post_init__(self) -> None:
        named = unit_named(self.unit)
        if named is None:
            raise DescriptionError(f"unit: '{self.unit}' is not known")
        if self.kind == HandKind.OTHER:
            if self.channel is None:
                raise DescriptionError("channel: say what is read.")
            held = quantity_of(self.channel)
            if held.kind == Kind.COUNTER:
                raise DescriptionError(f"channel: '{self.channel}' is a register; name its meter.")
            target = held.unit
        else:
            target = "joule"
            if self.meter is None and self.kind != HandKind.ENVIRONMENTAL_YIELD:
                raise DescriptionError("meter: say which described meter it is of.")
        if named not in compatible_units(target):
            raise DescriptionError(f"unit: {self.unit} does not fit {self.kind.words}.")
