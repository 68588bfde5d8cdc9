"""Defrosts: from a flag, from the water, or from the air of an indoor unit."""

import numpy as np

from ember.installation import AirCircuit, Installation, UnitKind, WaterCircuit
from ember.running.state import Basis
from ember.trace import Bools, Floats, Ints, Span, Trace, spans_of

# Common practice, all of them; docs/methods.md says what each is for.
DELTA = -0.5  # flow minus return [K]
LONGEST = 1200.0  # a longer negative ΔT is no defrost [s]
WARMEST = 12.0  # outdoor temperature above which no coil frosts [degC]
FALL = 1.5  # by which the flow temperature falls at least [K]
COARSEST = 180.0  # readings further apart miss some [s]
CHANGE_OVER = 240.0  # for which the valve's turning may turn ΔT round as well [s]
BEFORE = 300.0  # within which the unit ran, and the flow was warm, before it [s]
RISE_LEFT = 0.15  # of its usual rise over the room that supply air keeps at most

Found = tuple[list[Span], Basis, str]


def defrosts(
    installation: Installation,
    trace: Trace,
    water: WaterCircuit | None,
    air: AirCircuit | None,
    on: Bools,
    young: Bools,
    switches: Ints,
) -> Found:
    """Each defrost, and how it is known.

    Parameters
    ----------
    water, air : the circuit whose temperatures tell them.
    on : array, (n,)  Where the compressor runs. young : where a run has just begun.
    switches : cells in which the valve turns between heating and hot water.

    Source: reversed heat flow for minutes in cold air, common practice.
    """
    if "defrost_on" in trace:
        return spans_of(trace["defrost_on"] > 0.5), Basis.FLAG, "flag defrost_on"
    if installation.unit.kind == UnitKind.GROUND_SOURCE:
        return [], Basis.INFERRED, "none: a ground source does not frost"
    if water is not None:
        found = _by_water(installation, trace, water, on, young, switches)
        return (
            found,
            Basis.INFERRED,
            "inferred: ΔT negative while running, flow temperature falling",
        )
    if air is not None:
        found = _by_air(installation, trace, air, on, young)
        return (
            found,
            Basis.INFERRED,
            "inferred: supply air falls to the room's while power is drawn",
        )
    why = "not known: neither a flag nor flow and return temperatures are logged"
    return [], Basis.NOT_KNOWN, why


def little_flow(flow: Floats) -> float:
    """A flow below which the pump rests [m3/s]: a tenth of the usual, of a sample."""
    sample = flow[:: max(1, len(flow) // 20_000)]
    sample = sample[sample > 0]
    return 0.1 * float(np.median(sample)) if len(sample) else np.inf


def _cold_enough(installation: Installation, trace: Trace, mask: Bools) -> Bools:
    if installation.outdoor.channel in trace:
        mask &= ~(trace[installation.outdoor.channel] > WARMEST)
    return mask


def _by_water(
    installation: Installation,
    trace: Trace,
    circuit: WaterCircuit,
    on: Bools,
    young: Bools,
    switches: Ints,
) -> list[Span]:
    step = trace.step
    flow_temp = trace[circuit.flow_temp]
    cold = flow_temp - trace[circuit.return_temp] < DELTA
    cold &= trace[circuit.flow_rate] > little_flow(trace[circuit.flow_rate])
    cold = _cold_enough(installation, trace, cold) & ~young
    back = max(1, round(BEFORE / step))
    turning = max(1, round(CHANGE_OVER / step))
    found = []
    for span in spans_of(cold):
        if len(span) * step > LONGEST:
            continue
        k = int(np.searchsorted(switches, span.start + 1)) - 1
        if k >= 0 and span.stop - switches[k] <= turning:
            continue  # over before the valve's turning has settled
        before = np.nanmax(flow_temp[max(0, span.start - back) : span.start + 1])
        if before - flow_temp[span.start : span.stop].min() < FALL:
            continue
        if on[max(0, span.start - back) : span.start + 1].any():
            found.append(span)
    return found


def _by_air(
    installation: Installation, trace: Trace, air: AirCircuit, on: Bools, young: Bools
) -> list[Span]:
    step = trace.step
    rise = trace[air.supply_temp] - trace[air.return_temp]
    usual = rise[:: max(1, len(rise) // 20_000)][on[:: max(1, len(rise) // 20_000)]]
    usual = usual[usual > 0]
    if not len(usual):
        return []
    cold = (rise < min(1.0, RISE_LEFT * float(np.median(usual)))) & on
    cold = _cold_enough(installation, trace, cold) & ~young
    back = max(1, round(BEFORE / step))
    return [
        span
        for span in spans_of(cold)
        if len(span) * step <= LONGEST
        and on[max(0, span.start - back) : span.start + 1].all()
        and rise[max(0, span.start - back)] > 1.0
        and on[min(span.stop, len(on) - 1)]  # the fall at the end of a run is none
    ]
