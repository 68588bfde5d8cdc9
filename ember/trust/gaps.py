"""Time in which nothing is known."""

import numpy as np

from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import spans_of
from ember.trust.check import (
    Check,
    Picture,
    Soundness,
    Touches,
    not_checkable,
    series,
    sound,
)
from ember.trust.seen import Seen, by_day

CODE = CheckCode.GAPS
LEAST = 0.90  # of the time, for totals of the whole to be stated, common practice
SHOWN_HOURS = 1.0


def gaps(seen: Seen) -> Check:
    """How much of the record has every reading that the widest level needs, and where not; the
    electricity meters where there is no level.

    Source: common practice. A COP of the covered time is not touched by gaps; totals are.
    """
    plan = seen.widest
    names = list(seen.streams.electricity)
    if plan is not None:
        names = [name for _, name in plan.meters]
    if not names:
        return not_checkable(CODE, "No level can be computed from these meters.")
    known = np.ones(len(seen.trace), np.bool_)
    for name in names:
        known &= np.isfinite(seen.streams.every[name].energy)
    share = float(np.count_nonzero(known)) / len(known)
    holes = [s for s in spans_of(~known) if len(s) >= SHOWN_HOURS * seen.hour]
    spans = tuple(seen.period("no reading", s) for s in holes)
    daily = by_day(known.astype(float), seen.days) / np.maximum(np.diff(seen.days), 1) * 100
    at = seen.day_instants
    picture = Picture(
        "day", "covered [%]", True, (series("day", at, daily, "bars"),), (("limit", LEAST * 100),)
    )
    longest = sorted(spans, key=lambda p: p.start - p.stop)
    where = f" The longest: {seen.said(sorted(longest[:3], key=_start))}." if spans else ""
    by = f"at {plan.level}" if plan else "by the electricity meters"
    said = f"{share:.1%} of the time is covered {by}.{where}"
    if share >= LEAST:
        return sound(CODE, said, picture)
    return Check(
        CODE,
        Soundness.DOUBTFUL,
        said,
        spans,
        f"{'The COP of the covered time stands; its' if plan else 'The'} totals are not those of "
        "the whole period. See why the logger was silent, and import what it kept.",
        (),
        (Touches.TOTALS,),
        picture,
    )


def _start(period: Period) -> float:
    return period.start
