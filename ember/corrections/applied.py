"""Corrections that the analyst has accepted, applied at the start of a pass."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import pairwise
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.clock import local_days, local_from_utc
from ember.basis.errors import DescriptionError
from ember.basis.quantity import symbol
from ember.basis.series import Bools, Floats, Ints, Span, Trace, spans_of
from ember.description.installation import (
    AddElectricity,
    ClockShift,
    Correction,
    Exclusion,
    Factor,
    HeatSource,
    Installation,
    Loads,
    Offset,
    Prefer,
    Rule,
    StateIs,
    Swap,
    Transfer,
)
from ember.description.meters import Consumer

DAY_SECONDS = 86_400
MARGIN = 3.0  # beyond the temperatures of a transfer factor [K], common practice, chosen


@dataclass(frozen=True)
class Corrected:
    """A description and a trace with the accepted corrections made.

    Attributes
    ----------
    excluded : list[tuple[Span, str]]
        spans to leave out, with the reason.
    applied : tuple[str, ...]
        every correction in words.
    """

    installation: Installation
    trace: Trace
    excluded: list[tuple[Span, str]]
    applied: tuple[str, ...]


def corrected(installation: Installation, trace: Trace, zone: ZoneInfo) -> Corrected:
    """Makes the corrections, in the order in which they were accepted.

    Raises DescriptionError where one does not fit the record.
    """
    excluded: list[tuple[Span, str]] = []
    for correction in installation.corrections:
        match correction:
            case Exclusion(reason=reason):
                cells = span_of(correction, trace, zone)
                if len(cells) > 0:
                    excluded.append((cells, reason))
            case Rule(reason=reason):
                excluded += [
                    (span, reason) for span in spans_of(ruled_out(correction, trace, zone))
                ]
            case Transfer():
                excluded += outside_transfer(installation, correction, trace, zone)
            case Loads() | AddElectricity() | StateIs():
                pass  # made in the description, where the meters are read, and in the states
            case _:
                trace = _changed(correction, trace, zone)
    described = described_anew(installation)
    return Corrected(described, trace, excluded, tuple(map(words, installation.corrections)))


def _changed(correction: Correction, trace: Trace, zone: ZoneInfo) -> Trace:
    """The trace with the channels of one correction changed."""
    match correction:
        case Swap(channels=(one, other)):
            _logged((one, other), trace, f"cannot swap {one} and {other}; both must be logged.")
            span = span_of(correction, trace, zone)
            first, second = trace[one], trace[other]
            if len(span) < len(trace):
                first, second = first.copy(), second.copy()
                inside = slice(span.start, span.stop)
                first[inside], second[inside] = trace[other][inside], trace[one][inside]
                return trace.with_channels({one: first, other: second})
            return trace.with_channels({one: second, other: first})
        case Offset(channel=channel, add=add):
            if channel not in trace:
                return trace
            return _inside(trace, channel, trace[channel] + add, span_of(correction, trace, zone))
        case Factor(channel=channel, factor=factor):
            if channel not in trace:
                return trace
            span = span_of(correction, trace, zone)
            return _inside(trace, channel, _times(trace, channel, factor, span), span)
        case ClockShift(channels=channels, seconds=seconds, drift=drift):
            days = np.arange(len(trace)) * (trace.step / DAY_SECONDS)
            by = np.rint((seconds + drift * days) / trace.step).astype(np.int64)
            return trace.with_channels({c: _later(trace[c], by) for c in channels if c in trace})
        case Prefer(use=use, instead_of=other):
            if use in trace and other in trace:
                return trace.with_channels({other: trace[use]})
    return trace


def _inside(trace: Trace, channel: str, values: Floats, span: Span) -> Trace:
    if len(span) < len(trace):
        whole = trace[channel].copy()
        whole[span.start : span.stop] = values[span.start : span.stop]
        values = whole
    return trace.with_channels({channel: values})


def _times(trace: Trace, channel: str, factor: float, span: Span) -> Floats:
    """A channel times a factor; a register goes on from its reading where the span begins."""
    values = trace[channel]
    if quantity_of(channel).kind != Kind.COUNTER or len(span) == len(trace):
        return values * factor
    known = np.flatnonzero(np.isfinite(values[: span.start + 1]))
    first = values[known[-1]] if len(known) else 0.0
    return first + (values - first) * factor


def _later(values: Floats, by: Ints) -> Floats:
    """The same later by so many cells, each its own."""
    source = np.arange(len(values)) - by
    inside = (source >= 0) & (source < len(values))
    moved: Floats = np.where(inside, values[np.clip(source, 0, len(values) - 1)], np.nan)
    return moved


def described_anew(installation: Installation) -> Installation:
    """The description with what accepted corrections say of its meters."""
    for correction in installation.corrections:
        if isinstance(correction, Loads):
            installation = _holding(installation, correction)
    return installation


def outside_transfer(
    installation: Installation, transfer: Transfer, trace: Trace, zone: ZoneInfo
) -> list[tuple[Span, str]]:
    """Days on which a transfer factor does not hold: by their mean outdoor temperature, or because
    it has expired."""
    out = []
    _, edges = local_days(trace.start, trace.stop, zone)
    cells = [trace.cell(float(e)) for e in edges]
    outdoor = installation.outdoor.channel
    until = trace.cell(instant(transfer.until, zone))
    for first, last in pairwise(cells):
        if last <= first:
            continue
        known = trace[outdoor][first:last] if outdoor in trace else np.empty(0)
        known = known[np.isfinite(known)]
        mean = float(known.mean()) if len(known) else transfer.low
        if first >= until:
            out.append((Span(first, last), f"transfer factor of {transfer.meter} has expired"))
        elif not transfer.low - MARGIN <= mean <= transfer.high + MARGIN:
            why = f"outside {transfer.low:.0f} to {transfer.high:.0f} °C of the transfer factor"
            out.append((Span(first, last), why))
    return out


def _holding(installation: Installation, held: Loads) -> Installation:
    """The description with another content of one meter."""
    consumers = tuple(c for c in held.includes if isinstance(c, Consumer))
    heat = tuple(HeatSource(str(c)) for c in held.includes if str(c) in set(HeatSource))
    electric = {meter.name for meter in installation.electricity}
    if held.meter in electric:
        new = tuple(
            replace(m, includes=consumers) if m.name == held.meter else m
            for m in installation.electricity
        )
        every = tuple(dict.fromkeys((*installation.consumers, *consumers)))
        return replace(installation, electricity=new, consumers=every)
    heaters = (Consumer(h.value) for h in heat if h != HeatSource.HEAT_PUMP)
    every = tuple(dict.fromkeys((*installation.consumers, *heaters)))
    circuits = tuple(
        replace(c, includes=heat) if c.name == held.meter else c for c in installation.circuits
    )
    registers = tuple(
        replace(r, includes=heat) if r.name == held.meter else r for r in installation.registers
    )
    return replace(installation, circuits=circuits, registers=registers, consumers=every)


def ruled_out(rule: Rule, trace: Trace, zone: ZoneInfo) -> Bools:
    """The cells, (n,), that a rule leaves out."""
    n = len(trace)
    out = np.ones(n, np.bool_)
    if rule.channel is not None:
        if rule.channel not in trace:
            return np.zeros(n, np.bool_)
        values = trace[rule.channel]
        with np.errstate(invalid="ignore"):
            if rule.below is not None:
                out &= values < rule.below
            if rule.above is not None:
                out &= values > rule.above
            if rule.jump is not None:
                out &= stands_out(values, rule.jump)
    if rule.from_time is not None and rule.to_time is not None:
        instants = trace.start + trace.step * np.arange(n, dtype=np.int64)
        at = local_from_utc(instants, zone) % DAY_SECONDS
        since, until = (t.hour * 3600 + t.minute * 60 for t in (rule.from_time, rule.to_time))
        out &= (at >= since) & (at < until) if since < until else (at >= since) | (at < until)
    span = span_of(rule, trace, zone)
    out[: span.start] = False
    out[span.stop :] = False
    return out


def stands_out(values: Floats, jump: float) -> Bools:
    """Readings, (n,), that differ from the one before and the one after by more than `jump`, in
    the same direction: a spike of one reading."""
    out = np.zeros(len(values), np.bool_)
    step = np.diff(values)
    with np.errstate(invalid="ignore"):
        up = (step[:-1] > jump) & (step[1:] < -jump)
        out[1:-1] = up | ((step[:-1] < -jump) & (step[1:] > jump))
    return out


def span_of(
    correction: Exclusion | Rule | Swap | Offset | Factor | StateIs, trace: Trace, zone: ZoneInfo
) -> Span:
    """The cells between the local times of a correction; all where it has none."""
    start, end = correction.start, correction.end
    first = 0 if start is None else trace.cell(instant(start, zone))
    return Span(first, len(trace) if end is None else max(first, trace.cell(instant(end, zone))))


def instant(wall: datetime, zone: ZoneInfo) -> float:
    """The instant of a local time [s]."""
    return (wall if wall.tzinfo else wall.replace(tzinfo=zone)).timestamp()


def _logged(channels: Iterable[str], trace: Trace, otherwise: str) -> None:
    if any(channel not in trace for channel in channels):
        raise DescriptionError(f"corrections: {otherwise}")


def words(correction: Correction) -> str:
    """A correction as a sentence."""
    return f"{_what(correction)}{_when(correction)}: {correction.reason}"


def _what(correction: Correction) -> str:
    match correction:
        case Exclusion():
            return "left out"
        case StateIs(state=state):
            return f"state is {state.replace('_', ' ')}"
        case Rule():
            return f"left out {_condition(correction)}"
        case Swap(channels=(one, other)):
            return f"{one} and {other} swapped"
        case Offset(channel=channel, add=add, U=U):
            unit = symbol(quantity_of(channel).unit)
            unit = "K" if unit == "°C" else unit
            return f"{add:+.3g} ± {U:.2g} {unit} on {channel}"
        case Factor(channel=channel, factor=factor, U=U):
            return f"{channel} × {factor:.4g}" + (f" ± {U:.1%}" if U else "")
        case ClockShift(channels=channels, seconds=seconds, drift=drift):
            grows = f", and {drift:+.1f} s more each day" if drift else ""
            return f"{', '.join(channels)} {seconds / 60:+.0f} min{grows}"
        case Prefer(use=use, instead_of=other):
            return f"{use} used instead of {other}"
        case Loads(meter=meter, includes=includes):
            return f"{meter} holds {', '.join(str(c).replace('_', ' ') for c in includes)}"
        case AddElectricity(meter=meter):
            return f"{meter} taken as source yield, electricity added"
        case Transfer(meter=meter, factor=factor, U=U, low=low, high=high):
            return f"{meter} × {factor:.3f} ± {U:.1%}, taken at {low:.0f} to {high:.0f} °C"


def _condition(rule: Rule) -> str:
    said = []
    if rule.channel is not None:
        unit = symbol(quantity_of(rule.channel).unit)
        limits = ((rule.below, "below"), (rule.above, "above"), (rule.jump, "jumping by more than"))
        bounds = " and ".join(
            f"{how} {limit:g} {unit}" for limit, how in limits if limit is not None
        )
        said.append(f"where {rule.channel} is {bounds}")
    if rule.from_time is not None and rule.to_time is not None:
        said.append(f"from {rule.from_time:%H:%M} to {rule.to_time:%H:%M}")
    return ", ".join(said)


def _when(correction: Correction) -> str:
    if isinstance(correction, Transfer):
        return f", until {correction.until:%Y-%m-%d}"
    start, end = (getattr(correction, name, None) for name in ("start", "end"))
    if start is None and end is None:
        return ""
    since = f" from {start:%Y-%m-%d %H:%M}" if start else ""
    return since + (f" to {end:%Y-%m-%d %H:%M}" if end else "")
