"""Electricity of consumers without a meter: a fixed power while they run."""

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import rectangular
from ember.basis.series import Bools, Trace
from ember.description.meters import FixedPower, RunsWith
from ember.messages import Source, words_of
from ember.metering.energy_component import EnergyComponent
from ember.metering.meter_energy import MeterEnergy

say = words_of(__name__)


def fixed_power(described: FixedPower, trace: Trace, on: Bools, pumping: Bools) -> MeterEnergy:
    """Energy of each cell by fixed power × running time.

    Parameters
    ----------
    on, pumping : array, (n,)
        Where the compressor runs, and where the water flows.

    Source: power as described; its limit is rectangular (GUM 4.3.7).
    """
    while_ = {RunsWith.COMPRESSOR: on, RunsWith.PUMP: pumping}.get(described.runs_with)
    runs = np.ones(len(on)) if while_ is None else while_.astype(np.float64)
    energy = runs * (described.watts * trace.step)
    component = EnergyComponent(
        Source(SourceCode.ASSUMED_POWER, described.name), ((rectangular(described.limit), energy),)
    )
    holds = ", ".join(c.value.replace("_", " ") for c in described.includes)
    when = (
        say("always") if while_ is None else say("while_runs", runs_with=described.runs_with.value)
    )
    way = f"{described.watts:g} W {when}"
    return MeterEnergy(
        name=described.name,
        method=way,
        loads=holds,
        energy=energy,
        components=(component,),
        native=trace.step,
        step_energy=0.0,
        holes=(),
    )
