"""Heat carried by water, and the limits of what measures it."""

from dataclasses import dataclass

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import rectangular
from ember.basis.series import MIXING, Floats, Span, Trace
from ember.description.installation import HeatRegister, Pipe, Probes, WaterCircuit
from ember.messages import Source
from ember.metering.energy_component import EnergyComponent
from ember.metering.resolution import step_of
from ember.properties import Fluid, liquid

USUAL_DELTA = 5.0  # where it is not logged [K], common practice, agreed
HEAT_LEAST_DELTA = 0.3  # at which a register counts heat [K], common practice
DELTA_MIN = 3.0  # Δθ_min of a heat meter [K], the usual value (EN 1434-1, from memory)

# EN 1434-1 maximum permissible errors of the flow sensor: c + d·q_p/q, at most cap (from memory).
FLOW_SENSOR = {1: (0.01, 0.0001, 0.035), 2: (0.02, 0.0002, 0.05), 3: (0.03, 0.0005, 0.05)}
PAIR = (0.005, 0.03)  # EN 1434-1: 0.5 % + 3 %·Δθ_min/Δθ (from memory)
CALCULATOR = (0.005, 0.01)  # EN 1434-1: 0.5 % + 1 %·Δθ_min/Δθ (from memory)
# IEC 60751: tolerance a + b·|t| [K].
HEAT_PROBE = {
    Probes.CLASS_AA: (0.1, 0.0017),
    Probes.CLASS_A: (0.15, 0.002),
    Probes.CLASS_B: (0.3, 0.005),
}


def heat_capacity_rate(
    flow_rate: Floats, flow_temp: Floats, return_temp: Floats, fluid: Fluid, meter_in: Pipe
) -> Floats:
    """Heat that a water circuit carries per kelvin of ΔT.

    Parameters
    ----------
    flow_rate : array, (n,)
        Volume flow at the meter [m3/s].
    flow_temp, return_temp : array, (n,)
        [degC]
    fluid : Fluid
        what fills the circuit.
    meter_in : Pipe
        the pipe whose temperature sets the density.

    Returns
    -------
    array, (n,)  V̇·ρ(T at the meter)·c_p(mean temperature) [W/K].

    Source: energy balance; EN 1434-1 has the same in enthalpies.
    """
    properties = liquid(fluid)
    result = properties.rho(return_temp if meter_in == Pipe.RETURN else flow_temp)
    mean = flow_temp + return_temp
    mean *= 0.5
    result *= properties.cp(mean)
    result *= flow_rate
    return result


# [s] for which a rounding error holds before it changes, common practice, chosen
ROUNDED_ALIKE = 600.0
# Of readings further apart than MIXING, all common practice:
CHANGED = 0.2  # by which heat or flow differ from the reading before or after: states are mixed
MIXED = 0.15  # error of such heat, as a share
HEAT_EVEN = 0.02  # of the other heat
HEAT_FINE = 0.02  # steps of temperature below which rounding is not looked at [K]


@dataclass(frozen=True)
class Trim:
    """An accepted correction of the pair's offset.

    Attributes
    ----------
    u : float
        standard uncertainty [K].
    span : Span
        cells in which it holds.
    around : float
        water temperature at which it was found [degC].
    """

    u: float
    span: Span
    around: float = 25.0


def circuit_heat(
    circuit: WaterCircuit, fluid: Fluid, trace: Trace, trim: Trim | None = None
) -> tuple[Floats, tuple[EnergyComponent, ...], Floats | None]:
    """Heat by flow × ΔT in each cell, and how the sensors' errors act on it.

    Parameters
    ----------
    trim : Trim | None
        the accepted correction of the pair's offset, made in the trace already.

    Returns
    -------
    energy : array, (n,)  [J]; negative while heat is drawn back (defrost), NaN where unknown.
    components : flow sensor, temperature pair or probes, calculator, fluid.
    rounding : array, (n,)  Variance of each cell from the steps of the temperatures [J²], to be
        added over cells; None where they are fine.

    Source: heat balance; limits EN 1434-1 (from memory) and IEC 60751; rounding GUM 4.3.7.
    """
    flow_rate, flow_temp, return_temp = (
        trace[c] for c in (circuit.flow_rate, circuit.flow_temp, circuit.return_temp)
    )
    carried = heat_capacity_rate(flow_rate, flow_temp, return_temp, fluid, circuit.meter_in)
    carried *= float(trace.step)  # [J/K]
    energy = flow_temp - return_temp
    energy *= carried
    doubled = 2.0 if circuit.in_service else 1.0
    components = [_flow_component(circuit, energy, flow_rate, doubled)]
    warm, back = _while_carried(flow_temp, carried), _while_carried(return_temp, carried)
    mean_temp = 0.5 * (warm + back)
    if circuit.probes == Probes.HEAT_METER_PAIR:
        for what, (gain, offset) in (
            (SourceCode.TEMPERATURE_PAIR, PAIR),
            (SourceCode.CALCULATOR, CALCULATOR),
        ):
            u_gain, u_offset = (rectangular(doubled * x) for x in (gain, offset * DELTA_MIN))
            components.append(
                EnergyComponent(
                    Source(what, circuit.name),
                    ((u_gain, energy), *_untrimmed(u_offset, carried, trim)),
                )
            )
    else:
        u_pair = pair_u(circuit.probes, warm, back)
        source = Source(SourceCode.TWO_PROBES, circuit.name, circuit.probes.value)
        pairs = _untrimmed(u_pair, carried, trim)
        if trim is not None:  # what a correction found at one temperature misses at another
            slope = (
                np.sqrt(2) * rectangular(HEAT_PROBE[circuit.probes][1]) * (mean_temp - trim.around)
            )
            pairs = (*pairs, (abs(float(slope)), _within(carried, trim.span)))
        components.append(EnergyComponent(source, pairs))
    if trim is not None:
        held = _within(carried, trim.span)
        components.append(
            EnergyComponent(Source(SourceCode.OFFSET_CORRECTION, circuit.name), ((trim.u, held),))
        )
    components.append(
        EnergyComponent(Source(SourceCode.FLUID_PROPERTIES), ((liquid(fluid).u_relative, energy),))
    )
    native = max(
        trace.native_of(c) for c in (circuit.flow_rate, circuit.flow_temp, circuit.return_temp)
    )
    if native > MIXING:
        mixed = _mixed(energy, flow_rate, max(1, round(native / trace.step)))
        source = Source(SourceCode.READINGS_APART, circuit.name, f"{native / 60:.0f}")
        components.append(
            EnergyComponent(source, ((rectangular(MIXED), mixed), (rectangular(HEAT_EVEN), energy)))
        )
    return energy, tuple(components), _rounding(flow_temp, return_temp, carried, trace.step)


def _mixed(energy: Floats, flow_rate: Floats, apart: int) -> Floats:
    """The heat of cells near which the flow or the heat changes, (n,) [J]: of those a reading, or
    the product of two means, is only near the mean of the product.

    Parameters
    ----------
    apart : int
        cells from one reading to the next.
    """
    changed = np.zeros(len(energy), np.bool_)
    for values in (energy, flow_rate):
        with np.errstate(invalid="ignore"):
            larger = np.maximum(np.abs(values[apart:]), np.abs(values[:-apart]))
            jump = np.abs(values[apart:] - values[:-apart]) > CHANGED * larger
        changed[apart:] |= jump
        changed[:-apart] |= jump
    mixed: Floats = np.where(changed, np.abs(energy), 0.0)
    return np.where(np.isfinite(energy), mixed, np.nan)


def _untrimmed(u: float, carried: Floats, trim: Trim | None) -> tuple[tuple[float, Floats], ...]:
    """An offset's share of a term, outside the cells in which it has been corrected."""
    if trim is None:
        return ((u, carried),)
    outside = carried.copy()
    outside[trim.span.start : trim.span.stop] *= 0.0
    return ((u, outside),) if len(trim.span) < len(carried) else ()


def _within(carried: Floats, span: Span) -> Floats:
    if len(span) == len(carried):
        return carried
    inside = carried * 0.0
    inside[span.start : span.stop] = carried[span.start : span.stop]
    return inside


def _rounding(flow_temp: Floats, return_temp: Floats, carried: Floats, step: int) -> Floats | None:
    steps = (step_of(flow_temp), step_of(return_temp))
    if max(steps) < HEAT_FINE:
        return None
    alike = max(1.0, ROUNDED_ALIKE / step)
    variance: Floats = np.square(carried)
    variance *= (steps[0] ** 2 + steps[1] ** 2) / 12 * alike
    return variance


def _thin(values: Floats) -> int:
    return max(1, len(values) // 20_000)


def pair_u(probes: Probes, flow: float, back: float) -> float:
    """Standard uncertainty of the difference of two unmatched probes [K], each at its own
    temperature [degC].

    Source: IEC 60751 tolerances, rectangular and independent.
    """
    a, b = HEAT_PROBE[probes]
    return float(np.hypot(rectangular(a + b * abs(flow)), rectangular(a + b * abs(back))))


def _while_carried(temp: Floats, carried: Floats) -> float:
    """Mean temperature by the water that passes [degC]."""
    thin = _thin(temp)
    values, weights = temp[::thin], np.abs(carried[::thin])
    known = np.isfinite(values) & np.isfinite(weights)
    total = float(weights[known].sum())
    if total <= 0:
        return float(np.nanmean(values)) if np.isfinite(values).any() else 40.0
    return float((values[known] * weights[known]).sum()) / total


def known_sum(values: Floats) -> float:
    """The sum of what is known of an array."""
    total = float(values.sum())
    return total if np.isfinite(total) else float(np.nansum(values))


def _flow_component(
    circuit: WaterCircuit, energy: Floats, flow_rate: Floats, doubled: float
) -> EnergyComponent:
    source = Source(SourceCode.FLOW_SENSOR, circuit.name)
    if circuit.flow_class is None:
        return EnergyComponent(source, ((rectangular(circuit.flow_limit), energy),))
    c, d, cap = FLOW_SENSOR[circuit.flow_class]
    nominal = circuit.nominal_flow_m3h / 3600
    # (c + d·q_p/q)·E; where that passes the cap, cap·E, written as the share of q_p/q it equals.
    share = nominal / np.maximum(flow_rate, d * nominal / (cap - c))
    share *= energy
    scale = doubled / np.sqrt(3)
    return EnergyComponent(source, ((c * scale, energy), (d * scale, share)))


def mean_delta(energy: Floats, flow_temp: Floats, return_temp: Floats) -> float:
    """ΔT of the heat a register counts [K]: ΣQ ÷ Σ(Q ÷ ΔT), so that an offset of a pair gives its
    share; the usual one where it is not to be seen.

    Parameters
    ----------
    energy : Floats
        array, (n,) [J].
    flow_temp, return_temp : Floats
        arrays, (n,) [degC].
    """
    delta = flow_temp - return_temp
    with np.errstate(invalid="ignore"):
        use = (energy > 0) & (delta > HEAT_LEAST_DELTA)
    if not use.any():
        return USUAL_DELTA
    return float(energy[use].sum() / (energy[use] / delta[use]).sum())


def register_shares(
    register: HeatRegister,
    twin: tuple[EnergyComponent, ...],
    twin_energy: Floats | None,
    delta: float = USUAL_DELTA,
) -> list[tuple[Source, float]]:
    """Relative standard uncertainties of a heat meter's register, by source.

    A register whose sensors are logged too has the shares of that circuit over the record, by
    the same names, so that the two share their errors. Else from `delta`, the ΔT of its heat [K],
    5 K where it is not logged, with the flow half of q_p (common practice).
    """
    if twin and twin_energy is not None:
        total = known_sum(twin_energy)
        sums = [(t.cause, sum(f * known_sum(b) for f, b in t.pairs)) for t in twin]
        if total > 0:
            return [(source, value / total) for source, value in sums]
    doubled = 2.0 if register.in_service else 1.0
    c, d, cap = FLOW_SENSOR[register.accuracy_class]
    limits = {
        SourceCode.FLOW_SENSOR: min(c + 2 * d, cap),
        SourceCode.TEMPERATURE_PAIR: PAIR[0] + PAIR[1] * DELTA_MIN / delta,
        SourceCode.CALCULATOR: CALCULATOR[0] + CALCULATOR[1] * DELTA_MIN / delta,
    }
    return [
        (Source(what, register.name), rectangular(doubled * limit))
        for what, limit in limits.items()
    ]
