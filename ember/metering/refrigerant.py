"""Heat by the refrigerant's enthalpies: an independent estimate beside the others."""

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import rectangular
from ember.basis.series import Bools, Floats, Trace
from ember.description.meters import RefrigerantSide
from ember.messages import Source, words_of
from ember.metering.energy_component import EnergyComponent
from ember.metering.meter_energy import MeterEnergy
from ember.properties.refrigerant import enthalpies

say = words_of(__name__)

ATMOSPHERE = 101_325.0  # gauges read above it [Pa]
STATE_LIMIT = 0.06  # of the ratio of enthalpies, by gauges and clip-on probes: common practice


def heat_per_power(side: RefrigerantSide, trace: Trace) -> Floats:
    """Heat given at the condenser per power that reaches the refrigerant, (n,).

    (h discharge − h liquid) ÷ (h discharge − h suction), pressures from gauges; NaN where a state
    is unknown or outside the table.

    Source: energy balance of the compressor; enthalpies from CoolProp.
    """
    table = enthalpies(side.refrigerant.value)
    low = trace[side.evaporating_pressure] + ATMOSPHERE
    high = trace[side.condensing_pressure] + ATMOSPHERE
    if side.superheat is not None and side.superheat in trace:
        superheat = trace[side.superheat]
    else:
        assert side.suction_temp is not None
        superheat = trace[side.suction_temp] - table.dew_temp(low)
    subcooling = np.full(len(low), side.subcooling_k)
    if side.subcooling is not None and side.subcooling in trace:
        subcooling = trace[side.subcooling]
    hot = table.of_gas(high, trace[side.discharge_temp] - table.dew_temp(high))
    work = hot - table.of_gas(low, superheat)
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = (hot - table.of_liquid(high, subcooling)) / work
    result[~(work > 5e3)] = np.nan
    return result


def lacking(side: RefrigerantSide, trace: Trace) -> list[str]:
    """The channels that are needed and not logged."""
    needed = [side.evaporating_pressure, side.condensing_pressure, side.discharge_temp]
    if side.superheat is None or side.superheat not in trace:
        needed.append(side.suction_temp or "suction_temp")
    return [channel for channel in needed if channel not in trace]


def refrigerant_heat(
    side: RefrigerantSide, unit: MeterEnergy, trace: Trace, settled: Bools
) -> MeterEnergy:
    """Heat of the settled cells; unknown elsewhere, since the balance holds for a steady circuit.

    Parameters
    ----------
    unit : MeterEnergy
        the unit's electricity.
    settled : array, (n,)
        Heating or hot water, no start, no defrost.
    """
    ratio = heat_per_power(side, trace)
    energy = np.where(settled, ratio * unit.energy * side.reaches, np.nan)
    shared = tuple(
        EnergyComponent(
            t.cause,
            tuple((f, np.where(settled, ratio * side.reaches * b, np.nan)) for f, b in t.pairs),
        )
        for t in unit.components
    )
    components = (
        *shared,
        EnergyComponent(
            Source(SourceCode.TO_REFRIGERANT, side.name),
            ((rectangular(side.limit / side.reaches), energy),),
        ),
        EnergyComponent(
            Source(SourceCode.PRESSURES, side.name), ((rectangular(STATE_LIMIT), energy),)
        ),
    )
    way = say("refrigerant_side_settled", refrigerant=side.refrigerant.value)
    return MeterEnergy(
        name=side.name,
        method=way,
        loads="heat pump",
        energy=energy,
        components=components,
        native=unit.native,
        step_energy=0.0,
        holes=(),
    )
