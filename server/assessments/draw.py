"""What a chart of a window draws: lanes, states, defrosts.

No arithmetic of the job: readings are picked, curves come from the core, and where many cells
fall in one point its least and greatest value are kept, so that a three-minute defrost is seen in
a year.
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.channels import Kind, quantity_of
from ember.basis.periods import Period
from ember.basis.series import Floats
from ember.description.installation import Installation, Swap
from ember.events.refrigerant_circuit import inside
from ember.states import State
from ember.views.curves import Curves, by_hours, curve_combination, curves, quotient
from server.assessments.models import CachedResults
from server.readings.codec import CODEC_QUARTER, overview
from server.readings.lanes import LONG, Lane, decimated, long_lanes, of_quarters
from server.readings.record import by_hand, part_of
from server.readings.store import StoreError
from server.systems.models import System

DRAW_AROUND = 86_400  # read before and after a window, for what hangs on its neighbours [s]
DRAW_REFRIGERANT = {  # drawn from pressures: what it is of Inside, and its unit
    "saturation:evaporating": ("evaporating", "degC"),
    "saturation:condensing": ("condensing", "degC"),
    "superheat:circuit": ("superheat", "kelvin"),
}
MOST_RUNS = 400  # more lie too close to be snapped to
MOST_LEFT = 200
DRAW_MOST_BARS = 900  # states drawn one by one; more are drawn by what prevails


def drawn_channels(installation: Installation, channels: tuple[str, ...]) -> list[str]:
    """The logged channels that the workspace draws, in order."""
    wanted = []
    for circuit in installation.circuits:
        wanted += [circuit.flow_temp, circuit.return_temp, circuit.flow_rate]
    for air in installation.air:
        wanted += [air.supply_temp, air.return_temp]
        wanted += [air.airflow] if air.airflow is not None else []
    wanted += [c for c in channels if quantity_of(c).name in ("tank_temp", "outdoor_humidity")]
    wanted.append(installation.outdoor.channel)
    return [c for c in dict.fromkeys(wanted) if c in channels]


def further_channels(analysis: RecordAnalysis) -> list[str]:
    """What the workspace can draw besides, when asked: other levels and rates, and the
    refrigerant's
    temperatures. Registers and flags say nothing as a line."""
    usual = drawn_channels(analysis.installation, analysis.facts.channels)
    found = [
        c
        for c in analysis.facts.channels
        if c not in usual and quantity_of(c).kind in (Kind.LEVEL, Kind.RATE)
    ]
    side = analysis.installation.refrigerant
    if side is not None and side.evaporating_pressure in analysis.facts.channels:
        found += DRAW_REFRIGERANT
    return found


def window(
    system: System,
    analysis: RecordAnalysis,
    period: Period,
    points: int,
    further: Sequence[str] = (),
) -> tuple[dict[str, Any], np.ndarray]:
    """The head and the values of a window's chart. further : channels to draw besides."""
    drawn, channels = lanes_of(system, analysis, period, points, further)
    heads, arrays, at = [], [], 0
    for lane in drawn:
        parts = [lane.low]
        if lane.low is not lane.high:
            parts += [lane.high] if lane.mean is None else [lane.high, lane.mean]
        if lane.channel not in channels and not np.isfinite(lane.low).any():
            continue
        heads.append(
            {
                "channel": lane.channel,
                "unit": _unit(lane.channel),
                "start": lane.start,
                "step": lane.step,
                "count": len(lane.low),
                "at": at,
                "arrays": len(parts),
            }
        )
        arrays += [part.astype(np.float32) for part in parts]
        at += len(lane.low) * len(parts)
    head = {
        "start": period.start,
        "stop": period.stop,
        "lanes": heads,
        "further": further_channels(analysis),
        "level": combination.level.value if (combination := curve_combination(analysis)) else None,
        **_states(analysis, period, points),
        **_marked(analysis, period),
    }
    return head, np.concatenate(arrays) if arrays else np.empty(0, np.float32)


def lanes_of(
    system: System, analysis: RecordAnalysis, period: Period, points: int, further: Sequence[str]
) -> tuple[list[Lane], list[str]]:
    """Every lane of a window, and which of them are logged channels."""
    channels = drawn_channels(analysis.installation, analysis.facts.channels)
    channels += [c for c in further_channels(analysis) if c in further]
    if period.stop - period.start > LONG and not by_hand(system, analysis):
        logged = tuple(c for c in channels if c not in DRAW_REFRIGERANT)
        drawn = long_lanes(system, logged, period.start, period.stop, points)
        drawn = _uncrossed(drawn, analysis.described)
        drawn += _long_curves(system, analysis, period, points)
        cop = _cop_by_hours(analysis, period)
    else:
        drawn, cop = _short(system, analysis, period, channels, points)
    return [*drawn, *cop], channels


def _uncrossed(lanes: list[Lane], described: Installation) -> list[Lane]:
    """Lanes of the overview, which holds readings as they were logged, with the swaps of the whole
    record made. Small offsets are not seen at this scale and are left as logged."""
    for correction in described.corrections:
        if isinstance(correction, Swap) and correction.start is None and correction.end is None:
            one, other = correction.channels
            names = {one: other, other: one}
            lanes = [replace(lane, channel=names.get(lane.channel, lane.channel)) for lane in lanes]
    return lanes


def _unit(channel: str) -> str:
    if channel in ("heat", "power"):
        return "watt"
    if channel in DRAW_REFRIGERANT:
        return DRAW_REFRIGERANT[channel][1]
    return "" if channel in ("cop", "rated") else quantity_of(channel).unit


def _short(
    system: System, analysis: RecordAnalysis, period: Period, channels: list[str], points: int
) -> tuple[list[Lane], list[Lane]]:
    """Lanes of a window of days, from the readings themselves."""
    step = analysis.segments.step
    try:
        trace = part_of(system, analysis, period.start - DRAW_AROUND, period.stop + DRAW_AROUND)
    except StoreError:
        return [], []
    trace = analysis.like(trace)
    first = max(0, (trace.start - analysis.start) // step)
    last = min(first + len(trace), int(analysis.segments.edges[-1]))
    trace = trace.between(analysis.start + first * step, analysis.start + last * step)
    states = analysis.states(first, last)
    walked = analysis.walked(trace, states)
    a, b = trace.cell(period.start), trace.cell(period.stop)
    begin = float(trace.instant(a))

    def lane(name: str, values: Floats | None) -> list[Lane]:
        if values is None:
            return []
        seen = values[a:b]
        return [decimated(name, begin, float(step), seen, seen, points)]

    found = curves(analysis, walked)
    drawn = [item for c in channels if c in trace for item in lane(c, trace[c])]
    side = analysis.installation.refrigerant
    if side is not None and set(channels) & set(DRAW_REFRIGERANT):
        seen = inside(side, trace)
        if seen is not None:
            for name, (attribute, _) in DRAW_REFRIGERANT.items():
                if name in channels:
                    drawn += lane(name, getattr(seen, attribute))
    drawn += lane("heat", found.heat) + lane("power", found.power)
    return drawn, _cop(found, a, b, begin, step, points)


def _cop(found: Curves, a: int, b: int, begin: float, step: int, points: int) -> list[Lane]:
    per = max(1, -(-(b - a) // points))
    drawn = []
    pairs = (
        ("cop", found.cop_heat, found.cop_electricity),
        ("rated", found.rated_heat, found.rated_electricity),
    )
    for name, over, under in pairs:
        if over is not None and under is not None and b > a:
            values = quotient(over[a:b], under[a:b], per, 100.0 * step * per)
            drawn.append(Lane(name, begin, float(step * per), values, values))
    return drawn


def _cop_by_hours(analysis: RecordAnalysis, period: Period) -> list[Lane]:
    width = 3600 * max(1, round((period.stop - period.start) / 3600 / 400))
    edges = np.arange(period.start // 3600 * 3600, period.stop + width, width)
    measured, rated = by_hours(analysis, edges.tolist())
    start = float(edges[0])
    return [
        Lane("cop", start, float(width), measured, measured),
        Lane("rated", start, float(width), rated, rated),
    ]


def _long_curves(
    system: System, analysis: RecordAnalysis, period: Period, points: int
) -> list[Lane]:
    content = bytes(CachedResults.objects.values_list("overview", flat=True).get(system=system))
    begin = analysis.start // CODEC_QUARTER * CODEC_QUARTER
    return [
        of_quarters(name, begin, found, period.start, period.stop, points)
        for name, found in overview(content, ("heat", "power")).items()
    ]


def _marked(analysis: RecordAnalysis, period: Period) -> dict[str, Any]:
    """Runs in the window, for the brush to snap to, and what the analyst has left out."""
    segments, step = analysis.segments, analysis.segments.step
    begins, stops = (analysis.start + analysis.runs[:, k] * step for k in (0, 1))
    seen = (stops > period.start) & (begins < period.stop)
    few = np.count_nonzero(seen) <= MOST_RUNS
    out = np.flatnonzero(
        (segments.excluded >= 0)
        & (segments.begins < period.stop)
        & (segments.begins + segments.cells * step > period.start)
    )
    left = []
    if len(out):
        apart = (np.diff(out, prepend=-2) != 1) | (np.diff(segments.excluded[out], prepend=-2) != 0)
        first = np.flatnonzero(apart)
        last = np.append(first[1:], len(out)) - 1
        ends = segments.begins + segments.cells * step
        left = [
            {
                "start": float(max(segments.begins[out[a]], period.start)),
                "stop": float(min(ends[out[b]], period.stop)),
                "reason": segments.reasons[int(segments.excluded[out[a]])],
            }
            for a, b in zip(first.tolist(), last.tolist(), strict=True)
        ][:MOST_LEFT]
    return {
        "run_starts": begins[seen].astype(float).tolist() if few else [],
        "run_stops": stops[seen].astype(float).tolist() if few else [],
        "left_out": left,
    }


def _states(analysis: RecordAnalysis, period: Period, points: int) -> dict[str, Any]:
    """The ribbon: each state where there is room, else what prevails; and the defrosts."""
    segments, step = analysis.segments, analysis.segments.step
    inside = np.flatnonzero(
        (segments.begins < period.stop) & (segments.begins + segments.cells * step > period.start)
    )
    state = segments.state[inside]
    change = np.flatnonzero(np.diff(state, prepend=-1) != 0)
    begins = np.maximum(segments.begins[inside][change], period.start)
    if len(change) > DRAW_MOST_BARS:
        edges = np.linspace(period.start, period.stop, min(points, 600) + 1)
        held = np.zeros((len(State), len(edges) - 1))
        label = np.clip(
            np.searchsorted(edges, segments.begins[inside], "right") - 1, 0, len(edges) - 2
        )
        np.add.at(held, (state, label), segments.cells[inside])
        codes = held.argmax(axis=0)
        change = np.flatnonzero(np.diff(codes, prepend=-1) != 0)
        begins, codes = edges[change], codes[change]
    else:
        codes = state[change]
    starts = analysis.start + analysis.defrosts[:, 0] * step
    stops = analysis.start + analysis.defrosts[:, 1] * step
    seen = (stops > period.start) & (starts < period.stop) & (not analysis.swapped)
    return {
        "basis": {what: how.words for what, how in analysis.facts.basis.items()},
        "state_starts": begins.astype(float).tolist(),
        "states": [State(int(code)).words for code in codes],
        "defrost_starts": starts[seen].astype(float).tolist(),
        "defrost_stops": stops[seen].astype(float).tolist(),
    }
