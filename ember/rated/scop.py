"""SCOP by EN 14825 from a rated table, bin by bin; and the same sum over a site's own weather.

Nothing outside the table is quietly used: a bin that the table does not reach is named as assumed,
and where too much of the heat lies there no SCOP is offered.
"""

from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode
from ember.basis.series import Floats
from ember.description.declared import Aux, AuxTimes, Climate
from ember.description.installation import Installation, RatedTable, TableKind
from ember.messages import Reason, because, words_of
from ember.rated.climates import AVERAGE_HOURS, CLIMATES, NO_LOAD, VARIABLE
from ember.rated.surface import Surface, carnot, surface

say = words_of(__name__)

CC = 0.9  # degradation below the least output, water, where not known (EN 14825)
CD = 0.25  # the same, air
MOST_ASSUMED = 0.2  # of the heat in bins outside the table, from which no SCOP is offered
SCOP_INDOOR = 20.0  # air-to-air [degC]
WATTS = 1000.0  # of a kilowatt
NONE_GIVEN = AuxTimes()
NO_AUX = Aux()


def least_share(installation: Installation) -> float | None:
    """Of its capacity, down to which a variable-speed unit goes; None where it is not described."""
    unit = installation.unit
    if not unit.variable_speed or not unit.minimum_output_kw or not unit.capacity_kw:
        return None
    return min(unit.minimum_output_kw / unit.capacity_kw, 1.0)


@dataclass(frozen=True)
class AuxHours:
    """Hours of a year without heat by state, and equivalent hours of heating [h]; None where they
    are not certain."""

    on: float | None
    by_state: dict[str, float | None]

    @classmethod
    def of(cls, climate: Climate, given: AuxTimes = NONE_GIVEN) -> "AuxHours":
        """Those of a climate, where none are given."""
        usual = AVERAGE_HOURS if climate == Climate.AVERAGE else {}
        fields = {
            "thermostat off": given.thermostat_off,
            "standby": given.standby,
            "crankcase": given.crankcase,
            "off": given.off,
        }
        return cls(
            usual.get("on") if given.heating is None else given.heating,
            {name: usual.get(name) if h is None else h for name, h in fields.items()},
        )


@dataclass(frozen=True)
class ScopBin:
    """One bin. outdoor, flow [degC]

    Attributes
    ----------
    load, capacity, backup : float
        [kW]
    ratio : float
        of the load to the least output, 1 where it does not cycle
    cop : float
        with that
    assumed : bool
        outside the table.
    """

    outdoor: float
    hours: float
    flow: float
    load: float
    capacity: float
    ratio: float
    cop: float
    backup: float
    heat: float
    electricity: float
    assumed: bool


@dataclass(frozen=True)
class Scop:
    """A SCOP.

    Attributes
    ----------
    name : str
        climate and level. design_load [kW] at the design temperature; bivalent [degC].
    on : float | None
        SCOP of the bins alone (SCOPon)
    scop : float | None
        with auxiliary powers, None where they are not known.
    assumed_share : float
        of the heat in assumed bins.
    reason : Reason | None
        where it is not offered
    notes : list[str]
        what was taken.
    """

    name: str
    design_load: float
    bivalent: float
    on: float | None
    scop: float | None
    assumed_share: float
    bins: list[ScopBin]
    reason: Reason | None
    notes: list[str]


def scop(
    table: RatedTable,
    climate: Climate,
    level: int,
    variable: bool = True,
    bivalent: float | None = None,
    design_load_kw: float | None = None,
    aux: Aux = NO_AUX,
    least_share: float | None = None,
) -> Scop:
    """SCOP in a reference climate.

    Parameters
    ----------
    level : int
        of flow temperature, 35, 45, 55 or 65 [degC]; without meaning for air.
    variable : bool
        the outlet follows the weather, else it is fixed.
    bivalent : float | None
        outdoors at which capacity meets the load [degC]
    design_load_kw : float | None
        instead of it, the load at the design temperature.
    least_share : float | None
        of its capacity, down to which a variable-speed unit with a table of one speed goes; its COP
        is then taken to be that of the table all the way down.

    Source: EN 14825: SCOPon = Σ h·P ÷ Σ h·((P − elbu)/COP + elbu); load falling in a line to 0 at
    16 °C; below the least output COP·CR/(Cc·CR + 1 − Cc) for water, COP·(1 − Cd·(1 − CR)) for air.
    """
    reference = CLIMATES[climate]
    outdoor = reference.first + np.arange(len(reference.hours), dtype=np.float64)
    hours = np.array(reference.hours, np.float64)
    share = np.clip((NO_LOAD - outdoor) / (NO_LOAD - reference.design), 0.0, None)
    if table.kind == TableKind.AIR:
        flow = np.full(len(outdoor), SCOP_INDOOR)
        name = say("climate", climate=climate.value)
    else:
        points = VARIABLE[climate][level]
        flow = np.interp(outdoor, [p[0] for p in points], [p[1] for p in points])
        flow = flow if variable else np.full(len(outdoor), float(level))
        name = say(
            "climate_2",
            value=climate.value,
            level=level,
            outlet=say("variable") if variable else say("fixed"),
        )
    at = reference.bivalent if bivalent is None else bivalent
    if design_load_kw is None:
        there = np.array([at]), np.interp([at], outdoor, flow)
        capacity, _, _ = _held(surface(table), *there)
        of_design = (NO_LOAD - at) / (NO_LOAD - reference.design)
        design_load_kw = float(capacity[0]) / 1000 / of_design
    found = seasonal(table, outdoor, hours, share * design_load_kw * 1000, flow, least_share)
    notes = _notes(table, found, least_share)
    heat = sum(b.heat for b in found)
    used = sum(b.electricity for b in found)
    assumed = sum(b.heat for b in found if b.assumed) / heat if heat else 0.0
    why = None
    if assumed > MOST_ASSUMED:
        why = because(ReasonCode.SCOP_A_GUESS, share=f"{assumed:.0%}")
    on = heat / used if used and why is None else None
    return Scop(
        name=name,
        design_load=design_load_kw,
        bivalent=at,
        on=on,
        scop=with_aux(on, climate, design_load_kw, aux, AuxHours.of(climate), notes),
        assumed_share=assumed,
        bins=found,
        reason=why,
        notes=notes,
    )


def cycled(ratio: Floats, cc: float) -> Floats:
    """Share of its COP that a water unit keeps which cycles at a capacity ratio, (n,).

    Source: EN 14825 (from memory): CR/(Cc·CR + 1 − Cc).
    """
    share: Floats = np.where(ratio > 0, ratio / (cc * ratio + 1 - cc), 1.0)
    return share


def seasonal(
    table: RatedTable,
    outdoor: Floats,
    hours: Floats,
    load: Floats,
    flow: Floats,
    least_share: float | None = None,
) -> list[ScopBin]:
    """The sum over bins of any weather.

    Parameters
    ----------
    outdoor, hours, load, flow : Floats
        arrays, (n,) Of each bin [degC], [h], [W], [degC].

    What the capacity leaves is made by resistance heat, COP 1. A table without capacities carries
    the load; without COPs the electricity is NaN.
    """
    main, least = surface(table, _main(table)), None
    if len(table.speeds) > 1 and table.gives_capacity:
        least = surface(table, table.speeds[0])
    capacity, cop, assumed = _held(main, outdoor, flow)
    if not table.gives_capacity:  # then it is taken to carry the load
        capacity = load
    made = np.minimum(load, capacity)
    ratio = np.ones(len(load))
    if least is not None:
        lowest, low_cop, low_assumed = _held(least, outdoor, flow)
        place = np.clip((made - lowest) / np.maximum(capacity - lowest, 1.0), 0.0, 1.0)
        cop = low_cop + place * (cop - low_cop)
        assumed |= low_assumed
    else:
        # One speed: below its output it cycles, unless it is known how far it goes down.
        lowest = capacity * (1.0 if least_share is None else least_share)
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = np.clip(np.where(lowest > 0, made / lowest, 1.0), 0.0, 1.0)
    cycling = cop * (1 - CD * (1 - ratio) if table.kind == TableKind.AIR else cycled(ratio, CC))
    backup = np.maximum(load - capacity, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        used = np.where(made > 0, made / cycling, 0.0) + backup
    return [
        ScopBin(
            outdoor=float(outdoor[k]),
            hours=float(hours[k]),
            flow=float(flow[k]),
            load=float(load[k]) / 1000,
            capacity=float(capacity[k]) / 1000,
            ratio=float(ratio[k]),
            cop=float(cycling[k]),
            backup=float(backup[k]) / 1000,
            heat=float(load[k] * hours[k]) / WATTS,
            electricity=float(used[k] * hours[k]) / WATTS,
            assumed=bool(assumed[k]),
        )
        for k in range(len(outdoor))
    ]


def _main(table: RatedTable) -> str:
    """The speed of the capacity: the highest there is."""
    return table.speeds[-1]


def _held(shape: Surface, outdoor: Floats, flow: Floats) -> tuple[Floats, Floats, np.ndarray]:
    """Capacity [W] and COP; outside the table the share of Carnot and the capacity at its edge
    hold, and it says so."""
    inside = np.isfinite(shape.cop(outdoor, flow)) | np.isfinite(shape.capacity_at(outdoor, flow))
    held = (
        np.clip(outdoor, shape.outdoor[0], shape.outdoor[-1]),
        np.clip(flow, shape.flow[0], shape.flow[-1]),
    )
    capacity, cop = shape.capacity_at(*held), shape.cop(*held)
    if shape.used is None:
        cop = cop * carnot(outdoor, flow) / carnot(*held)
    return capacity, cop, ~inside


def _notes(table: RatedTable, bins: list[ScopBin], least_share: float | None) -> list[str]:
    found = []
    outside = [b for b in bins if b.assumed and b.heat > 0]
    if outside:
        found.append(
            say(
                "assumed_bins_outside",
                count=len(outside),
                coldest=outside[0].outdoor,
                warmest=outside[-1].outdoor,
            )
        )
    if len(table.speeds) < 2 and least_share is None:
        found.append(say("table_one_speed"))
    elif len(table.speeds) < 2:
        found.append(say("table_one_speed_cop", least_share=least_share))
    cc = say("cd", cd=CD) if table.kind == TableKind.AIR else say("cc", cc=CC)
    found.append(say("value_where_maker", cc=cc))
    if not table.includes_defrost:
        found.append(say("table_leaves_out"))
    return found


def with_aux(
    on: float | None,
    climate: Climate,
    design_kw: float,
    aux: Aux,
    hours: AuxHours,
    notes: list[str],
) -> float | None:
    """SCOP with auxiliary powers: annual heat ÷ (annual heat ÷ SCOPon + their energy)."""
    powers = {
        "thermostat off": aux.thermostat_off,
        "standby": aux.standby,
        "crankcase": aux.crankcase,
        "off": aux.off,
    }
    if on is None:
        return None
    known = hours.on is not None and all(
        hours.by_state[name] is not None for name, p in powers.items() if p
    )
    if not known or all(p is None for p in powers.values()):
        notes.append(
            say("auxiliary_powers_left")
            + (say("none_given") if known else say("their_hours_not", value=climate.value))
        )
        return None
    assert hours.on is not None
    heat = design_kw * hours.on
    extra = sum((p or 0.0) * (hours.by_state[name] or 0.0) / 1000 for name, p in powers.items())
    missing = [name for name, p in powers.items() if p is None and hours.by_state[name]]
    if missing:
        notes.append(say("auxiliary_power_not", missing=", ".join(missing)))
    return heat / (heat / on + extra)
