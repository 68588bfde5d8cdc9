"""A sheet of readings as a record: registers on a grid of time, and a description of what was read.

The record goes the road of any other: metering, boundary, sums, comparison. What a sheet cannot
show (runs, starts, defrosts) is not known there, and nothing is claimed of it.
"""

from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import gcd
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.channels import Kind, quantity_of
from ember.basis.clock import DAY, zone_named
from ember.basis.errors import IntakeError
from ember.basis.quantity import KWH, conversion, unit_named
from ember.basis.series import FAR_APART, Floats, Trace
from ember.description.installation import (
    AddElectricity,
    Correction,
    ElectricityMeter,
    Exclusion,
    HeatRegister,
    Installation,
    Loads,
    OutdoorSensor,
    ReportedHeat,
    SourceYield,
    Transfer,
)
from ember.description.logged import HandKind, HandSeries, Keeps
from ember.readings.sheet import Reading, Turn, began

RECORD_MOST_CELLS = 4_000_000
# of a record's grid [s]: the coarsest that keeps all apart
RECORD_STEPS = (3600, 1800, 900, 300, 60)
# error of the mean of a day from single readings of it [K], common practice, chosen
SPOT_OUTDOOR = 4.0
_ENERGY = (HandKind.ELECTRICITY, HandKind.HEAT, HandKind.ENVIRONMENTAL_YIELD)

Points = dict[float, float]  # instant [s] → register [J]


@dataclass(frozen=True)
class Sheet:
    """What a sheet holds.

    Attributes
    ----------
    readings : tuple[Reading, ...]
        in order of time.
    installation : Installation
        a description of what was read, with a channel for each meter.
    points : Mapping[str, Points]
        channel → its register.
    """

    readings: tuple[Reading, ...]
    installation: Installation
    points: Mapping[str, Points]

    @property
    def from_yield(self) -> bool:
        """Whether heat is not read but only the source's yield."""
        return bool(self.installation.yields) and not self.installation.registers


def sheet_of(installation: Installation, readings: Iterable[Reading]) -> Sheet | None:
    """The registers that a sheet holds; None where no electricity was read at two times.

    Raises IntakeError where two readings have the same time.
    """
    zone = zone_named(installation.zone)
    ordered = tuple(sorted(readings, key=lambda reading: reading.time))
    for one, other in pairwise(ordered):
        if one.time == other.time and one.since == other.since:
            raise IntakeError("two readings have the same time; put their values into one row.")
    by_meter: dict[str, list[HandSeries]] = {}
    for series in installation.by_hand:
        if series.kind in _ENERGY:
            name = series.meter or ("" if series.kind == HandKind.HEAT else series.name)
            by_meter.setdefault(name, []).append(series)
    points: dict[str, Points] = {}
    for name, several in by_meter.items():
        joined = _added([register(one, ordered, zone) for one in several])
        if len(joined) > 1:
            points[name] = joined
    steps = {
        name: sum(_joules(one, one.resolution) for one in several) / KWH
        for name, several in by_meter.items()
    }
    described = _described(installation, by_meter, points, steps)
    if described is None:
        return None
    channels = channels_of(described)
    return Sheet(ordered, described, {channel: points[n] for n, channel in channels.items()})


def read_by_hand(described: Installation) -> bool:
    """Whether a description is that of a sheet: its meters are what people read."""
    return [m.channel for m in described.electricity] == [
        f"energy:{k}" for k in range(len(described.electricity))
    ] and not described.by_hand


def channels_of(described: Installation) -> dict[str, str]:
    """The channel of each meter that was read, by its name."""
    read: tuple[ElectricityMeter | HeatRegister | ReportedHeat | SourceYield, ...] = (
        *described.electricity,
        *described.registers,
        *described.reported,
        *described.yields,
    )
    return {meter.name: meter.channel for meter in read}


def _described(
    installation: Installation,
    by_meter: Mapping[str, list[HandSeries]],
    points: Mapping[str, Points],
    steps: Mapping[str, float],
) -> Installation | None:
    """A description of the meters that were read, and of nothing else that is logged; None where no
    electricity was."""
    electricity = tuple(
        replace(m, channel=f"energy:{k}", resolution_kwh=steps[m.name])
        for k, m in enumerate(m for m in installation.electricity if m.name in points)
    )
    heat = [r for r in installation.registers if r.name in points]
    heat += [
        HeatRegister(
            c.name,
            includes=c.includes,
            accuracy_class=c.flow_class or 3,
            place=c.place,
            nominal_flow_m3h=c.nominal_flow_m3h,
            in_service=c.in_service,
        )
        for c in installation.circuits
        if c.name in points
    ]
    registers = tuple(
        replace(r, channel=f"heat_energy:{k}", resolution_kwh=steps[r.name], circuit=None)
        for k, r in enumerate(heat)
    )
    reported = tuple(
        replace(r, channel=f"heat_energy:{len(heat) + k}", resolution_kwh=steps[r.name])
        for k, r in enumerate(r for r in installation.reported if r.name in points)
    )
    known = {source.name: source for source in installation.yields}
    named = [
        name
        for name, several in by_meter.items()
        if name in points and several[0].kind == HandKind.ENVIRONMENTAL_YIELD
    ]
    yields = tuple(
        replace(
            known.get(name, SourceYield(name)),
            channel=f"environmental_yield:{k}",
            resolution_kwh=steps[name],
        )
        for k, name in enumerate(named)
    )
    if not electricity:
        return None
    described = replace(
        installation,
        electricity=electricity,
        registers=registers,
        reported=reported,
        yields=yields,
        circuits=(),
        air=(),
        fixed=(),
        refrigerant=None,
        by_hand=(),
        columns=(),
        sensors=(),
        corrections=(),
    )
    names = channels_of(described)
    return replace(described, corrections=_fitting(installation.corrections, names))


def _fitting(corrections: Iterable[Correction], names: Container[str]) -> tuple[Correction, ...]:
    """The corrections that say something of what was read."""
    return tuple(
        c
        for c in corrections
        if isinstance(c, Exclusion)
        or (isinstance(c, Loads | AddElectricity | Transfer) and c.meter in names)
    )


def together(readings: Iterable[Reading]) -> list[Reading]:
    """Readings of one time as one, in order."""
    found: dict[tuple[float, float | None], Reading] = {}
    for one in sorted(readings, key=lambda r: r.time):
        key = one.time, one.since
        before = found.get(key)
        if before is not None:
            one = replace(
                before, values={**before.values, **one.values}, turns={**before.turns, **one.turns}
            )
        found[key] = one
    return list(found.values())


def record_of(
    sheet: Sheet, series: Sequence[HandSeries], logged: Trace | None = None
) -> tuple[Installation, Trace]:
    """The record of a sheet, with the description that fits it.

    Parameters
    ----------
    series : Sequence[HandSeries]
        the sheet's columns.
    logged : Trace | None
        what is logged besides, as the weather; its temperatures are taken where it has them, those
        of the sheet else.

    Raises
    ------
    IntakeError
        where the readings lie too many years apart.
    """
    times = {int(t) for one in sheet.points.values() for t in one}
    step = next(
        (s for s in RECORD_STEPS if len({t // s for t in times}) == len(times)), RECORD_STEPS[-1]
    )
    trace = grid(sheet.points, step)
    installation = sheet.installation
    channels, native = dict(trace.channels), dict(trace.native)
    if logged is not None:
        for channel, values in logged.channels.items():
            if quantity_of(channel).kind != Kind.COUNTER and channel not in channels:
                channels[channel] = _onto(trace, logged, values)
                native[channel] = max(logged.native_of(channel), float(step))
    for one in series:
        if one.kind != HandKind.OTHER or one.channel is None or one.channel in channels:
            continue
        found = _spots(trace, one, sheet.readings)
        if found is None:
            continue
        channels[one.channel], native[one.channel] = found
        if one.channel == installation.outdoor.channel:
            limit = max(SPOT_OUTDOOR, installation.outdoor.limit_k)
            outdoor = OutdoorSensor(one.channel, limit)
            installation = replace(installation, outdoor=outdoor)
    return installation, Trace(trace.start, trace.step, channels, native)


def grid(points: Mapping[str, Points], step: int | None = None) -> Trace:
    """Registers on a grid.

    Parameters
    ----------
    step : int | None
        of it [s]; None: as fine as their times need.

    Raises IntakeError where that takes too many cells.
    """
    times = sorted({int(t) for one in points.values() for t in one})
    if step is None:
        step = max(60, gcd(DAY, *(t - times[0] for t in times)))
        start = times[0]
    else:
        start = times[0] // step * step
    n = (times[-1] - start) // step + 1
    if n > RECORD_MOST_CELLS:
        raise IntakeError(
            "the readings lie more than seven years apart, to the minute; take out the oldest."
        )
    channels: dict[str, Floats] = {}
    native = {}
    for channel, register_points in points.items():
        values = np.full(n, np.nan)
        for t, value in register_points.items():
            values[(int(t) - start) // step] = value
        channels[channel] = values
        usual = float(np.median(np.diff(sorted(register_points))))
        native[channel] = max(usual, FAR_APART + step)
    return Trace(start, step, channels, native)


def _onto(trace: Trace, logged: Trace, values: Floats) -> Floats:
    """Means of a logged channel in the cells of a record, (n,)."""
    n = len(trace)
    if logged.step > trace.step:
        at = (trace.start + trace.step * np.arange(n) - logged.start) // logged.step
        inside = (at >= 0) & (at < len(values))
        held: Floats = np.where(inside, values[np.clip(at, 0, len(values) - 1)], np.nan)
        return held
    cell = (logged.start + logged.step * np.arange(len(values)) - trace.start) // trace.step
    use = np.isfinite(values) & (cell >= 0) & (cell < n)
    count = np.bincount(cell[use], minlength=n)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean: Floats = np.bincount(cell[use], values[use], n) / count
    return mean


def _spots(
    trace: Trace, series: HandSeries, readings: Sequence[Reading]
) -> tuple[Floats, float] | None:
    """Single readings of a temperature, straight from one to the next, (n,), and their usual
    interval [s]; None for fewer than two."""
    linear = conversion(unit_named(series.unit) or "", quantity_of(series.channel or "").unit)
    assert linear is not None
    read = [(r.time, r.values[series.name]) for r in readings if series.name in r.values]
    if len(read) < 2:
        return None
    times = np.array([t for t, _ in read])
    values = np.array([v for _, v in read]) * linear[0] + linear[1]
    at = trace.start + trace.step * (np.arange(len(trace)) + 0.5)
    line: Floats = np.interp(at, times, values, np.nan, np.nan)
    return line, float(np.median(np.diff(times)))


def register(series: HandSeries, readings: Sequence[Reading], zone: ZoneInfo) -> Points:
    """A series as a register that only rises where the energy between two readings is known.

    A total that falls back by design is zero when its day, month or year begins; what passed
    between its last reading and that moment is not known. There, and where a new meter was put
    in, the register made here falls, so that nothing is counted.
    """
    points: Points = {}
    base, last, last_time = 0.0, None, -np.inf
    for reading in readings:
        if series.name not in reading.values:
            continue
        value = _joules(series, reading.values[series.name])
        if series.keeps == Keeps.REGISTER:
            turn = reading.turns.get(series.name)
            if turn == Turn.ROLLOVER and series.digits is not None:
                base += _joules(series, 10.0**series.digits)
            elif turn == Turn.NEW_METER and last is not None:
                base = last - value - 1.0
            points[reading.time] = last = base + value
            continue
        start = began(reading.time, series.keeps, zone)
        if reading.since is not None and reading.since != start:
            continue  # a whole month on the sheet of a day's total says nothing
        if start > last_time:  # another day, month or year: unknown up to its beginning
            base = 0.0 if last is None else last - 1.0
            points[start] = base
        elif start == last_time and last is not None:
            base = last
        points[reading.time] = last = base + value
        last_time = reading.time
    return points


def _added(several: Sequence[Points]) -> Points:
    """Registers read together, added; only at times at which all were read."""
    times = set(several[0]).intersection(*several[1:])
    return {t: sum(one[t] for one in several) for t in sorted(times)}


def _joules(series: HandSeries, value: float) -> float:
    linear = conversion(unit_named(series.unit) or "", "joule")
    assert linear is not None
    return linear[0] * value
