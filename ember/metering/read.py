"""What each meter of the description says over a trace."""

from collections.abc import Iterable
from dataclasses import replace
from enum import StrEnum
from math import sqrt
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import zone_named
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import K_FACTOR, rectangular
from ember.basis.series import FAR_APART, Floats, Span, Trace
from ember.corrections.applied import span_of
from ember.description.installation import (
    AddElectricity,
    AirCircuit,
    Consumer,
    Factor,
    HeatRegister,
    Installation,
    Offset,
    ReportedHeat,
    Transfer,
    WaterCircuit,
)
from ember.messages import Source, because, words_of
from ember.metering.air import air_energy, airflow_of
from ember.metering.electricity import electricity_limit, electricity_source
from ember.metering.energy_component import EnergyComponent
from ember.metering.heat import USUAL_DELTA, Trim, circuit_heat, mean_delta, register_shares
from ember.metering.meter_energy import MeterEnergies, MeterEnergy
from ember.metering.on import on_limit
from ember.metering.register import increments, shared_out

say = words_of(__name__)

REGISTER_METHOD = "heat meter, energy register (does not run backwards in defrosts)"
NET_METHOD = "heat meter, energy register (net of what defrosts take back)"
# by which its power may rise or fall from one reading to the next, common practice, chosen
READ_UNEVEN = 0.7
REPORTED_LIMIT = 0.2  # of heat that a controller only estimates, common practice, chosen


def meter(installation: Installation, trace: Trace) -> MeterEnergies:
    """What each meter of the description says over a trace whose corrections are made."""
    zone = zone_named(installation.zone)
    meter_energies = MeterEnergies({}, {}, {}, {})
    for em in installation.electricity:
        if em.channel not in trace:
            meter_energies.missing[em.name] = because(ReasonCode.NO_READINGS, what=em.channel)
            continue
        limit = electricity_limit(em.accuracy)
        meter_energy = electricity_of(em.name, em.channel, trace, joules(em.resolution_kwh))
        component = EnergyComponent(
            electricity_source(em.name, em.accuracy), ((rectangular(limit), meter_energy.energy),)
        )
        further = _corrected_components(
            installation, trace, zone, em.name, em.channel, meter_energy.energy
        )
        meter_energies.electricity[em.name] = replace(
            meter_energy,
            components=(component, *meter_energy.components, *further),
            loads=_words(em.includes),
        )
    for circuit in installation.circuits:
        _read_circuit(installation, circuit, trace, zone, meter_energies)
    for register in installation.registers:
        _read_register(installation, register, trace, zone, meter_energies)
    for air in installation.air:
        channels = (air.supply_temp, air.return_temp)
        if absent := [c for c in channels if c not in trace]:
            meter_energies.missing[air.name] = because(
                ReasonCode.NO_READINGS, what=", ".join(absent)
            )
            continue
        if air.nominal_m3h is None and airflow_of(air, trace) is None:
            meter_energies.missing[air.name] = because(
                ReasonCode.NO_READINGS, what=air.airflow or air.fan_speed
            )
            continue
        energy, components = air_energy(air, trace, _on(installation, meter_energies, trace.step))
        native = max(trace.native_of(c) for c in channels)
        method = say("air_side", airflow_by=_airflow_by(air, trace))
        held = _words(air.includes)
        meter_energies.heat[air.name] = MeterEnergy(
            name=air.name,
            method=method,
            loads=held,
            energy=energy,
            components=components,
            native=native,
            step_energy=0.0,
            holes=(),
        )
    for source in installation.yields:
        if source.channel not in trace:
            meter_energies.missing[source.name] = because(
                ReasonCode.NO_READINGS, what=source.channel
            )
            continue
        step = joules(source.resolution_kwh)
        meter_energy = _from_register(source.name, say("source_yield"), source.channel, trace, step)
        component = EnergyComponent(
            Source(SourceCode.YIELD, source.name),
            ((rectangular(source.limit), meter_energy.energy),),
        )
        meter_energy = replace(
            meter_energy, components=(component, *meter_energy.components), loads="heat pump"
        )
        _keep(
            meter_energies,
            with_electricity(installation, meter_energy, meter_energies, source.lost),
            source.name,
        )
    for reported in installation.reported:
        _read_reported(installation, reported, trace, meter_energies)
    for correction in installation.corrections:
        if isinstance(correction, AddElectricity) and correction.meter in meter_energies.heat:
            meter_energy = meter_energies.heat.pop(correction.meter)
            added = with_electricity(installation, meter_energy, meter_energies, correction.lost)
            _keep(meter_energies, added, correction.meter)
    return meter_energies


def _keep(meter_energies: MeterEnergies, meter_energy: MeterEnergy | None, name: str) -> None:
    if meter_energy is None:
        meter_energies.missing[name] = because(ReasonCode.YIELD_ALONE)
    else:
        meter_energies.heat[name] = meter_energy


def electricity_of(
    name: str, channel: str, trace: Trace, step_energy: float | None = None
) -> MeterEnergy:
    """Energy of each cell by a channel of power or a register of electricity, without the errors
    of its meter.

    Parameters
    ----------
    step_energy : float | None
        last digit of a register [J]; None: the smallest step that is read.
    """
    if channel.startswith("energy"):
        return _from_register(name, say("electricity_register"), channel, trace, step_energy)
    return MeterEnergy(
        name=name,
        method=say("power_sampled"),
        loads="",
        energy=trace[channel] * float(trace.step),
        components=(),
        native=trace.native_of(channel),
        step_energy=0.0,
        holes=(),
    )


def _read_circuit(
    installation: Installation,
    circuit: WaterCircuit,
    trace: Trace,
    zone: ZoneInfo,
    meter_energies: MeterEnergies,
) -> None:
    channels = (circuit.flow_rate, circuit.flow_temp, circuit.return_temp)
    if absent := [c for c in channels if c not in trace]:
        meter_energies.missing[circuit.name] = because(
            ReasonCode.NO_READINGS, what=", ".join(absent)
        )
        return
    trim = _trim(installation, circuit, trace, zone)
    energy, components, rounding = circuit_heat(circuit, installation.fluid, trace, trim)
    further = _corrected_components(
        installation, trace, zone, circuit.name, circuit.flow_rate, energy
    )
    method = say("flow_delta") + (
        say("heat_meter") if circuit.probes == "heat_meter_pair" else say("probes")
    )
    native = max(trace.native_of(c) for c in channels)
    meter_energies.heat[circuit.name] = MeterEnergy(
        name=circuit.name,
        method=method,
        loads=_words(circuit.includes),
        energy=energy,
        components=(*components, *further),
        native=native,
        step_energy=0.0,
        holes=(),
        rounding=rounding,
    )


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
    meter_energies: MeterEnergies,
) -> None:
    if register.channel not in trace:
        meter_energies.missing[register.name] = because(
            ReasonCode.NO_READINGS, what=register.channel
        )
        return
    step_energy = register.resolution_kwh * 3.6e6
    meter_energy = _from_register(
        register.name, REGISTER_METHOD, register.channel, trace, step_energy
    )
    if np.nanmin(meter_energy.energy, initial=0.0) < 0:
        meter_energy = replace(meter_energy, method=NET_METHOD)
    twin = meter_energies.heat.get(register.circuit or "")
    delta = USUAL_DELTA
    if twin is None and "flow_temp" in trace and "return_temp" in trace:
        delta = mean_delta(meter_energy.energy, trace["flow_temp"], trace["return_temp"])
    shares = register_shares(
        register, twin.components if twin else (), twin.energy if twin else None, delta
    )
    components = tuple(
        EnergyComponent(source, ((share, meter_energy.energy),)) for source, share in shares
    )
    further = _corrected_components(
        installation, trace, zone, register.name, register.channel, meter_energy.energy
    )
    meter_energies.heat[register.name] = replace(
        meter_energy,
        components=(*components, *meter_energy.components, *further),
        loads=_words(register.includes),
    )


def joules(kwh: float | None) -> float | None:
    """The same in J; None stays."""
    return None if kwh is None else kwh * 3.6e6


def _read_reported(
    installation: Installation, reported: ReportedHeat, trace: Trace, meter_energies: MeterEnergies
) -> None:
    """Heat that the controller reports: beside the others, unless a transfer factor is accepted."""
    name, channel = reported.name, reported.channel
    if channel not in trace:
        meter_energies.missing[name] = because(ReasonCode.NO_READINGS, what=channel)
        return
    if channel.startswith("heat_energy"):
        step = joules(reported.resolution_kwh)
        meter_energy = _from_register(name, say("reported_controller"), channel, trace, step)
    else:
        energy = trace[channel] * float(trace.step)
        native = trace.native_of(channel)
        meter_energy = MeterEnergy(
            name=name,
            method=say("reported_controller"),
            loads="",
            energy=energy,
            components=(),
            native=native,
            step_energy=0.0,
            holes=(),
        )
    meter_energy = replace(meter_energy, loads="heat pump")
    transfer = next(
        (c for c in installation.corrections if isinstance(c, Transfer) and c.meter == name), None
    )
    if transfer is None:
        component = EnergyComponent(
            Source(SourceCode.REPORTED, name), ((rectangular(REPORTED_LIMIT), meter_energy.energy),)
        )
        meter_energies.beside[name] = replace(
            meter_energy, components=(component, *meter_energy.components)
        )
        meter_energies.missing[name] = because(ReasonCode.REPORTED_WITHOUT_TRANSFER)
        return
    energy = meter_energy.energy * transfer.factor
    meter_energies.heat[name] = replace(
        meter_energy,
        method=say("reported_controller_borrowed", factor=transfer.factor),
        energy=energy,
        step_energy=meter_energy.step_energy * transfer.factor,
        components=(
            EnergyComponent(
                Source(SourceCode.TRANSFER_FACTOR, name), ((transfer.U / K_FACTOR, energy),)
            ),
            *meter_energy.components,
        ),
    )


def with_electricity(
    installation: Installation,
    meter_energy: MeterEnergy,
    meter_energies: MeterEnergies,
    lost: float,
) -> MeterEnergy | None:
    """Heat from the yield of the source and the unit's electricity; None without the latter.

    Parameters
    ----------
    lost : float
        greatest share of the electricity that does not reach the water; half of it is taken, and
        the rest is a term of the uncertainty (rectangular, GUM 4.3.7).

    Source: energy balance of the unit; the sum itself is an upper bound.
    """
    unit = unit_energy(installation, meter_energies)
    if unit is None:
        return None
    share = 1 - lost / 2
    parts = [(source, tuple((f * share, basis) for f, basis in t)) for source, t in _pairs(unit)]
    components = [EnergyComponent(source, pairs) for source, pairs in parts]
    components.append(
        EnergyComponent(
            Source(SourceCode.LOST_ELECTRICITY), ((rectangular(lost / 2), unit.energy),)
        )
    )
    return replace(
        meter_energy,
        method=say("electricity_all_would", method=meter_energy.method, share=share),
        energy=meter_energy.energy + share * unit.energy,
        components=(*meter_energy.components, *components),
    )


def _pairs(meter_energy: MeterEnergy) -> list[tuple[Source, tuple[tuple[float, Floats], ...]]]:
    return [(component.cause, component.pairs) for component in meter_energy.components]


def unit_energy(installation: Installation, meter_energies: MeterEnergies) -> MeterEnergy | None:
    """The meter that holds the compressor and least besides."""
    holding = [
        (len(m.includes), m.name)
        for m in installation.electricity
        if Consumer.COMPRESSOR in m.includes and m.name in meter_energies.electricity
    ]
    return meter_energies.electricity[min(holding)[1]] if holding else None


def _on(installation: Installation, meter_energies: MeterEnergies, step: int) -> Floats | None:
    """Where the unit runs, 0 … 1."""
    unit = unit_energy(installation, meter_energies)
    if unit is None:
        return None
    power = unit.energy / step
    on: Floats = np.where(np.isfinite(power), power > on_limit(power), np.nan)
    return on


def _corrected_components(
    installation: Installation,
    trace: Trace,
    zone: ZoneInfo,
    name: str,
    channel: str,
    energy: Floats,
) -> list[EnergyComponent]:
    """What accepted factors and offsets of a channel add to the uncertainty of its energy."""
    components = []
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
        what = SourceCode.CORRECTED_FACTOR if isinstance(c, Factor) else SourceCode.CORRECTED_OFFSET
        components.append(EnergyComponent(Source(what, name), ((c.U / K_FACTOR, basis),)))
    return components


def _from_register(
    name: str, method: str, channel: str, trace: Trace, step_energy: float | None = None
) -> MeterEnergy:
    native = trace.native_of(channel)
    net = channel.startswith("heat_energy")
    energy, holes, smallest = increments(trace[channel], trace.step, native, net)
    components: tuple[EnergyComponent, ...] = ()
    if native > FAR_APART:
        energy, tilts = shared_out(energy, trace[channel])
        holes = ()
        # The same names for all meters: heat and electricity of a stretch rise and fall together.
        components = tuple(
            EnergyComponent(
                Source(SourceCode.SHARED_EVENLY, detail=str(k + 1)),
                ((rectangular(READ_UNEVEN), tilt),),
            )
            for k, tilt in enumerate(tilts)
        )
    return MeterEnergy(
        name=name,
        method=method,
        loads="",
        energy=energy,
        components=components,
        native=native,
        step_energy=step_energy or smallest,
        holes=holes,
    )


def _words(parts: Iterable[StrEnum]) -> str:
    return ", ".join(part.value.replace("_", " ") for part in parts)


def _airflow_by(air: AirCircuit, trace: Trace) -> str:
    """How the airflow is known, in words."""
    if air.airflow is not None and air.airflow in trace:
        return say("airflow_logged")
    return say("airflow_assumed") if airflow_of(air, trace) is None else say("airflow_fan_speed")
