"""Remedies: what an analyst may do about ill metering. Each is accepted by her, listed, and undone
by taking it off the list."""

from datetime import datetime, time
from typing import Annotated, Literal

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

from ember.basis.errors import DescriptionError
from ember.description.house import Name, NotNegative, Number, Positive, Words
from ember.description.meters import Consumer, HeatSource

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)
Reason = Annotated[str, Field(min_length=1, max_length=200)]


def _in_order(start: datetime | None, end: datetime | None) -> None:
    if start is not None and end is not None and end <= start:
        raise DescriptionError("end: it does not lie after the start.")


@dataclass(frozen=True, config=_strict)
class Exclusion:
    """Leave a stretch out, local time."""

    start: datetime
    end: datetime
    reason: Reason
    kind: Literal["exclude"] = "exclude"

    def __post_init__(self) -> None:
        _in_order(self.start, self.end)


@dataclass(frozen=True, config=_strict)
class Rule:
    """Leave out every cell to which all that is given applies.

    Attributes
    ----------
    channel : Words | None
        what is looked at, with below, above [unit of the channel] or jump, by which it stands out
        from the readings before and after.
    from_time, to_time : time | None
        of the day, local, may cross midnight.
    start, end : datetime | None
        between which the rule holds, local.
    """

    reason: Reason
    channel: Words | None = None
    below: Number | None = None
    above: Number | None = None
    jump: Positive | None = None
    from_time: time | None = None
    to_time: time | None = None
    start: datetime | None = None
    end: datetime | None = None
    kind: Literal["rule"] = "rule"

    def __post_init__(self) -> None:
        _in_order(self.start, self.end)
        limits = (self.below, self.above, self.jump)
        if (self.channel is None) != all(limit is None for limit in limits):
            raise DescriptionError("channel: a rule on readings needs a channel and a limit.")
        if (self.from_time is None) != (self.to_time is None):
            raise DescriptionError("from_time, to_time: give both or neither.")
        if self.channel is None and self.from_time is None:
            raise DescriptionError("channel: say by which readings or at which hours.")


@dataclass(frozen=True, config=_strict)
class Swap:
    """Two channels were connected crosswise, the whole time or between two local times."""

    channels: tuple[Words, Words]
    reason: Reason
    start: datetime | None = None
    end: datetime | None = None
    kind: Literal["swap"] = "swap"

    def __post_init__(self) -> None:
        _in_order(self.start, self.end)


@dataclass(frozen=True, config=_strict)
class Offset:
    """Add something to a channel. add, U (k = 2) : in the unit of the channel."""

    channel: Words
    add: Number
    U: NotNegative
    reason: Reason
    start: datetime | None = None
    end: datetime | None = None
    kind: Literal["offset"] = "offset"

    def __post_init__(self) -> None:
        _in_order(self.start, self.end)


@dataclass(frozen=True, config=_strict)
class Factor:
    """Multiply a channel: a wrong unit, pulse value, phase or fluid. U (k = 2) : as a share."""

    channel: Words
    factor: Positive
    reason: Reason
    U: NotNegative = 0.0
    start: datetime | None = None
    end: datetime | None = None
    kind: Literal["factor"] = "factor"

    def __post_init__(self) -> None:
        _in_order(self.start, self.end)


@dataclass(frozen=True, config=_strict)
class ClockShift:
    """The clock of some channels was wrong: move them later by so many seconds.

    Attributes
    ----------
    drift : Annotated[float, Field(ge=-3600, le=3600)]
        by which that grows from the beginning of the record on [s a day].
    """

    channels: Annotated[tuple[Words, ...], Field(min_length=1, max_length=50)]
    seconds: Annotated[int, Field(ge=-172800, le=172800)]
    reason: Reason
    drift: Annotated[float, Field(ge=-3600, le=3600)] = 0.0
    kind: Literal["clock_shift"] = "clock_shift"


@dataclass(frozen=True, config=_strict)
class Prefer:
    """Use one source instead of another: two channels, or two meters of heat by their names."""

    use: Name
    instead_of: Name
    reason: Reason
    kind: Literal["prefer"] = "prefer"


@dataclass(frozen=True, config=_strict)
class Loads:
    """A meter holds other consumers, or other heat, than was described."""

    meter: Name
    includes: Annotated[tuple[Consumer | HeatSource, ...], Field(min_length=1, max_length=24)]
    reason: Reason
    kind: Literal["loads"] = "loads"


@dataclass(frozen=True, config=_strict)
class AddElectricity:
    """A meter of heat holds the yield of the source alone: the unit's electricity is added."""

    meter: Name
    reason: Reason
    lost: Annotated[float, Field(ge=0, le=0.5)] = 0.10
    kind: Literal["add_electricity"] = "add_electricity"


@dataclass(frozen=True, config=_strict)
class Transfer:
    """A factor from a borrowed reference meter, for heat that the controller reports.

    Attributes
    ----------
    factor : Positive
        reference ÷ reported. U (k = 2) : as a share.
    low, high : Number
        mean outdoor temperature of the days it was taken on [degC].
    until : datetime
        local time after which it holds no more.
    """

    meter: Name
    factor: Positive
    U: Positive
    low: Number
    high: Number
    until: datetime
    reason: Reason
    kind: Literal["transfer"] = "transfer"

    def __post_init__(self) -> None:
        if self.high <= self.low:
            raise DescriptionError("high: it does not lie above low.")


StateName = Literal[
    "off", "standby", "start_up", "heating", "hot_water", "defrost", "cooling", "backup_only",
    "pump_overrun",
]  # fmt: skip


@dataclass(frozen=True, config=_strict)
class StateIs:
    """The unit did something else in a stretch than was logged or inferred, local time."""

    start: datetime
    end: datetime
    state: StateName
    reason: Reason
    kind: Literal["state"] = "state"

    def __post_init__(self) -> None:
        _in_order(self.start, self.end)


REMEDIES_CORRECTIONS = (
    Exclusion, Rule, Swap, Offset, Factor, ClockShift, Prefer, Loads, AddElectricity, Transfer,
    StateIs,
)  # fmt: skip
Correction = Annotated[
    Exclusion
    | Rule
    | Swap
    | Offset
    | Factor
    | ClockShift
    | Prefer
    | Loads
    | AddElectricity
    | Transfer
    | StateIs,
    Field(discriminator="kind"),
]
