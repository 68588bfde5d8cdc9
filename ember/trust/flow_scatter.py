"""Air in the water: the flow reading jumps while the pump runs steadily."""

from collections.abc import Sequence
from zoneinfo import ZoneInfo

import numpy as np

from ember.clock import DAY, iso_local, local_days, wall_clock
from ember.installation import Exclusion, Installation
from ember.metering import Streams
from ember.period import Period
from ember.running import Running, State
from ember.trace import Span, Trace, mask_of, spans_of
from ember.trust.check import Check, Soundness, not_checkable, sound

NAME = "flow reading"
MOST = 0.08  # mean jump from reading to reading as a share of the flow; healthy: 0.01–0.03 (cp)
LEAST_HOURS = 1.0  # of running, for a day to be judged
BRIDGE = 3  # days between two bad ones that are not believed either (selection, handbook §6)


def flow_scatter(
    installation: Installation,
    trace: Trace,
    streams: Streams,
    states: Running,
    zone: ZoneInfo,
    excluded: Sequence[tuple[Span, str]],
) -> Check:
    """Days on which the flow reading is erratic. What is excluded already is not looked at.

    Source: common practice.
    """
    circuit = next((c for c in installation.circuits if c.name in streams.heat), None)
    if circuit is None:
        return not_checkable(NAME, "The flow is not logged.")
    flow = trace[circuit.flow_rate]
    # Settled, in the same state, so that valve changes and starts do not count.
    settled = (states.state == State.HEATING) | (states.state == State.HOT_WATER)
    settled &= ~mask_of([span for span, _ in excluded], len(settled))
    both = settled[1:] & settled[:-1] & (states.state[1:] == states.state[:-1])
    jump = np.abs(np.diff(flow))
    both &= np.isfinite(jump)
    jump[~both] = 0.0
    level = np.where(both, flow[1:], 0.0)
    _, edges = local_days(trace.start, trace.stop, zone)
    cells = np.clip((edges - trace.start) // trace.step, 0, len(jump))[:-1]
    keep = cells < len(jump)
    at = cells[keep]
    total, base = np.add.reduceat(jump, at), np.add.reduceat(level, at)
    hours = np.add.reduceat(both.astype(np.int64), at) * trace.step / 3600
    judged = hours >= LEAST_HOURS
    if not judged.any():
        return not_checkable(NAME, "No day has an hour of settled running with a flow reading.")
    with np.errstate(invalid="ignore", divide="ignore"):
        scatter = np.where(judged, total / base, 0.0)
        scatter = np.where(judged & (base <= 0), np.inf, scatter)
    bad = scatter > MOST
    typical = float(np.median(scatter[judged & ~bad])) if (judged & ~bad).any() else np.nan
    if not bad.any():
        return sound(
            NAME,
            f"From one reading to the next the flow moves by {typical:.1%} while the pump runs; "
            f"up to {MOST:.0%} is usual.",
        )
    for gap in spans_of(~bad):  # a good day between bad ones is not believed
        if gap.start > 0 and gap.stop < len(bad) and len(gap) <= BRIDGE:
            bad[gap.start : gap.stop] = True
    spans = tuple(
        Period("flow erratic", float(edges[s.start]), float(edges[s.stop])) for s in spans_of(bad)
    )
    count = round(sum(span.stop - span.start for span in spans) / DAY)
    worst = float(np.max(scatter[np.isfinite(scatter)]))
    said = (
        f"On {count} of {int(judged.sum())} days the flow reading jumps by up to {worst:.0%} from "
        f"one reading to the next while the pump runs ({MOST:.0%} is the limit): "
        + ", ".join(
            f"{iso_local(s.start, zone)[:10]} to {iso_local(s.stop - 1, zone)[:10]}"
            for s in spans[:3]
        )
        + (f" and {len(spans) - 3} more." if len(spans) > 3 else ".")
    )
    proposals = tuple(
        Exclusion(
            start=wall_clock(s.start, zone),
            end=wall_clock(s.stop, zone),
            reason="air in the flow meter",
        )
        for s in spans
    )
    return Check(
        NAME,
        Soundness.DOUBTFUL,
        said,
        spans,
        "Probably air in the water: exclude these days; vent at the high points and radiators "
        "and log again.",
        proposals,
    )
