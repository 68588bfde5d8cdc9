"""Inside the unit: what the refrigerant does, from logged pressures and temperatures."""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Bools, Floats, Trace
from ember.description.meters import RefrigerantSide
from ember.metering.refrigerant import ATMOSPHERE, lacking
from ember.properties.refrigerant import enthalpies

REFRIGERANT_CIRCUIT_STRIDE = 300.0  # between the cells whose efficiency is worked out [s]


@dataclass(frozen=True)
class Inside:
    """The refrigerant over a trace, arrays (n,); NaN where a state is unknown.

    Attributes
    ----------
    evaporating, condensing : Floats
        saturation temperatures of the gas at the gauges' pressures [degC].
    superheat, subcooling : Floats
        [K].
    discharge : Floats
        hot gas [degC].
    """

    evaporating: Floats
    condensing: Floats
    superheat: Floats
    subcooling: Floats
    discharge: Floats


def inside(side: RefrigerantSide, trace: Trace) -> Inside | None:
    """The refrigerant's temperatures; None where a channel is missing.

    Source: saturation from CoolProp through the baked table.
    """
    if lacking(side, trace):
        return None
    table = enthalpies(side.refrigerant.value)
    evaporating = table.dew_temp(trace[side.evaporating_pressure] + ATMOSPHERE)
    condensing = table.dew_temp(trace[side.condensing_pressure] + ATMOSPHERE)
    if side.superheat is not None and side.superheat in trace:
        superheat = trace[side.superheat]
    else:
        assert side.suction_temp is not None
        superheat = trace[side.suction_temp] - evaporating
    subcooling = np.full(len(trace), np.nan)
    if side.subcooling is not None and side.subcooling in trace:
        subcooling = trace[side.subcooling]
    return Inside(evaporating, condensing, superheat, subcooling, trace[side.discharge_temp])


def compressor_efficiency(side: RefrigerantSide, trace: Trace, at: Bools) -> Floats:
    """Isentropic efficiency of the compressor, (n,); NaN but for one cell in five minutes.

    Parameters
    ----------
    at : array, (n,)
        Where the unit runs settled.

    (h lossless − h suction) ÷ (h discharge − h suction): what compression would take without loss
    over what it takes, as far as the shell of the compressor loses no heat.

    Source: definition; enthalpies from CoolProp through the baked table.
    """
    result = np.full(len(trace), np.nan)
    found = inside(side, trace)
    if found is None:
        return result
    stride = max(1, round(REFRIGERANT_CIRCUIT_STRIDE / trace.step))
    cells = np.flatnonzero(at)[::stride]
    table = enthalpies(side.refrigerant.value)
    low = trace[side.evaporating_pressure][cells] + ATMOSPHERE
    high = trace[side.condensing_pressure][cells] + ATMOSPHERE
    suction = table.of_gas(low, found.superheat[cells])
    hot = table.of_gas(high, found.discharge[cells] - found.condensing[cells])
    ideal = table.compressed(low, found.superheat[cells], high)
    with np.errstate(invalid="ignore", divide="ignore"):
        efficiency = (ideal - suction) / (hot - suction)
    efficiency[~(hot - suction > 5e3)] = np.nan
    result[cells] = efficiency
    return result
