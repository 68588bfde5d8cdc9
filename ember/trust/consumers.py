"""Consumers that are counted twice, or not at all."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import Bools, Floats, Ints, Span, filled
from ember.description.installation import HEATERS, ElectricityMeter, HeatSource, Loads
from ember.messages import words_of
from ember.metering.resolution import step_of
from ember.states import State
from ember.trust.check import Affects, Check, Picture, Soundness, not_checkable, series, sound
from ember.trust.context import CheckContext

say = words_of(__name__)

CONSUMERS_STEP = 400.0  # by which a heater's power changes when it switches [W]
TWICE = 0.7  # of that step seen at another meter: it holds the heater too; common practice, chosen
LEAST_EVENTS = 6
HEAT_STEP = 1000.0  # of heat that comes without electricity [W], common practice, chosen
CONSUMERS_STEPS = 2.2  # of a temperature that a heater's heat must exceed
CONSUMERS_WATER = 4.15e6  # volumetric heat capacity, for that alone [J/(m3 K)]
CONSUMERS_STEADY = 0.04  # by which the flow may change meanwhile
OUT_OF_NOISE = 8.0  # times the noise of such steps
WITHOUT = 0.08  # of such a step that may show in the electricity
RETURN = 0.5  # of the step of ΔT, by which the return may move with it
CONSUMERS_AROUND = 180.0  # [s] compared before and after a step
CONSUMERS_QUIET = 900.0  # [s] from any change of state
SLOWEST = 120  # coarsest step at which a heater is told from a defrost [s], common practice, chosen


def consumers(context: CheckContext) -> Check:
    """Whether a heater's switching shows at a meter that should not hold it, or in the heat alone.

    Source: energy balance; limits common practice.
    """
    lacking = [p for p in context.combinations.values() if p.reason is not None and p.lacking]
    unmetered = lacking[-1].lacking if lacking else ()
    note = ""
    if unmetered:
        named = ", ".join(c.value.replace("_", " ") for c in unmetered)
        note = say("not_metered_description", named=named)
    doubled = _twice(context)
    if doubled is not None:
        return doubled
    missing = _missing(context)
    if isinstance(missing, Check):
        return missing
    if missing and not any(set(m.includes) <= HEATERS for m in context.installation.electricity):
        return not_checkable(CheckCode.CONSUMERS, missing + note)
    return sound(
        CheckCode.CONSUMERS,
        say("no_heater_switching") + note,
    )


def _twice(context: CheckContext) -> Check | None:
    """A heater with a meter of its own that also shows at the unit's."""
    if context.unit is None or not context.unit.sampled:
        return None
    mine = next(m for m in context.installation.electricity if m.name == context.unit.name)
    for meter in context.installation.electricity:
        if meter.name == mine.name or not set(meter.includes) <= HEATERS:
            continue
        meter_energy = context.meter_energies.electricity.get(meter.name)
        if (
            meter_energy is None
            or not meter_energy.sampled
            or set(meter.includes) <= set(mine.includes)
        ):
            continue
        heater = np.diff(meter_energy.energy) / context.trace.step
        unit = np.diff(context.unit.energy) / context.trace.step
        with np.errstate(invalid="ignore"):
            at = np.flatnonzero(
                (np.abs(heater) > CONSUMERS_STEP) & np.isfinite(unit) & ~context.left_out[1:]
            )
        if len(at) < LEAST_EVENTS:
            continue
        share = unit[at] / heater[at]
        middle = float(np.median(share))
        if middle > TWICE:
            return _doubled(context, mine, meter, middle, heater[at], unit[at])
    return None


def _doubled(
    context: CheckContext,
    mine: ElectricityMeter,
    meter: ElectricityMeter,
    middle: float,
    x: Floats,
    y: Floats,
) -> Check:
    includes = tuple(dict.fromkeys((*mine.includes, *meter.includes)))
    named = say("and").join(c.value.replace("_", " ") for c in meter.includes)
    return Check(
        code=CheckCode.CONSUMERS,
        soundness=Soundness.DOUBTFUL,
        sentence=say(
            "sentence", named=named, name=mine.name, middle=middle, value=len(x), name_2=meter.name
        ),
        spans=(context.whole,),
        remedy=say("remedy", name=mine.name, named=named),
        proposals=(
            Loads(meter=mine.name, includes=includes, reason=say("power_moves", named=named)),
        ),
        affects=(Affects.ELECTRICITY,),
        picture=Picture(
            say("step", name=meter.name),
            say("step", name=mine.name),
            False,
            (series("switching", x, y),),
        ),
    )


def _missing(context: CheckContext) -> Check | str:
    """Heat that steps up and down alone in settled heating, or why that cannot be seen."""
    circuit, trace = context.circuit, context.trace
    if circuit is None or context.unit is None or not context.unit.sampled:
        return say("power_flow_delta")
    if trace.step > SLOWEST:
        return say("readings_every_too", step=trace.step)
    cells = max(1, round(CONSUMERS_AROUND / trace.step))
    quiet = round(CONSUMERS_QUIET / trace.step)
    settled = (context.states.state == State.HEATING) & ~context.states.recovery & ~context.left_out
    power = np.zeros(len(trace))
    for meter_energy in context.meter_energies.electricity.values():
        power += meter_energy.energy
    # Means after a cell minus means before it, the cell itself and its neighbour left out.
    rise = _step(context.meter_energies.heat[circuit.name].energy / trace.step, cells)
    fit = _all_settled(settled, quiet, 2 * cells + 2)[: len(rise)]
    if not fit.any():
        return ""
    noise = 1.48 * float(np.median(np.abs(rise[fit][:: max(1, len(rise) // 50_000)])))
    flow = trace[circuit.flow_rate]
    # One step of coarse sensors moves the heat by this much, and is no heater.
    coarse = max(step_of(trace[c]) for c in (circuit.flow_temp, circuit.return_temp))
    flowing = flow[settled & np.isfinite(flow)]
    if not len(flowing):
        return say("flow_not_logged")
    grain = CONSUMERS_STEPS * coarse * CONSUMERS_WATER * float(np.median(flowing))
    steep = np.flatnonzero(fit & (np.abs(rise) > max(HEAT_STEP, OUT_OF_NOISE * noise, grain)))
    after = np.array([flow[k + cells + 1 : k + 2 * cells + 1].mean() for k in steep])
    before = np.array([flow[k : k + cells].mean() for k in steep])
    used = _steps_at(power / trace.step, cells, steep)
    # A heater warms what leaves; where the return jumps too, the valve has turned.
    back = _steps_at(trace[circuit.return_temp], cells, steep)
    apart = _steps_at(context.delta, cells, steep)
    alone = steep[
        (np.abs(used) < WITHOUT * np.abs(rise[steep]))
        & (np.abs(back) < RETURN * np.abs(apart))
        & (
            np.abs(after - before) < CONSUMERS_STEADY * before
        )  # air in the water also makes heat jump
    ]
    events = np.split(alone, np.flatnonzero(np.diff(alone) > 1) + 1) if len(alone) else []
    peaks = [int(event[np.argmax(np.abs(rise[event]))]) for event in events]
    found_at = [peak + cells for peak in peaks]
    steps = [abs(float(rise[peak])) for peak in peaks]
    if len(steps) < LEAST_EVENTS:
        return ""
    sizes = np.array(steps)
    middle = float(np.median(sizes))
    spans = tuple(
        context.period(say("heat_alone"), Span(k, min(k + cells, len(trace)))) for k in found_at
    )
    held = tuple(dict.fromkeys((*circuit.includes, HeatSource.BACKUP_HEATER)))
    return Check(
        code=CheckCode.CONSUMERS,
        soundness=Soundness.DOUBTFUL,
        sentence=say("missing_sentence", middle=middle / 1000, steps=len(steps)),
        spans=spans,
        remedy=say("missing_remedy"),
        proposals=tuple(
            Loads(meter=name, includes=held, reason=say("heat_no_electricity"))
            for name in (circuit.name, *(r.name for r in context.installation.registers))
        ),
        affects=(Affects.HEAT,),
        picture=Picture(
            "event", say("step_heat"), False, (series("event", np.arange(len(sizes)), sizes),)
        ),
    )


def _step(values: Floats, cells: int) -> Floats:
    """Mean of `cells` from the second cell after a stretch of as many, less the mean of that."""
    total = np.concatenate([[0.0], np.cumsum(filled(values))])
    mean = (total[cells:] - total[:-cells]) / cells
    step: Floats = mean[cells + 1 :] - mean[: -cells - 1]
    return step


def _steps_at(values: Floats, cells: int, at: Ints) -> Floats:
    """The same, of a few stretches that begin `at`."""
    around = np.arange(cells)
    before, after = values[at[:, None] + around], values[at[:, None] + cells + 1 + around]
    step: Floats = np.nan_to_num(after).mean(axis=1) - np.nan_to_num(before).mean(axis=1)
    return step


def _all_settled(settled: Bools, before: int, after: int) -> Bools:
    """Where the cells from `before` earlier to `after` later are all settled, (n,)."""
    n = len(settled)
    ill = np.zeros(n + before + after, np.int64)  # how many before each cell are not
    np.cumsum(~settled[:-1], out=ill[before + 1 : before + n])
    ill[before + n :] = np.count_nonzero(~settled)
    result: Bools = ill[before + after :] == ill[:n]
    return result
