"""A log as a logger would have kept it that writes seldom: every quarter of an hour, every hour,
once a day."""

from dataclasses import replace

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.series import Floats, Trace
from ember.description.installation import Installation

RATES = ("power", "heat_power", "flow_rate")
ELECTRIC_STEP, HEAT_STEP = 0.1 * 3.6e6, 3.6e6  # of the displays' registers [J]


def seldom(trace: Trace, step: int, counters: bool) -> Trace:
    """The same log on rows further apart: means of levels, registers as they stand.

    Parameters
    ----------
    step : of its rows [s], a multiple of the trace's. counters : registers in place of powers and
        flows, electricity in steps of 0.1 kWh and heat in steps of 1 kWh.
    """
    per = step // trace.step
    lead = (-trace.start // trace.step) % per
    count = (len(trace) - lead) // per
    channels: dict[str, Floats] = {}
    for channel in trace.channels:
        values = trace[channel][lead : lead + count * per].reshape(count, per)
        quantity = quantity_of(channel)
        if counters and quantity.name == "power":
            whole = np.cumsum(np.nan_to_num(trace[channel])) * trace.step
            register = np.concatenate([[0.0], whole])[lead : lead + count * per : per]
            name = channel.replace("power", "energy", 1)
            channels[name] = np.floor(register / ELECTRIC_STEP) * ELECTRIC_STEP
        elif counters and quantity.name in RATES:
            continue
        elif quantity.kind == Kind.COUNTER:
            channels[channel] = values[:, 0]
        else:
            known = np.isfinite(values)
            total = np.where(known, values, 0.0).sum(axis=1)
            with np.errstate(invalid="ignore"):
                channels[channel] = total / known.sum(axis=1)
    start = trace.start + lead * trace.step
    return on_hours(Trace(start, step, channels)) if step > 3600 else Trace(start, step, channels)


def on_hours(trace: Trace) -> Trace:
    """Rows more than an hour apart on a grid of hours, levels held, as the core would lay them."""
    per = trace.step // 3600
    channels: dict[str, Floats] = {}
    for channel in trace.channels:
        values = np.repeat(trace[channel], per)
        if quantity_of(channel).kind == Kind.COUNTER:
            values[np.arange(len(values)) % per != 0] = np.nan
        channels[channel] = values
    return Trace(trace.start, 3600, channels, dict.fromkeys(channels, float(trace.step)))


def metered_by_counters(installation: Installation) -> Installation:
    """The description of a log whose powers are registers."""
    meters = tuple(
        replace(m, channel=m.channel.replace("power", "energy", 1))
        for m in installation.electricity
    )
    return replace(installation, electricity=meters)
