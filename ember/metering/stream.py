"""Streams: the energy that each meter says passed in each cell, and how its errors act."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

from ember.installation import Installation
from ember.metering.electricity import electricity_limit
from ember.metering.heat import circuit_heat, register_shares
from ember.metering.register import increments
from ember.metering.term import Term
from ember.quantity import rectangular
from ember.trace import Floats, Span, Trace

__all__ = ["Stream", "Streams", "Term", "meter"]


REGISTER_WAY = "heat meter, energy register (does not run backwards in defrosts)"


@dataclass(frozen=True)
class Stream:
    """Energy through one meter.

    energy : array, (n,)  Energy of each cell [J]; NaN where unknown. A slow register has its
        increment in the last cell before the reading and zero before that.
    terms : how the meter's systematic errors act on a sum of cells.
    native : interval of its readings [s]
    step_energy : step of a register [J]; 0 for a sampled rate.
    holes : stretches without readings whose energy a register knows as a whole.
    way : how it was measured, in words. holds : the consumers or heat sources in it, in words.
    """

    name: str
    way: str
    holds: str
    energy: Floats
    terms: tuple[Term, ...]
    native: float
    step_energy: float
    holes: tuple[Span, ...]

    @property
    def sampled(self) -> bool:
        """Whether a rate was sampled, as opposed to a register read."""
        return self.step_energy == 0


@dataclass(frozen=True)
class Streams:
    """All meters of an installation on the grid of its trace, by name of the meter."""

    electricity: dict[str, Stream]
    heat: dict[str, Stream]
    missing: dict[str, str]  # meter → why it says nothing


def meter(installation: Installation, trace: Trace) -> Streams:
    """What each meter of the description says over a trace."""
    electricity: dict[str, Stream] = {}
    heat: dict[str, Stream] = {}
    missing: dict[str, str] = {}
    for em in installation.electricity:
        if em.channel not in trace:
            missing[em.name] = f"no readings of {em.channel}"
            continue
        limit, basis = electricity_limit(em.accuracy)
        source = f"{em.name}: {basis}"
        if em.channel.startswith("energy"):
            stream = _from_register(em.name, "electricity register", em.channel, trace)
        else:
            energy = trace[em.channel] * float(trace.step)
            native = trace.native_of(em.channel)
            stream = Stream(em.name, "power, sampled", "", energy, (), native, 0.0, ())
        term = Term(source, ((rectangular(limit), stream.energy),))
        electricity[em.name] = replace(stream, terms=(term,), holds=_words(em.includes))
    for circuit in installation.circuits:
        absent = [
            c for c in (circuit.flow_rate, circuit.flow_temp, circuit.return_temp) if c not in trace
        ]
        if absent:
            missing[circuit.name] = f"no readings of {', '.join(absent)}"
            continue
        energy, terms = circuit_heat(circuit, installation.fluid, trace)
        native = max(
            trace.native_of(c) for c in (circuit.flow_rate, circuit.flow_temp, circuit.return_temp)
        )
        way = "flow × ΔT, " + ("heat meter" if circuit.probes == "heat_meter_pair" else "probes")
        held = _words(circuit.includes)
        heat[circuit.name] = Stream(circuit.name, way, held, energy, terms, native, 0.0, ())
    for register in installation.registers:
        if register.channel not in trace:
            missing[register.name] = f"no readings of {register.channel}"
            continue
        stream = _from_register(
            register.name, REGISTER_WAY, register.channel, trace,
            register.resolution_kwh * 3.6e6,
        )  # fmt: skip
        twin = heat.get(register.circuit or "")
        shares = register_shares(
            register, twin.terms if twin else (), twin.energy if twin else None
        )
        terms = tuple(Term(source, ((share, stream.energy),)) for source, share in shares)
        heat[register.name] = replace(stream, terms=terms, holds=_words(register.includes))
    return Streams(electricity, heat, missing)


def _from_register(
    name: str, way: str, channel: str, trace: Trace, step_energy: float | None = None
) -> Stream:
    native = trace.native_of(channel)
    energy, holes, smallest = increments(trace[channel], trace.step, native)
    return Stream(name, way, "", energy, (), native, step_energy or smallest, holes)


def _words(parts: Iterable[StrEnum]) -> str:
    return ", ".join(part.value.replace("_", " ") for part in parts)
