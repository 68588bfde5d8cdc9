"""Heat given to the air of an indoor unit."""

from typing import Literal

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import rectangular
from ember.basis.series import Floats, Trace
from ember.description.meters import AirCircuit
from ember.messages import Source
from ember.metering.energy_component import EnergyComponent
from ember.properties.moist_air import dry_air_density, enthalpy, humidity_ratio, pressure_at

STANDARD_AIR = 1.204  # of dry air at 20 °C and 101.325 kPa [kg/m3], ASHRAE Fundamentals ch. 1
USUAL_HUMIDITY = 45.0  # of room air where it is not logged [%], common practice


def air_heat_rate(
    airflow: Floats,
    supply_temp: Floats,
    return_temp: Floats,
    altitude: float = 0.0,
    return_humidity: Floats | None = None,
    supply_humidity: Floats | None = None,
    measured_in: Literal["return", "supply", "standard"] = "return",
) -> Floats:
    """Heat that an indoor unit gives to its air.

    Parameters
    ----------
    airflow : array, (n,)
        Volume flow [m3/s].
    measured_in : Literal['return', 'supply', 'standard']
        the duct whose air it is of, or standard: of dry air at 20 °C and 101.325 kPa.
    supply_temp, return_temp : array, (n,)
        Air leaving and entering [degC].
    altitude : float
        above the sea [m].
    return_humidity, supply_humidity : array, (n,)
        or None Relative humidity [%]. Without that of the supply no water is taken to be exchanged,
        which is right for heating only.

    Returns
    -------
    array, (n,)  Heat rate [W]; negative where the air is cooled, latent heat included where both
        humidities are known.

    Source: enthalpy difference of moist air, ASHRAE Fundamentals ch. 1; usual humidity of the
    room common practice.
    """
    pressure = pressure_at(altitude)
    damp = np.full(len(return_temp), USUAL_HUMIDITY) if return_humidity is None else return_humidity
    entering = humidity_ratio(return_temp, damp, pressure)
    leaving = entering
    if supply_humidity is not None:
        leaving = humidity_ratio(supply_temp, supply_humidity, pressure)
    if measured_in == "standard":
        dry = airflow * STANDARD_AIR
    elif measured_in == "supply":
        dry = airflow * dry_air_density(supply_temp, leaving, pressure)
    else:
        dry = airflow * dry_air_density(return_temp, entering, pressure)
    result: Floats = dry * (enthalpy(supply_temp, leaving) - enthalpy(return_temp, entering))
    return result


def airflow_of(circuit: AirCircuit, trace: Trace) -> Floats | None:
    """The airflow, (n,) [m3/s], as logged or by the fan's logged speed; None where neither is.

    Source: straight lines between the described speeds, common practice."""
    if circuit.airflow is not None and circuit.airflow in trace:
        return trace[circuit.airflow]
    if circuit.fan_speed is None or circuit.fan_speed not in trace:
        return None
    points = sorted(circuit.fan, key=lambda p: p.speed)
    flow: Floats = np.interp(
        trace[circuit.fan_speed], [p.speed for p in points], [p.m3h / 3600 for p in points]
    )
    return flow


def air_energy(
    circuit: AirCircuit, trace: Trace, compressor_on: Floats | None
) -> tuple[Floats, tuple[EnergyComponent, ...]]:
    """Heat of each cell by the air side [J], (n,), and how its errors act.

    Parameters
    ----------
    compressor_on : array, (n,)
        Share of each cell in which the unit runs, which says when the nominal airflow flows; None:
        it flows where supply and return differ by a kelvin.

    Source: limits as described; two probes, rectangular and independent (GUM 4.3.7).
    """
    supply, back = trace[circuit.supply_temp], trace[circuit.return_temp]
    known = airflow_of(circuit, trace)
    if known is not None:
        flow = known
    else:
        assert circuit.nominal_m3h is not None
        on = (np.abs(supply - back) > 1.0).astype(np.float64)
        flow = circuit.nominal_m3h / 3600 * (on if compressor_on is None else compressor_on)

    def logged(channel: str | None) -> Floats | None:
        return trace[channel] if channel is not None and channel in trace else None

    rate = air_heat_rate(
        flow,
        supply,
        back,
        circuit.altitude_m,
        logged(circuit.return_humidity),
        logged(circuit.supply_humidity),
        "standard" if circuit.standard else circuit.airflow_in,
    )
    energy = rate * float(trace.step)
    carried = flow * (1.19 * 1020.0 * trace.step)  # [J/K] near room temperature
    pair = np.sqrt(2) * rectangular(circuit.probe_limit_k)
    return energy, (
        EnergyComponent(
            Source(SourceCode.AIRFLOW, circuit.name),
            ((rectangular(circuit.airflow_limit), energy),),
        ),
        EnergyComponent(Source(SourceCode.AIR_TEMPERATURES, circuit.name), ((pair, carried),)),
    )
