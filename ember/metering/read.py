"""What each meter of the description says over a trace."""

from collections.abc import Iterable
from dataclasses import replace
from enum import StrEnum
from math import sqrt
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import zone_named
from ember.basis.codes import ReasonCode
from ember.basis.quantity import K_FACTOR, rectangular
from ember.basis.series import FAR_APART, Floats, Span, Trace
from ember.corrections import span_of
from ember.description.installation import (
    AddElectricity,
    AirCircuit,
    Consumer,
    ElectricityMeter,
    Factor,
    HeatRegister,
    Installation,
    Offset,
    ReportedHeat,
    Transfer,
    WaterCircuit,
)
from ember.messages import because
from ember.metering.air import air_energy, airflow_of
from ember.metering.electricity import electricity_limit
from ember.metering.heat import USUAL_DELTA, Trim, circuit_heat, mean_delta, register_shares
from ember.metering.on import on_limit
from ember.metering.register import increments, shared_out
from ember.metering.stream import Stream, Streams
from ember.metering.term import Term

REGISTER_WAY = "heat meter, energy register (does not run backwards in defrosts)"
NET_WAY = "heat meter, energy register (net of what defrosts take back)"
UNEVEN = 0.7  # by which its power may rise or fall from one reading to the next, common practice
REPORTED_LIMIT = 0.2  # of heat that a controller only estimates, common practice


def meter(installation: Installation, trace: Trace) -> Streams:
    """What each meter of the description says over a trace whose corrections are made."""
    zone = zone_named(installation.zone)
    streams = Streams({}, {}, {}, {})
    for em in installation.electricity:
        if em.channel not in trace:
            streams.missing[em.name] = because(ReasonCode.NO_READINGS, what=em.channel)
            continue
        limit, basis = electricity_limit(em.accuracy)
        stream = _electric(em, trace)
        term = Term(f"{em.name}: {basis}", ((rectangular(limit), stream.energy),))
        further = _corrected_terms(installation, trace, zone, em.name, em.channel, stream.energy)
        streams.electricity[em.name] = replace(
            stream, terms=(term, *stream.terms, *further), holds=_words(em.includes)
        )
    for circuit in installation.circuits:
        _read_circuit(installation, circuit, trace, zone, streams)
    for register in installation.registers:
        _read_register(installation, register, trace, zone, streams)
    for air in installation.air:
        channels = (air.supply_temp, air.return_temp)
        if absent := [c for c in channels if c not in trace]:
            streams.missing[air.name] = because(ReasonCode.NO_READINGS, what=", ".join(absent))
            continue
        if air.nominal_m3h is None and airflow_of(air, trace) is None:
            streams.missing[air.name] = because(
                ReasonCode.NO_READINGS, what=air.airflow or air.fan_speed
            )
            continue
        energy, terms = air_energy(air, trace, _on(installation, streams, trace.step))
        native = max(trace.native_of(c) for c in channels)
        way = f"air side, {_airflow_by(air, trace)}"
        held = _words(air.includes)
        streams.heat[air.name] = Stream(air.name, way, held, energy, terms, native, 0.0, ())
    for source in installation.yields:
        if source.channel not in trace:
            streams.missing[source.name] = because(ReasonCode.NO_READINGS, what=source.channel)
            continue
        step = joules(source.resolution_kwh)
        stream = _from_register(source.name, "source yield", source.channel, trace, step)
        term = Term(f"{source.name}: yield", ((rectangular(source.limit), stream.energy),))
        stream = replace(stream, terms=(term, *stream.terms), holds="heat pump")
        _keep(streams, with_electricity(installation, stream, streams, source.lost), source.name)
    for reported in installation.reported:
        _read_reported(installation, reported, trace, streams)
    for correction in installation.corrections:
        if isinstance(correction, AddElectricity) and correction.meter in streams.heat:
            stream = streams.heat.pop(correction.meter)
            added = with_electricity(installation, stream, streams, correction.lost)
            _keep(streams, added, correction.meter)
    return streams


def _keep(streams: Streams, stream: Stream | None, name: str) -> None:
    if stream is None:
        streams.missing[name] = because(ReasonCode.YIELD_ALONE)
    else:
        streams.heat[name] = stream


def _electric(em: ElectricityMeter, trace: Trace) -> Stream:
    if em.channel.startswith("energy"):
        step = joules(em.resolution_kwh)
        return _from_register(em.name, "electricity register", em.channel, trace, step)
    energy = trace[em.channel] * float(trace.step)
    native = trace.native_of(em.channel)
    return Stream(em.name, "power, sampled", "", energy, (), native, 0.0, ())


def _read_circuit(
    installation: Installation,
    circuit: WaterCircuit,
    trace: Trace,
    zone: ZoneInfo,
    streams: Streams,
) -> None:
    channels = (circuit.flow_rate, circuit.flow_temp, circuit.return_temp)
    if absent := [c for c in channels if c not in trace]:
        streams.missing[circuit.name] = because(ReasonCode.NO_READINGS, what=", ".join(absent))
        return
    trim = _trim(installation, circuit, trace, zone)
    energy, terms, rounding = circuit_heat(circuit, installation.fluid, trace, trim)
    further = _corrected_terms(installation, trace, zone, circuit.name, circuit.flow_rate, energy)
    way = "flow × ΔT, " + ("heat meter" if circuit.probes == "heat_meter_pair" else "probes")
    native = max(trace.native_of(c) for c in channels)
    streams.heat[circuit.name] = Stream(
        circuit.name, way, _words(circuit.includes), energy, (*terms, *further), native, 0.0, (),
        rounding,
    )  # fmt: skip


def _trim(
    installation: Installation, circuit: WaterCircuit, trace: Trace, zone: ZoneInfo
) -> Trim | None:
    """What the accepted offsets of a pair leave in doubt."""
    mine = [
        c
        for c in installation.corrections
        if isinstance(c, Offset) and c.channel in (circuit.flow_temp, circuit.return_temp)
    ]
    if not mine:
        return None
    spans = [span_of(c, trace, zone) for c in mine]
    first = max(s.start for s in spans)
    span = Span(first, max(first, min(s.stop for s in spans)))
    return Trim(sqrt(sum((c.U / K_FACTOR) ** 2 for c in mine)), span)


def _read_register(
    installation: Installation,
    register: HeatRegister,
    trace: Trace,
    zone: ZoneInfo,
    streams: Streams,
) -> None:
    if register.channel not in trace:
        streams.missing[register.name] = because(ReasonCode.NO_READINGS, what=register.channel)
        return
    step_energy = register.resolution_kwh * 3.6e6
    stream = _from_register(register.name, REGISTER_WAY, register.channel, trace, step_energy)
    if np.nanmin(stream.energy, initial=0.0) < 0:
        stream = replace(stream, way=NET_WAY)
    twin = streams.heat.get(register.circuit or "")
    delta = USUAL_DELTA
    if twin is None and "flow_temp" in trace and "return_temp" in trace:
        delta = mean_delta(stream.energy, trace["flow_temp"], trace["return_temp"])
    shares = register_shares(
        register, twin.terms if twin else (), twin.energy if twin else None, delta
    )
    terms = tuple(Term(source, ((share, stream.energy),)) for source, share in shares)
    further = _corrected_terms(
        installation, trace, zone, register.name, register.channel, stream.energy
    )
    streams.heat[register.name] = replace(
        stream, terms=(*terms, *stream.terms, *further), holds=_words(register.includes)
    )


def joules(kwh: float | None) -> float | None:
    """The same in J; None stays."""
    return None if kwh is None else kwh * 3.6e6


def _read_reported(
    installation: Installation, reported: ReportedHeat, trace: Trace, streams: Streams
) -> None:
    """Heat that the controller reports: beside the others, unless a transfer factor is accepted."""
    name, channel = reported.name, reported.channel
    if channel not in trace:
        streams.missing[name] = because(ReasonCode.NO_READINGS, what=channel)
        return
    if channel.startswith("heat_energy"):
        step = joules(reported.resolution_kwh)
        stream = _from_register(name, "reported by the controller", channel, trace, step)
    else:
        energy = trace[channel] * float(trace.step)
        native = trace.native_of(channel)
        stream = Stream(name, "reported by the controller", "", energy, (), native, 0.0, ())
    stream = replace(stream, holds="heat pump")
    transfer = next(
        (c for c in installation.corrections if isinstance(c, Transfer) and c.meter == name), None
    )
    if transfer is None:
        term = Term(
            f"{name}: reported, not measured", ((rectangular(REPORTED_LIMIT), stream.energy),)
        )
        streams.beside[name] = replace(stream, terms=(term, *stream.terms))
        streams.missing[name] = because(ReasonCode.REPORTED_WITHOUT_TRANSFER)
        return
    energy = stream.energy * transfer.factor
    streams.heat[name] = replace(
        stream,
        way=f"reported by the controller × {transfer.factor:.3f}, from a borrowed reference meter; "
        "it sees no defrosts, the factor holds them on average",
        energy=energy,
        step_energy=stream.step_energy * transfer.factor,
        terms=(
            Term(f"{name}: transfer factor", ((transfer.U / K_FACTOR, energy),)),
            *stream.terms,
        ),
    )


def with_electricity(
    installation: Installation, stream: Stream, streams: Streams, lost: float
) -> Stream | None:
    """Heat from the yield of the source and the unit's electricity; None without the latter.

    Parameters
    ----------
    lost : greatest share of the electricity that does not reach the water; half of it is taken,
        and the rest is a term of the uncertainty (rectangular, GUM 4.3.7).

    Source: energy balance of the unit; the sum itself is an upper bound.
    """
    unit = unit_stream(installation, streams)
    if unit is None:
        return None
    share = 1 - lost / 2
    parts = [(source, tuple((f * share, basis) for f, basis in t)) for source, t in _pairs(unit)]
    terms = [Term(source, pairs) for source, pairs in parts]
    terms.append(Term("electricity that does not reach the water", (
        (rectangular(lost / 2), unit.energy),)))  # fmt: skip
    return replace(
        stream,
        way=f"{stream.way} + {share:.0%} of the electricity (all of it would be an upper bound)",
        energy=stream.energy + share * unit.energy,
        terms=(*stream.terms, *terms),
    )


def _pairs(stream: Stream) -> list[tuple[str, tuple[tuple[float, Floats], ...]]]:
    return [(term.source, term.pairs) for term in stream.terms]


def unit_stream(installation: Installation, streams: Streams) -> Stream | None:
    """The meter that holds the compressor and least besides."""
    holding = [
        (len(m.includes), m.name)
        for m in installation.electricity
        if Consumer.COMPRESSOR in m.includes and m.name in streams.electricity
    ]
    return streams.electricity[min(holding)[1]] if holding else None


def _on(installation: Installation, streams: Streams, step: int) -> Floats | None:
    """Where the unit runs, 0 … 1."""
    unit = unit_stream(installation, streams)
    if unit is None:
        return None
    power = unit.energy / step
    on: Floats = np.where(np.isfinite(power), power > on_limit(power), np.nan)
    return on


def _corrected_terms(
    installation: Installation,
    trace: Trace,
    zone: ZoneInfo,
    name: str,
    channel: str,
    energy: Floats,
) -> list[Term]:
    """What accepted factors and offsets of a channel add to the uncertainty of its energy."""
    terms = []
    for c in installation.corrections:
        if not isinstance(c, Factor | Offset) or c.channel != channel or not c.U:
            continue
        if isinstance(c, Offset) and not channel.startswith("power"):
            continue  # of a pair: in its own term
        basis = energy if isinstance(c, Factor) else np.full(len(energy), float(trace.step))
        span = span_of(c, trace, zone)
        if len(span) < len(trace):
            inside = np.zeros(len(energy))
            inside[span.start : span.stop] = basis[span.start : span.stop]
            basis = inside
        what = "factor" if isinstance(c, Factor) else "offset"
        terms.append(Term(f"{name}: corrected {what}", ((c.U / K_FACTOR, basis),)))
    return terms


def _from_register(
    name: str, way: str, channel: str, trace: Trace, step_energy: float | None = None
) -> Stream:
    native = trace.native_of(channel)
    net = channel.startswith("heat_energy")
    energy, holes, smallest = increments(trace[channel], trace.step, native, net)
    terms: tuple[Term, ...] = ()
    if native > FAR_APART:
        energy, tilts = shared_out(energy, trace[channel])
        holes = ()
        # The same names for all meters: heat and electricity of a stretch rise and fall together.
        terms = tuple(
            Term(f"shared out evenly between readings, {k + 1}", ((rectangular(UNEVEN), tilt),))
            for k, tilt in enumerate(tilts)
        )
    return Stream(name, way, "", energy, terms, native, step_energy or smallest, holes)


def _words(parts: Iterable[StrEnum]) -> str:
    return ", ".join(part.value.replace("_", " ") for part in parts)


def _airflow_by(air: AirCircuit, trace: Trace) -> str:
    """How the airflow is known, in words."""
    if air.airflow is not None and air.airflow in trace:
        return "airflow logged"
    return "airflow assumed" if airflow_of(air, trace) is None else "airflow by the fan's speed"
