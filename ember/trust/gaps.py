"""Time in which nothing is known."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import spans_of
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

GAPS_LEAST = 0.90  # of the time, for totals of the whole to be stated, common practice
SHOWN_HOURS = 1.0


def gaps(context: CheckContext) -> Check:
    """How much of the record has every reading that the widest level needs, and where not; the
    electricity meters where there is no level.

    Source: common practice. A COP of the covered time is not touched by gaps; totals are.
    """
    combination = context.widest
    names = list(context.meter_energies.electricity)
    if combination is not None:
        names = [name for _, name in combination.meters]
    if not names:
        return not_checkable(CheckCode.GAPS, say("no_level_can"))
    known = np.ones(len(context.trace), np.bool_)
    for name in names:
        known &= np.isfinite(context.meter_energies.every[name].energy)
    share = float(np.count_nonzero(known)) / len(known)
    holes = [s for s in spans_of(~known) if len(s) >= SHOWN_HOURS * context.hour]
    spans = tuple(context.period(say("no_reading"), s) for s in holes)
    daily = by_day(known.astype(float), context.days) / np.maximum(np.diff(context.days), 1) * 100
    at = context.day_instants
    picture = Picture(
        "day",
        say("covered"),
        True,
        (series("day", at, daily, "bars"),),
        (("limit", GAPS_LEAST * 100),),
    )
    longest = sorted(spans, key=lambda p: p.start - p.stop)
    where = say("longest", said=context.said(sorted(longest[:3], key=_start))) if spans else ""
    by = say("at_level", level=combination.level) if combination else say("electricity_meters")
    said = say("time_covered", share=share, by=by, where=where)
    if share >= GAPS_LEAST:
        return sound(CheckCode.GAPS, said, picture)
    return Check(
        code=CheckCode.GAPS,
        soundness=Soundness.DOUBTFUL,
        sentence=said,
        spans=spans,
        remedy=say("remedy") if combination else say("remedy_totals"),
        proposals=(),
        affects=(Affects.TOTALS,),
        picture=picture,
    )


def _start(period: Period) -> float:
    return period.start
