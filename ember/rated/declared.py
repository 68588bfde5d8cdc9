"""SCOP by EN 14825 from the points that a maker declares, A to G.

Only this is called SCOP: between the declared points the COP, degraded at them, and the capacity
are straight lines over the outdoor temperature; warmer than D the line from C to D goes on; below
the low outdoor limit the heater carries all.
"""

from collections.abc import Sequence

import numpy as np

from ember.basis.series import Floats
from ember.description.declared import Declared, DeclaredPoint
from ember.messages import words_of
from ember.rated.climates import CLIMATES, NO_LOAD
from ember.rated.scop import CC, AuxHours, Scop, ScopBin, cycled, with_aux

say = words_of(__name__)


def scop_declared(declared: Declared) -> Scop:
    """SCOP of the declared points in their climate.

    Source: EN 14825 (from memory): load falling in a line to 0 at 16 °C; COP at a declared point
    whose capacity exceeds the load: COP·CR/(Cc·CR + 1 − Cc), CR = load ÷ capacity; SCOPon = Σ h·P ÷
    Σ h·((P − elbu)/COP + elbu); SCOP = annual heat ÷ (annual heat ÷ SCOPon + Σ auxiliary energy).
    """
    reference = CLIMATES[declared.climate]
    outdoor = reference.first + np.arange(len(reference.hours), dtype=np.float64)
    hours = np.array(reference.hours, np.float64)
    load = declared.design_load_kw * (NO_LOAD - outdoor) / (NO_LOAD - reference.design)
    points = sorted(declared.points, key=lambda p: p.outdoor)
    at = np.array([p.outdoor for p in points])
    cops = np.array([_degraded(p, declared, reference.design) for p in points])
    capacity = _line(outdoor, at, np.array([p.capacity_kw for p in points]))
    cop = _line(outdoor, at, cops)
    flow = _line(outdoor, at, np.array([p.flow for p in points]))
    notes = []
    if declared.low_limit is not None:
        below = outdoor < declared.low_limit
        capacity = np.where(below, 0.0, capacity)
        if below.any() and hours[below].sum():
            notes.append(
                say("below_limit_heater", low_limit=declared.low_limit, hours=hours[below].sum())
            )
    capacity = np.maximum(capacity, 0.0)
    backup = np.maximum(load - capacity, 0.0)
    made = load - backup
    used = made / cop + backup
    coldest = float(at[0])
    if coldest > reference.design and (declared.low_limit is None or declared.low_limit < coldest):
        notes.append(say("assumed_no_point", coldest=coldest))
    lacking = [p.name for p in points if p.cc is None]
    if lacking:
        notes.append(say("cc_value_where", cc=CC, lacking=", ".join(lacking)))
    bins = [
        ScopBin(
            outdoor=float(outdoor[k]),
            hours=float(hours[k]),
            flow=float(flow[k]),
            load=float(load[k]),
            capacity=float(capacity[k]),
            ratio=float(min(made[k] / capacity[k], 1.0)) if capacity[k] > 0 else 0.0,
            cop=float(cop[k]),
            backup=float(backup[k]),
            heat=float(load[k] * hours[k]),
            electricity=float(used[k] * hours[k]),
            assumed=bool(outdoor[k] < coldest),
        )
        for k in range(len(outdoor))
    ]
    on = sum(b.heat for b in bins) / sum(b.electricity for b in bins)
    assumed = sum(b.heat for b in bins if b.assumed) / sum(b.heat for b in bins)
    outlet = say("variable") if declared.variable else say("fixed")
    name = say(
        "climate_outlet", climate=declared.climate.value, level=declared.level, outlet=outlet
    )
    bivalent = declared.bivalent
    if bivalent is None:
        short = outdoor[backup > 1e-9]
        bivalent = float(short[-1]) + 1.0 if len(short) else float(reference.design)
    full = with_aux(
        on,
        declared.climate,
        declared.design_load_kw,
        declared.aux,
        AuxHours.of(declared.climate, declared.aux_hours),
        notes,
    )
    return Scop(
        name=name,
        design_load=declared.design_load_kw,
        bivalent=bivalent,
        on=on,
        scop=full,
        assumed_share=assumed,
        bins=bins,
        reason=None,
        notes=notes,
    )


def _degraded(point: DeclaredPoint, declared: Declared, design: float) -> float:
    """The COP at a declared point, with the loss of cycling where its capacity exceeds the load."""
    load = declared.design_load_kw * (NO_LOAD - point.outdoor) / (NO_LOAD - design)
    if point.load_kw is not None:
        load = point.load_kw
    ratio = min(load / point.capacity_kw, 1.0) if point.capacity_kw > 0 else 1.0
    if ratio <= 0.0:
        return point.cop
    return point.cop * float(cycled(np.array([ratio]), CC if point.cc is None else point.cc)[0])


def _line(outdoor: Floats, at: Floats, values: Sequence[float] | Floats) -> Floats:
    """Straight lines between points; beyond the last the last line goes on."""
    values = np.asarray(values, np.float64)
    result: Floats = np.interp(outdoor, at, values)
    if len(at) > 1:
        warm = outdoor > at[-1]
        slope = (values[-1] - values[-2]) / (at[-1] - at[-2])
        result[warm] = values[-1] + slope * (outdoor[warm] - at[-1])
        cold = outdoor < at[0]
        first = (values[1] - values[0]) / (at[1] - at[0])
        result[cold] = values[0] + first * (outdoor[cold] - at[0])
    return result
