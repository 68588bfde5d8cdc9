"""Flow temperature: fixed, or above what the house needs."""

import numpy as np

from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.practice import HEATING_BASE
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.comparison.performance_ratio import FLOW_TEMP_LIMIT
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause, Finding
from ember.messages import Source, words_of
from ember.views.control import FLAT, TIGHT
from ember.views.flow import NEEDED_LIMIT, SLOPE_ROUGH, flow_excess

say = words_of(__name__)

# scatter about a flat line, above which nothing can be said [K], common practice, chosen
LOOSE = 6.0
# fixed flow temperature from which it is a finding, common practice, chosen [degC]
FLOW_WARM = 40.0
FLOW_ALIKE = 12.0  # hours that say about the same of a curve, common practice, chosen
# above the described room temperature that nobody minds [K], common practice, chosen
WARM_ROOM = 0.5
# by which the flow of a unit of one speed lies above the mean [K], common practice, chosen
ONE_SPEED = 5.0


def _overheated(context: FindingContext, too_warm: float) -> float:
    """Electricity for rooms warmer than asked, by the house's own line of heat [kWh]."""
    slope = context.capacity.slope
    found = context.figures.reckonings[0] if context.figures.reckonings else None
    if slope is None or found is None or found.cop is None:
        return 0.0
    of, inside = context.ran.hours.of, context.within.hours()
    heated = float((inside & (of["outdoor"] < HEATING_BASE)).sum())
    return slope * too_warm * heated / 1000 / max(found.cop.value, 1.0)


def fixed_flow(context: FindingContext) -> Finding | None:
    """A flow temperature that does not answer to the weather."""
    curve = context.control.curve
    if curve is None or curve.high - curve.low < 6:
        return None
    if curve.slope <= -FLAT or curve.scatter >= LOOSE or curve.at_zero < FLOW_WARM:
        return None
    excess = flow_excess(context.within, context.control)
    if excess is None:
        return None
    mean, kwh, words = excess.mean, excess.kwh, excess.words
    lost = context.loss(kwh, SLOPE_ROUGH, say("kelvin_saves"))
    # Hours are not independent: half a day counts as one; outdoors spread by a fourth.
    spread = (curve.high - curve.low) / 4
    error = curve.scatter / spread / np.sqrt(max(curve.hours / FLOW_ALIKE, 1.0))
    rise = Estimate(
        -curve.slope, "", (UncertaintyComponent(Source(SourceCode.HOURS_SCATTER), float(error)),)
    )
    return context.finding(
        FindingCode.FIXED_FLOW_TEMPERATURE,
        say(
            "sentence",
            where=say("stays_near") if curve.scatter < TIGHT else say("lies_around"),
            at_zero=curve.at_zero,
            mean=mean,
        ),
        context.weight(rise.value + rise.U < FLAT, lost),
        [
            context.evidence(
                say("rise_flow_each"),
                rise,
                FLAT,
                ViewCode.CONTROL,
                above=False,
            )
        ],
        [
            Cause(say("cause_weather_compensation")),
            Cause(say("cause_outdoor_sensor")),
            Cause(say("cause_buffer_second")),
        ],
        say("next_check"),
        care("anybody"),
        context.costed(lost, say("basis_above_flow", words=words)),
        care("comfort"),
        say("clears", flat=FLAT),
    )


def steep_curve(context: FindingContext) -> Finding | None:
    """A weather curve above what the house needs."""
    curve, house = context.control.curve, context.installation.house
    if curve is None or curve.slope > -FLAT or house.design_flow is None:
        return None
    if house.design_outdoor is None:
        return None
    excess = flow_excess(context.within, context.control)
    if excess is None or excess.mean < context.limits.flow_above:
        return None
    mean, kwh, words = excess.mean, excess.kwh, excess.words
    room = context.control.room
    too_warm = 0.0
    if room is not None:
        too_warm = max(room.median - house.design_indoor - WARM_ROOM, 0.0)
    kwh += _overheated(context, too_warm)
    parts = [
        UncertaintyComponent(Source(SourceCode.FLOW_TEMPERATURE), rectangular(FLOW_TEMP_LIMIT)),
        UncertaintyComponent(Source(SourceCode.FLOW_NEEDED), rectangular(NEEDED_LIMIT)),
    ]
    if not context.installation.unit.variable_speed:
        parts.append(UncertaintyComponent(Source(SourceCode.ONE_SPEED), rectangular(ONE_SPEED)))
    measured = Estimate(mean, "kelvin", tuple(parts))
    share = float(np.hypot(SLOPE_ROUGH, measured.U / 2 / mean))
    lost = context.loss(kwh, share, say("kelvin_saves_flow"))
    held: tuple[str, ...] = ()
    if room is not None:
        held = (say("room_median_middle", median=room.median, low=room.low, high=room.high),)
    return context.finding(
        FindingCode.CURVE_TOO_STEEP,
        say("steep_curve_sentence", mean=mean),
        context.weight(measured.value - measured.U > context.limits.flow_above, lost),
        [
            context.evidence(
                say("flow_above_needed"), measured, context.limits.flow_above, ViewCode.CONTROL
            )
        ],
        [
            Cause(say("cause_curve_never"), held),
            Cause(say("cause_rooms_throttled")),
            Cause(say("cause_flow_needed")),
        ],
        say("steep_curve_next_check"),
        care("anybody"),
        context.costed(lost, say("basis_above_flow", words=words)),
        care("comfort"),
        say("steep_curve_clears", flow_above=context.limits.flow_above),
    )
