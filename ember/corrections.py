"""Corrections that the analyst has accepted, applied at the start of a pass."""

from datetime import datetime
from zoneinfo import ZoneInfo

from ember.errors import DescriptionError
from ember.installation import Exclusion, Installation, Swap
from ember.trace import Span, Trace


def corrected(
    installation: Installation, trace: Trace, zone: ZoneInfo
) -> tuple[Trace, list[tuple[Span, str]], tuple[str, ...]]:
    """The trace with accepted swaps made, the spans accepted as excluded, and both in words."""
    excluded: list[tuple[Span, str]] = []
    applied = []
    for correction in installation.corrections:
        match correction:
            case Swap(channels=(one, other), reason=reason):
                if one not in trace or other not in trace:
                    raise DescriptionError(
                        f"corrections: cannot swap {one} and {other}; both must be logged."
                    )
                trace = trace.with_channels({one: trace[other], other: trace[one]})
                applied.append(f"{one} and {other} swapped: {reason}")
            case Exclusion(start=since, end=until, reason=reason):
                cells = Span(trace.cell(_instant(since, zone)), trace.cell(_instant(until, zone)))
                if len(cells) > 0:
                    excluded.append((cells, reason))
                applied.append(f"{since:%Y-%m-%d %H:%M} to {until:%Y-%m-%d %H:%M} out: {reason}")
    return trace, excluded, tuple(applied)


def _instant(wall: datetime, zone: ZoneInfo) -> float:
    return (wall if wall.tzinfo else wall.replace(tzinfo=zone)).timestamp()
