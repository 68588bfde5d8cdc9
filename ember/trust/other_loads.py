"""Something else on the circuit of the unit's meter."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.series import Bools
from ember.description.installation import Consumer, Offset
from ember.messages import words_of
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext, by_day

say = words_of(__name__)

OTHER_LOADS_MOST = 100.0  # at rest [W]: standby, crankcase and base-pan heaters, common practice
OTHER_LOADS_PUMP = 80.0  # more where the meter holds a pump [W], common practice
OTHER_LOADS_USUAL = 25.0  # standby left to the unit when a base load is taken off [W]
USUAL_U = 20.0  # U of it (k = 2)
OTHER_LOADS_LEAST_HOURS = 12.0


def other_loads(context: CheckContext) -> Check:
    """What the unit's meter reads while the unit rests: power never near zero although it cycles.

    Source: handbook of the trade (standby 5–20 W typical, 50 W deserves a look); limits common
    practice.
    """
    if context.unit is None:
        return not_checkable(CheckCode.OTHER_LOADS, say("unit_electricity_not"))
    meter = next(m for m in context.installation.electricity if m.name == context.unit.name)
    if not meter.channel.startswith("power"):
        return not_checkable(CheckCode.OTHER_LOADS, say("register_does_not"))
    if context.mixing:
        return not_checkable(CheckCode.OTHER_LOADS, context.mixing, say("log_every_minute"))
    power = context.trace[meter.channel]
    resting = _resting(context) & np.isfinite(power) & ~context.left_out
    hours = np.count_nonzero(resting) / context.hour
    if hours < OTHER_LOADS_LEAST_HOURS:
        return not_checkable(CheckCode.OTHER_LOADS, say("unit_rests_only", hours=hours))
    base = float(np.percentile(power[resting], 25))
    limit = OTHER_LOADS_MOST + (
        OTHER_LOADS_PUMP if Consumer.DISTRIBUTION_PUMP in meter.includes else 0.0
    )
    counts = by_day(resting.astype(float), context.days)
    sums = by_day(np.where(resting, power, 0.0), context.days)
    with np.errstate(invalid="ignore", divide="ignore"):
        daily = np.where(counts > context.hour / 2, sums / counts, np.nan)
    at = context.day_instants
    picture = Picture(
        "day", say("power_rest"), True, (series("day", at, daily),), (("limit", limit),)
    )
    said = say("rest_reads_more", name=meter.name, base=base, limit=limit)
    if base <= limit:
        return sound(CheckCode.OTHER_LOADS, said, picture)
    share = base * hours * 3600 / max(float(np.nansum(context.unit.energy)), 1.0)
    return Check(
        code=CheckCode.OTHER_LOADS,
        soundness=Soundness.DOUBTFUL,
        sentence=say("sentence", said=said, share=share),
        spans=(context.whole,),
        remedy=say("remedy", base=base - OTHER_LOADS_USUAL),
        proposals=(
            Offset(
                channel=meter.channel,
                add=-round(base - OTHER_LOADS_USUAL),
                U=USUAL_U,
                reason=say("other_loads_circuit"),
            ),
        ),
        affects=(Affects.ELECTRICITY,),
        picture=picture,
    )


def _resting(context: CheckContext) -> Bools:
    """Where the unit rests for a quarter of an hour already: by the water, if it is logged."""
    if context.circuit is not None:
        flow = context.trace[context.circuit.flow_rate]
        idle = ~context.pumping & np.isfinite(flow)
        if (
            np.count_nonzero(idle) / context.hour < OTHER_LOADS_LEAST_HOURS
        ):  # a pump that never rests
            idle = (np.abs(context.delta) < 0.8) & np.isfinite(flow) & ~context.on
    else:
        idle = ~context.on
    index = np.arange(len(idle))
    last = np.maximum.accumulate(np.where(idle, -1, index))
    resting: Bools = idle & ((index - last) * context.trace.step > 900)
    return resting
