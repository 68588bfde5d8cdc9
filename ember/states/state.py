"""What a unit does, and how that is known."""

from dataclasses import dataclass
from enum import IntEnum, StrEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ember.basis.codes import KnownBy
from ember.basis.series import Bools, Span


class State(IntEnum):
    """What the unit does. Codes are stable; `words` is for people."""

    UNKNOWN = 0
    OFF = 1
    STANDBY = 2
    START_UP = 3
    HEATING = 4
    HOT_WATER = 5
    DEFROST = 6
    COOLING = 7
    BACKUP_ONLY = 8
    PUMP_OVERRUN = 9
    RUNNING = 10

    @property
    def words(self) -> str:
        """The state as the trade calls it."""
        if self == State.RUNNING:
            return "running, mode not known"
        return self.name.lower().replace("_", " ").replace("start up", "start-up")


def is_on(code: NDArray[np.int8]) -> Bools:
    """Where the compressor runs, by the code of each cell or segment, (n,)."""
    mask: Bools = ((code >= State.START_UP) & (code <= State.COOLING)) | (code == State.RUNNING)
    return mask


class Basis(StrEnum):
    """How an event is known."""

    FLAG = "flag"
    INFERRED = "inferred"
    NOT_KNOWN = "not known"


@dataclass(frozen=True)
class Known:
    """How a state or event is known.

    Attributes
    ----------
    by : KnownBy
        from what
    words : str
        in words.
    """

    by: KnownBy
    words: str

    def __str__(self) -> str:
        return self.words


@dataclass(frozen=True)
class Running:
    """The unit over a trace.

    Attributes
    ----------
    state : NDArray[np.int8]
        array, (n,) of int8 Code of a State in each cell.
    recovery : Bools
        array, (n,) True shortly after a defrost, while the state is heating again.
    runs : tuple[Span, ...]
        compressor on → off.
    defrosts : tuple[Span, ...]
        each defrost.
    defrosts_by : Basis
        how they are known.
    basis : dict[str, Known]
        state or event → how it is known ("flag defrost_on", "inferred: …").
    notes : tuple[str, ...]
        what could not be told.
    """

    state: NDArray[np.int8]
    recovery: Bools
    runs: tuple[Span, ...]
    defrosts: tuple[Span, ...]
    defrosts_by: Basis
    basis: dict[str, Known]
    notes: tuple[str, ...]

    @cached_property
    def on(self) -> Bools:
        """Where the compressor runs, (n,)."""
        return is_on(self.state)
