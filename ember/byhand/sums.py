"""COP between any two readings of a sheet, by the one road that every COP takes.

The registers and totals become registers on a grid of time; metering, boundary and reckoning are
those of any other record.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from math import gcd
from typing import Literal
from zoneinfo import ZoneInfo

import numpy as np

from ember.byhand.sheet import Reading, Turn, began
from ember.clock import zone_named
from ember.errors import IntakeError
from ember.installation import ElectricityMeter, HeatRegister, HeatSource, Installation
from ember.logged import HandKind, HandSeries, Keeps
from ember.metering import Level, Plan, meter, plans
from ember.quantity import conversion, unit_named
from ember.reckoning import Ledger, Reckoning, ledger, reckon
from ember.running import State
from ember.trace import Floats, Trace

MOST_CELLS = 4_000_000
YIELD_WAY = (
    "environmental yield + electricity, as a display reports it: an upper bound, since not all "
    "electricity reaches the water"
)
_ENERGY = (HandKind.ELECTRICITY, HandKind.HEAT, HandKind.ENVIRONMENTAL_YIELD)


@dataclass(frozen=True)
class HandBook:
    """The sums of a sheet.

    readings : in order of time. plans : how each level is computed. known : meter → instants at
    which it was read. upper_bound : the heat is environmental yield + electricity.
    """

    readings: tuple[Reading, ...]
    book: Ledger
    plans: dict[Level, Plan]
    known: Mapping[str, frozenset[float]]
    upper_bound: bool

    @property
    def level(self) -> Level | None:
        """The widest level that can be computed."""
        return next((v for v, p in reversed(self.plans.items()) if p.missing is None), None)

    def between(self, spans: Sequence[tuple[float, float]], level: Level) -> list[Reckoning | str]:
        """The Reckoning of each span between two readings, or why there is none.

        Parameters
        ----------
        spans : instants [s]; of readings, or of the beginning of a whole day, month or year.
        """
        plan = self.plans[level]
        if plan.missing is not None:
            return [plan.missing] * len(spans)
        found: list[Reckoning | str] = []
        for start, stop in spans:
            why = self._unread(plan, start, stop)
            if why is not None:
                found.append(why)
                continue
            groups = np.where(self.book.within(start, stop), 0, -1)
            found.append(reckon(self.book, plan, groups, [(start, stop)])[0])
        return found

    def since_last(self, level: Level) -> list[Reckoning | str]:
        """For each reading the Reckoning since the one before it; of a whole day, month or year,
        that of itself."""
        spans: list[tuple[float, float] | None] = []
        for k, reading in enumerate(self.readings):
            if reading.since is not None:
                spans.append((reading.since, reading.time))
            else:
                spans.append((self.readings[k - 1].time, reading.time) if k else None)
        found = iter(self.between([span for span in spans if span is not None], level))
        return ["the first reading" if span is None else next(found) for span in spans]

    def _unread(self, plan: Plan, start: float, stop: float) -> str | None:
        if stop <= start:
            return "choose two readings"
        for _, name in plan.meters:
            if start not in self.known[name] or stop not in self.known[name]:
                return f"{name} was not read at both ends"
        return None


def hand_book(installation: Installation, readings: Sequence[Reading]) -> HandBook | None:
    """The sums of a sheet; None where it holds no energy at two times.

    Raises IntakeError where two readings have the same time, or lie too many years apart.
    """
    zone = zone_named(installation.zone)
    ordered = tuple(sorted(readings, key=lambda reading: reading.time))
    for one, other in pairwise(ordered):
        if one.time == other.time and one.since == other.since:
            raise IntakeError("two readings have the same time; put their values into one row.")
    registers = _registers(installation, ordered, zone)
    if registers is None:
        return None
    described, points, upper_bound = registers
    channels = {m.name: m.channel for m in described.electricity}
    channels |= {r.name: r.channel for r in described.registers}
    trace = _trace({channels[name]: points[name] for name in channels})
    known = {name: frozenset(points[name]) for name in channels}
    streams = meter(described, trace)
    electric = {
        name: replace(stream, step_energy=_step(installation, name))
        for name, stream in streams.electricity.items()
    }
    streams = replace(streams, electricity=electric)
    if upper_bound:
        heat = {n: replace(stream, way=YIELD_WAY) for n, stream in streams.heat.items()}
        streams = replace(streams, heat=heat)
    cuts = [np.array([trace.cell(t) for r in ordered for t in (r.since or r.time, r.time)])]
    state = np.full(len(trace), State.UNKNOWN, np.int8)
    book = ledger(trace.start, trace.step, state, streams, (), cuts, {})
    return HandBook(ordered, book, plans(described, streams), known, upper_bound)


Points = dict[float, float]  # instant [s] → register [J]


def _registers(
    installation: Installation, readings: tuple[Reading, ...], zone: ZoneInfo
) -> tuple[Installation, dict[str, Points], bool] | None:
    """The description of what was read, and each meter's register."""
    by_meter: dict[str, list[HandSeries]] = {}
    yields = []
    for series in installation.by_hand:
        if series.kind == HandKind.ENVIRONMENTAL_YIELD:
            yields.append(series)
        elif series.kind in _ENERGY:
            by_meter.setdefault(series.meter or "", []).append(series)
    points: dict[str, Points] = {}
    for name, several in by_meter.items():
        joined = _added([register(one, readings, zone) for one in several])
        if len(joined) > 1:
            points[name] = joined
    electricity = [m for m in installation.electricity if m.name in points]
    if not electricity:
        return None
    steps = {name: sum(_joules(s, s.resolution) for s in several)
             for name, several in by_meter.items()}  # fmt: skip
    heat = [r for r in _heat_registers(installation, steps) if r.name in points]
    upper_bound = not heat and bool(yields)
    if upper_bound:
        name = " and ".join(one.name for one in yields)[:60] + " + electricity"
        parts = [register(one, readings, zone) for one in yields]
        points[name] = _added([*parts, *(points[m.name] for m in electricity)])
        step = sum(_joules(one, one.resolution) for one in yields)
        heat = [_register(name, (HeatSource.HEAT_PUMP,), step, 3)]
    described = replace(
        installation,
        electricity=tuple(_channelled(m, k) for k, m in enumerate(electricity)),
        registers=tuple(replace(r, channel=f"heat_energy:{k}") for k, r in enumerate(heat)),
        circuits=(), corrections=(), by_hand=(), columns=(), sensors=(), rated=None,
    )  # fmt: skip
    return described, points, upper_bound


def _channelled(meter: ElectricityMeter, k: int) -> ElectricityMeter:
    return replace(meter, channel=f"energy:{k}")


def _heat_registers(installation: Installation, steps: Mapping[str, float]) -> list[HeatRegister]:
    """The described heat meters as registers with the step that the sheet says."""
    found = [
        replace(r, resolution_kwh=steps[r.name] / 3.6e6, circuit=None)
        for r in installation.registers
        if r.name in steps
    ]
    for circuit in installation.circuits:
        if circuit.name in steps:
            made = _register(
                circuit.name, circuit.includes, steps[circuit.name], circuit.flow_class or 3
            )
            found.append(
                replace(
                    made, nominal_flow_m3h=circuit.nominal_flow_m3h, in_service=circuit.in_service
                )
            )
    return found


def _register(
    name: str,
    includes: tuple[HeatSource, ...],
    step: float,
    accuracy_class: Literal[1, 2, 3],
) -> HeatRegister:
    return HeatRegister(
        name, includes=includes, resolution_kwh=step / 3.6e6, accuracy_class=accuracy_class
    )


def _step(installation: Installation, meter_name: str) -> float:
    """The last digit of what is read of a meter; of two rates, both [J]."""
    mine = [s for s in installation.by_hand if s.meter == meter_name and s.kind in _ENERGY]
    return sum(_joules(one, one.resolution) for one in mine)


def _joules(series: HandSeries, value: float) -> float:
    linear = conversion(unit_named(series.unit) or "", "joule")
    assert linear is not None
    return linear[0] * value


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


def _trace(points: Mapping[str, Points]) -> Trace:
    """Registers on a grid as fine as their times need."""
    times = sorted({int(t) for one in points.values() for t in one})
    start = times[0]
    step = max(60, gcd(86_400, *(t - start for t in times)))
    n = (times[-1] - start) // step + 1
    if n > MOST_CELLS:
        raise IntakeError(
            "the readings lie more than seven years apart, to the minute; take out the oldest."
        )
    channels: dict[str, Floats] = {}
    for channel, register_points in points.items():
        values = np.full(n, np.nan)
        for t, value in register_points.items():
            values[(int(t) - start) // step] = value
        channels[channel] = values
    return Trace(start, step, channels, dict.fromkeys(channels, float(n * step)))
