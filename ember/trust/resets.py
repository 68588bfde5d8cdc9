"""Registers that fall: reset, rollover or another meter."""

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.clock import iso_local
from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.registers import falls
from ember.basis.series import Span
from ember.description.installation import channels_of
from ember.messages import words_of
from ember.metering.register import REGISTER_MOST
from ember.trust.check import Check, Picture, Soundness, not_checkable, series, sound
from ember.trust.context import CheckContext

say = words_of(__name__)


def counter_resets(context: CheckContext) -> Check:
    """Registers that fall, or rise faster than any supply allows.

    They are split already: increments count, the one across the fall is left out, and no kWh is
    negative. Source: common practice.
    """
    trace = context.trace
    channels = [
        channel
        for channel in channels_of(context.installation)
        if channel in trace and quantity_of(channel).kind == Kind.COUNTER
    ]
    if not channels:
        return not_checkable(CheckCode.COUNTER_RESETS, say("no_register_logged"))
    spans: list[Period] = []
    said: list[str] = []
    first = None
    counts_net = False
    for channel in dict.fromkeys(channels):
        values = trace[channel]
        known = np.flatnonzero(np.isfinite(values))
        rise = np.diff(values[known])
        net = channel.startswith("heat_energy")
        wrong = falls(values[known], net) | (rise > REGISTER_MOST * trace.step * np.diff(known))
        counts_net |= bool(net and ((rise < 0) & ~wrong).any())
        bad = np.flatnonzero(wrong)
        bad = bad[~context.left_out[known[bad]]]
        for k in bad:
            spans.append(
                context.period(
                    say("falls", channel=channel), Span(int(known[k]), int(known[k + 1]))
                )
            )
            if len(said) < 5:
                before, after = values[known[k]] / 3.6e6, values[known[k + 1]] / 3.6e6
                when = iso_local(trace.instant(int(known[k + 1])), context.zone)
                said.append(say("from_to", channel=channel, before=before, after=after, when=when))
        if len(bad) and first is None:
            first = channel
    if first is None:
        said_net = say("heat_register_counts")
        text = say("no_register_set", count=len(set(channels)))
        return sound(CheckCode.COUNTER_RESETS, text + said_net * counts_net)
    values = trace[first] / 3.6e6
    at = trace.start + trace.step * np.arange(len(trace))
    every = max(1, len(values) // 400)
    return Check(
        code=CheckCode.COUNTER_RESETS,
        soundness=Soundness.DOUBTFUL,
        sentence=say("sentence", spans=len(spans), said="; ".join(said)),
        spans=tuple(spans),
        remedy=say("remedy"),
        proposals=(),
        affects=(),
        picture=Picture(
            "time",
            say("register_label", first=first),
            True,
            (series(first, at[::every], values[::every], "line"),),
        ),
    )
