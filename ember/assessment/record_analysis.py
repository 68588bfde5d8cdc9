"""Record analysis: one pass over a record, after which every sum is a sum over its segments.

The pass reads every sample once. What it leaves is small (a few megabytes a year) and answers any
later question: the whole, a year, months, days, or a span brushed on a chart.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from zoneinfo import ZoneInfo

import numpy as np

from ember import VERSION
from ember.basis.calendar import latest_year
from ember.basis.channels import ELECTRICITY_PRICE
from ember.basis.clock import HOUR, local_days, zone_named
from ember.basis.codes import CheckCode, ReasonCode
from ember.basis.periods import Period
from ember.basis.series import FAR_APART, Bools, Floats, Ints, Span, Trace, edges_of
from ember.basis.side_by_side import two
from ember.boundary import Level, MeterCombination, combinations
from ember.boundary.combinations import (
    Share,
    all_metered,
    combinations_by_service,
    lowest,
    nearest_to_table,
    summed,
    widest,
)
from ember.comparison.performance_ratio import Comparison, compare_segments
from ember.corrections.applied import corrected, described_anew
from ember.cost import PRICE_KNOWN, PRICE_SUM, SUPPLY_KNOWN, supply_sums, windows
from ember.description.installation import HEATERS, Installation, Service
from ember.events import RunningSummary, summarise
from ember.messages import NotAvailable, Reason, because, words_of
from ember.metering import (
    MeterEnergies,
    fixed_power,
    lacking,
    meter,
    refrigerant_heat,
    tank_charge,
    unit_energy,
)
from ember.rated import Expected, Promise, expected
from ember.rated.expected import axes
from ember.rated.further import Further, beyond, further
from ember.reckoning import Reckoning, Segments, reckon, refined, segmented
from ember.states import Basis, Running, State, running
from ember.states.detection import HEATER_ON
from ember.states.heater_detection import HEATER_DETECTION_COARSEST, HeaterSeen, heater_seen
from ember.states.state import Known
from ember.trust import (
    Check,
    CheckContext,
    Soundness,
    SummedContext,
    checks,
    first_checks,
    physical_bound,
)

say = words_of(__name__)

# The checks that may find the metering broken, so that no COP is stated.
FORBID_COP = frozenset(
    {CheckCode.SWAPPED_SENSORS, CheckCode.RATE_REGISTERS, CheckCode.PHYSICAL_BOUND}
)
RECORD_ANALYSIS_ABOUT = 300.0  # a heater's work, that is not compared either [s]


@dataclass(frozen=True)
class Facts:
    """What a record analysis knows beside its arrays.

    Attributes
    ----------
    channels : tuple[str, ...]
        of the trace.
    combinations : dict[Level, MeterCombination]
        how each level is computed
    shares : tuple[Share, ...]
        all metered electricity.
    missing : dict[str, Reason]
        meter → why it says nothing.
    promise : Promise | NotAvailable
        how the rated table meets the record, or why it does not.
    checks : tuple[Check, ...]
        of the metering, over the whole record
    corrections : tuple[str, ...]
        applied, in words.
    defrosts_by, basis, notes : Basis
        how the states are known.
    interval : float
        of the readings, where they lie so far apart that only the sum between two is known [s],
        else 0.
    runs_known : bool
        whether anything tells when the unit runs.
    services : dict[Service, dict[Level, MeterCombination]]
        as plans, of each service that some meter serves alone.
    reported : MeterCombination | None
        how the widest COP is computed of what the controller reports, where nothing measures the
        heat; None where something does, or nothing is reported.
    """

    core: str
    channels: tuple[str, ...]
    combinations: dict[Level, MeterCombination]
    shares: tuple[Share, ...]
    missing: dict[str, Reason]
    promise: Promise | NotAvailable
    further: tuple[Further, ...]
    heater: float
    checks: tuple[Check, ...]
    corrections: tuple[str, ...]
    defrosts_by: Basis
    basis: dict[str, Known]
    notes: tuple[str, ...]
    interval: float = 0.0
    runs_known: bool = True
    services: dict[Service, dict[Level, MeterCombination]] = field(default_factory=dict)
    reported: MeterCombination | None = None

    @property
    def without_runs(self) -> str | None:
        """Why nothing is said of runs, and what would change that, in words; None where it is."""
        if self.runs_known:
            return None
        if self.interval:
            days = self.interval / 86_400
            apart = say("days", days=days) if days >= 1.5 else f"{self.interval / 3600:.0f} h"
            why = say("only_sum_between", apart=apart)
        else:
            why = say("neither_power_nor")
        return say("when_unit_runs", why=why)


@dataclass(frozen=True)
class RecordAnalysis:
    """A record after one pass.

    Attributes
    ----------
    described : Installation
        the installation, as the analyst describes it.
    segments : Segments
        its segments; cut at every local midnight and hour, price change and change of state.
    runs, defrosts : Ints
        arrays, (k, 2) First cell and end of each.
    """

    described: Installation
    facts: Facts
    segments: Segments
    runs: Ints
    defrosts: Ints

    @property
    def zone(self) -> ZoneInfo:
        """Local time."""
        return zone_named(self.described.zone)

    @property
    def start(self) -> int:
        """Instant of the first cell [s]."""
        return self.segments.start

    @property
    def stop(self) -> int:
        """Instant at which the last cell ends [s]."""
        return int(self.segments.start + self.segments.edges[-1] * self.segments.step)

    @property
    def compared(self) -> Bools:
        """Segments that are compared with the rated table, (m,)."""
        counted = self.segments.sums.get("compared")
        nothing: Bools = np.zeros(len(self.segments.state), np.bool_)
        return nothing if counted is None else counted > 0

    @property
    def cop_reason(self) -> Reason | None:
        """Why no heat and no COP may be stated, if the metering forbids it."""
        return cop_reason(self.facts.checks)

    @property
    def swapped(self) -> bool:
        """Whether flow and return are swapped."""
        return any(
            c.code == CheckCode.SWAPPED_SENSORS and c.soundness == Soundness.BROKEN
            for c in self.facts.checks
        )

    def with_checks(self, made: tuple[Check, ...]) -> "RecordAnalysis":
        """The same with the checks of its metering."""
        return replace(self, facts=replace(self.facts, checks=made))

    def states(self, first: int = 0, last: int | None = None) -> Running:
        """The state of every cell again, or of the cells first … last − 1, those without runs
        and defrosts."""
        segments = self.segments
        last = int(segments.edges[-1]) if last is None else last
        i, j = np.searchsorted(segments.edges, [first, last], side="right") - 1
        j = min(int(j) + 1, len(segments.state))
        edges = np.clip(segments.edges[i : j + 1], first, last)
        cells = edges[1:] - edges[:-1]
        every = first == 0 and last == segments.edges[-1]
        return Running(
            np.repeat(segments.state[i:j], cells),
            np.repeat(segments.sums["recovery"][i:j] > 0, cells),
            tuple(Span(a, b) for a, b in self.runs.tolist()) if every else (),
            tuple(Span(a, b) for a, b in self.defrosts.tolist()) if every else (),
            self.facts.defrosts_by,
            self.facts.basis,
            self.facts.notes,
        )

    def summary(self, begin: float, end: float) -> RunningSummary:
        """How the unit ran between two instants at which the record analysis is cut [s]."""
        segments, facts = self.segments, self.facts
        inside = segments.within(begin, end)
        cells = np.bincount(segments.state[inside], segments.cells[inside], minlength=len(State))
        hours = {s.words: float(cells[s]) * segments.step / 3600 for s in State if cells[s]}
        ends = (
            int(min(max(-(-(t - segments.start) // segments.step), 0), segments.edges[-1]))
            for t in (begin, end)
        )
        found = summarise(
            hours,
            self.runs,
            self.defrosts,
            Span(*ends),
            int(segments.edges[-1]),
            segments.step,
            facts.defrosts_by,
            facts.basis,
            facts.notes,
            self.swapped,
        )
        return found if facts.runs_known else replace(found, runs=None, starts_a_day=None)

    @property
    def installation(self) -> Installation:
        """The description with what accepted corrections say of it."""
        return described_anew(self.described)

    def like(self, trace: Trace) -> Trace:
        """A part of the record with every channel of the record analysis, corrected as it was."""
        absent = [c for c in self.facts.channels if c not in trace]
        trace = trace.with_channels({c: np.full(len(trace), np.nan) for c in absent})
        return corrected(self.described, trace, self.zone).trace

    def walked(self, part: Trace, states: Running) -> "Walked":
        """Meters, rated COP and conditions of each cell of a part of the record, corrected as the
        record analysis is.

        Parameters
        ----------
        states : Running
            of its cells.
        """
        facts = self.facts
        helped = None
        if "may be helped" in self.segments.sums:
            first = (part.start - self.start) // self.segments.step
            helped = self._helped(first, first + len(part))
        open_ = isinstance(facts.promise, Promise) and facts.promise.heater_open
        return walk(
            self.installation, part, states, facts.combinations, facts.further, helped, open_
        )

    def _helped(self, first: int, last: int) -> "Helped":
        """What the record analysis holds of a heater in cells first … last − 1, even within a
        segment."""
        segments = self.segments
        i, j = np.searchsorted(segments.edges, [first, last], side="right") - 1
        j = min(int(j) + 1, len(segments.state))
        edges = np.clip(segments.edges[i : j + 1], first, last)
        cells = edges[1:] - edges[:-1]
        mean = segments.sums["heater"][i:j] / np.maximum(segments.cells[i:j], 1)
        return Helped(
            np.repeat(segments.sums["may be helped"][i:j] > 0, cells), np.repeat(mean, cells)
        )

    def cut(self, trace: Trace, instants: Sequence[float]) -> "RecordAnalysis":
        """The same record analysis with segments that end at further instants [s].

        Parameters
        ----------
        trace : Trace
            readings around them, with some days on either side.

        Raises
        ------
        LookupError
            where that is not enough (a register not read for days).
        """
        segments = self.segments
        part = self.like(trace)
        first = (part.start - self.start) // segments.step
        last = first + len(part)
        cuts = segments.edges[(segments.edges >= first) & (segments.edges <= last)] - first
        new = np.array([part.cell(t) for t in instants if part.start < t < part.stop], np.int64)
        local = self.states(first, last)
        readings = self.walked(part, local)
        piece = segmented(
            part.start,
            part.step,
            local.state,
            readings.meter_energies,
            (),
            [cuts, new],
            readings.extra,
        )
        return replace(self, segments=refined(segments, piece, new + first))


@dataclass(frozen=True)
class Walked:
    """Arrays over a trace whose states are known: meters, and what else is summed."""

    trace: Trace
    meter_energies: MeterEnergies
    expected: Expected | NotAvailable
    extra: Mapping[str, Floats]
    states: Running


@dataclass(frozen=True)
class Helped:
    """A heater within the unit's meter.

    Attributes
    ----------
    mask : Bools
        array, (n,) Where it works or may.
    energy : Floats
        array, (n,) Its electricity in each cell, as metered or inferred [J].
    """

    mask: Bools
    energy: Floats


def walk(
    installation: Installation,
    trace: Trace,
    states: Running,
    level_combinations: Mapping[Level, MeterCombination],
    further: tuple[Further, ...],
    helped: Helped | None,
    heater_open: bool,
) -> Walked:
    """Meters, rated COP and conditions of each cell of a trace, corrected already.

    Parameters
    ----------
    further, helped, heater_open : tuple[Further, ...]
        what the record analysis has found of consumers beyond the table's boundary.
    """
    meter_energies = metered_by(installation, trace, states)
    combination = nearest_to_table(level_combinations)
    heat = heat_of(meter_energies, combination)
    return _walked(
        installation, trace, meter_energies, states, combination, heat, further, helped, heater_open
    )


def _walked(
    installation: Installation,
    trace: Trace,
    meter_energies: MeterEnergies,
    states: Running,
    combination: MeterCombination | None,
    heat: Floats | None,
    further: tuple[Further, ...],
    helped: Helped | None,
    heater_open: bool,
) -> Walked:
    """The same, the meters known already."""
    mask = None if helped is None else helped.mask
    promise = expected(installation, trace, states, heat, mask, further, heater_open)
    extra = _extra(installation, trace, meter_energies, promise, states, combination, heat, helped)
    return Walked(trace, meter_energies, promise, extra, states)


def heat_of(meter_energies: MeterEnergies, combination: MeterCombination | None) -> Floats | None:
    """Heat in each cell at a level, (n,) [J]; None where it cannot be computed."""
    return None if combination is None else summed(combination.given, meter_energies.energy)


def metered_by(
    installation: Installation,
    trace: Trace,
    states: Running,
    meter_energies: MeterEnergies | None = None,
) -> MeterEnergies:
    """What each meter says, with what only the states tell: fixed powers and tank charges."""
    meter_energies = meter(installation, trace) if meter_energies is None else meter_energies
    on = states.on
    if installation.fixed:
        pumping = on | (states.state == State.PUMP_OVERRUN)
        fixed = (fixed_power(one, trace, on, pumping) for one in installation.fixed)
        meter_energies = replace(
            meter_energies, electricity=meter_energies.electricity | {f.name: f for f in fixed}
        )
    side, unit = installation.refrigerant, unit_energy(installation, meter_energies)
    if side is not None and unit is not None and not lacking(side, trace):
        settled = (states.state == State.HEATING) | (states.state == State.HOT_WATER)
        found = refrigerant_heat(side, unit, trace, settled & ~states.recovery)
        meter_energies = replace(meter_energies, beside=meter_energies.beside | {found.name: found})
    tank = installation.tank
    if tank is not None and any(c in trace for c in (*tank.probes, "tank_temp")):
        hot_water = states.state == State.HOT_WATER
        if hot_water.any():
            charge = tank_charge(tank, trace, hot_water)
            meter_energies = replace(
                meter_energies, beside=meter_energies.beside | {charge.name: charge}
            )
    return meter_energies


def analyse_record(
    described: Installation,
    trace: Trace,
    cuts: Sequence[float] = (),
    checked: frozenset[CheckCode] | None = None,
) -> RecordAnalysis:
    """One pass over a record; see `analyse_and_walk`."""
    return analyse_and_walk(described, trace, cuts, checked)[0]


def analyse_and_walk(
    described: Installation,
    trace: Trace,
    cuts: Sequence[float] = (),
    checked: frozenset[CheckCode] | None = None,
) -> "tuple[RecordAnalysis, Walked]":
    """One pass over a record, and what it has seen of each cell.

    Parameters
    ----------
    checked : frozenset[CheckCode] | None
        codes of the checks to make; None: all.

    The rest is as in `passed_over`.
    """
    analysis, walked, context = passed_over(described, trace, cuts, checked)
    return analysis.with_checks(checks(context, checked, analysis.facts.checks)), walked


def passed_over(
    described: Installation,
    trace: Trace,
    cuts: Sequence[float] = (),
    checked: frozenset[CheckCode] | None = None,
) -> "tuple[RecordAnalysis, Walked, SummedContext]":
    """One pass over a record with the first of its checks, which tell whether a COP may be stated;
    what it has seen of each cell, and what the other checks are made from.

    Parameters
    ----------
    described : Installation
        the description; its corrections are applied first.
    trace : Trace
        the readings.
    cuts : Sequence[float]
        instants at which segments must end besides [s].
    checked : frozenset[CheckCode] | None
        codes of the checks to make; None: all.

    Raises
    ------
    DescriptionError
        if the description does not fit the record.
    """
    zone = zone_named(described.zone)
    made = corrected(described, trace, zone)
    installation, trace = made.installation, made.trace
    meter_energies = meter(installation, trace)
    states = running(installation, trace, meter_energies)
    meter_energies = metered_by(installation, trace, states, meter_energies)
    context = CheckContext(
        installation=installation,
        trace=trace,
        meter_energies=meter_energies,
        states=states,
        zone=zone,
        excluded=made.excluded,
        combinations=combinations(installation, meter_energies),
    )
    done, first = two(lambda: _segmented(context, cuts), lambda: first_checks(context, checked))
    promise, segments = done.walked.expected, done.segments
    told = context.summed(
        segments=segments,
        promise=promise,
        settled=_settled(segments, context.combinations, trace),
        comparison=_compared(installation, segments, context.combinations, promise),
    )
    facts = Facts(
        core=VERSION,
        channels=tuple(trace.channels),
        combinations=context.combinations,
        shares=all_metered(installation, meter_energies),
        missing=meter_energies.missing,
        promise=promise.promise if isinstance(promise, Expected) else promise,
        further=done.further,
        heater=done.heater,
        checks=(*first, *physical_bound(told, checked)),
        corrections=made.applied,
        defrosts_by=states.defrosts_by,
        basis=states.basis,
        notes=states.notes,
        interval=_interval(states, meter_energies),
        runs_known=bool((states.state != State.UNKNOWN).any()),
        services=combinations_by_service(installation, meter_energies),
        reported=_as_reported(installation, meter_energies, context.combinations),
    )
    made_of = RecordAnalysis(described, facts, segments, _ends(states.runs), _ends(states.defrosts))
    return made_of, done.walked, told


@dataclass(frozen=True)
class _Segmented:
    """What a pass makes of a record whose states are known; `heater` is one's size in the unit's
    meter [W]."""

    heater: float
    further: tuple[Further, ...]
    walked: Walked
    segments: Segments


def _segmented(context: CheckContext, cuts: Sequence[float]) -> _Segmented:
    installation, trace, states = context.installation, context.trace, context.states
    meter_energies = context.meter_energies
    combination = nearest_to_table(context.combinations)
    heat = heat_of(meter_energies, combination)
    heater, helped = _heater(installation, trace, states, meter_energies, combination, heat), None
    if heater is not None:
        around = _widened(heater.mask, round(RECORD_ANALYSIS_ABOUT / trace.step))
        helped = Helped(around, heater.level * trace.step)
    more: tuple[Further, ...] = ()
    if combination is not None and installation.rated is not None:
        more = further(installation, trace, states, meter_energies, combination)
    open_ = heater is None and _heater_open(installation, trace, meter_energies, combination)
    walked = _walked(
        installation, trace, meter_energies, states, combination, heat, more, helped, open_
    )
    cut = _cuts(
        installation, trace, context.zone, walked.expected, states, cuts, helped, walked.extra
    )
    segments = segmented(
        trace.start, trace.step, states.state, meter_energies, context.excluded, cut, walked.extra
    )
    return _Segmented(heater.size if heater is not None else 0.0, more, walked, segments)


def _compared(
    installation: Installation,
    segments: Segments,
    level_combinations: Mapping[Level, MeterCombination],
    promise: Expected | NotAvailable,
) -> Comparison | None:
    combination = nearest_to_table(level_combinations)
    if isinstance(promise, NotAvailable) or combination is None or "expected" not in segments.sums:
        return None
    every = np.ones(len(segments.state), np.bool_)
    asked = (float(segments.start), float(segments.start + segments.edges[-1] * segments.step))
    return compare_segments(installation, segments, combination, promise.promise, every, asked)[1]


def cop_reason(checks: Sequence[Check]) -> Reason | None:
    """Why no COP may be stated, if a check finds the metering broken."""
    broken = [check.name for check in checks if check.soundness == Soundness.BROKEN]
    return because(ReasonCode.METERING_BROKEN, checks=", ".join(broken)) if broken else None


def _ends(spans: Sequence[Span]) -> Ints:
    return np.array([(span.start, span.stop) for span in spans], np.int64).reshape(-1, 2)


def _cuts(
    installation: Installation,
    trace: Trace,
    zone: ZoneInfo,
    promise: Expected | NotAvailable,
    states: Running,
    further: Sequence[float],
    helped: Helped | None,
    extra: Mapping[str, Floats],
) -> list[Ints]:
    _, midnights = local_days(trace.start, trace.stop, zone)
    hours = np.arange(-(-trace.start // HOUR) * HOUR, trace.stop, HOUR)
    year = latest_year(trace.start, trace.stop, zone)
    instants = [midnights, hours, np.array([*further, *([year.start] if year else [])])]
    if installation.tariff is not None:
        instants.append(windows(installation.tariff, trace.start, trace.stop, zone).start)
    cells = np.ceil((np.concatenate(instants) - trace.start) / trace.step).astype(np.int64)
    cuts = [np.clip(cells, 0, len(trace)), edges_of(states.recovery)]
    if _prices_read(installation, trace):
        price = np.nan_to_num(trace[ELECTRICITY_PRICE])
        cuts.append(np.flatnonzero(price[1:] != price[:-1]) + 1)
    if isinstance(promise, Expected):
        cuts.append(edges_of(promise.compared))
        cuts.append(edges_of(promise.helped))
    if helped is not None:
        cuts.append(edges_of(helped.mask))
    if SUPPLY_KNOWN in extra:
        cuts.append(edges_of(extra[SUPPLY_KNOWN] > 0))
    return cuts


def _extra(
    installation: Installation,
    trace: Trace,
    meter_energies: MeterEnergies,
    promise: Expected | NotAvailable,
    states: Running,
    combination: MeterCombination | None,
    heat: Floats | None,
    helped: Helped | None,
) -> dict[str, Floats]:
    """What is summed besides the meters: expected electricity at the level of comparison, the
    unit's electricity × rated COP, and a heater's in its meter [J]; cells compared, helped, and in
    recovery; outdoor, flow and supply temperature [degC] with the cells in which they are known."""
    extra = {"recovery": states.recovery.astype(np.float64)}
    found = axes(installation, trace)
    channels = {"outdoor": installation.outdoor.channel}
    if not isinstance(found, NotAvailable):
        channels["flow"] = found[1]
        if found[0] != installation.outdoor.channel:
            channels["source"] = found[0]
    supplied = [trace[a.supply_temp] for a in installation.air if a.supply_temp in trace]
    if supplied:  # of several heads the mean
        mean = np.mean(supplied, axis=0)
        extra["supply"] = np.nan_to_num(mean)
        extra["supply known"] = np.isfinite(mean).astype(np.float64)
    for name, channel in channels.items():
        if channel in trace:
            known = np.isfinite(trace[channel])
            extra[name] = trace[channel] if known.all() else np.where(known, trace[channel], 0.0)
            extra[f"{name} known"] = known.astype(np.float64)
    if _prices_read(installation, trace):
        known = np.isfinite(trace[ELECTRICITY_PRICE])
        extra[PRICE_SUM] = np.where(known, trace[ELECTRICITY_PRICE], 0.0)
        extra[PRICE_KNOWN] = known.astype(np.float64)
    extra |= supply_sums(installation, trace, meter_energies)
    if helped is not None:
        extra["heater"] = helped.energy
        extra["may be helped"] = helped.mask.astype(np.float64)
    if isinstance(promise, Expected) and combination is not None and heat is not None:
        used = summed(combination.electricity, meter_energies.energy)
        assert used is not None
        besides = sum(f.watts for f in promise.promise.further) * trace.step
        fits = promise.cop > 0
        with np.errstate(invalid="ignore", divide="ignore"):
            extra["expected"] = np.where(fits, heat / promise.cop + besides, 0.0)
        extra["rated heat"] = np.where(fits, (used - besides) * promise.cop, 0.0)
        extra["compared"] = promise.compared.astype(np.float64)
        extra["helped"] = promise.helped.astype(np.float64)
    return extra


def _prices_read(installation: Installation, trace: Trace) -> bool:
    """Whether prices come as readings."""
    tariff = installation.tariff
    by_readings = tariff is not None and any(p.by_the_hour for p in tariff.every)
    return by_readings and ELECTRICITY_PRICE in trace


def _heater(
    installation: Installation,
    trace: Trace,
    states: Running,
    meter_energies: MeterEnergies,
    combination: MeterCombination | None,
    heat: Floats | None,
) -> HeaterSeen | None:
    """A heater within the meter at which is compared; None where none works or is seen."""
    inside = (
        frozenset() if combination is None else beyond(installation, combination.level) & HEATERS
    )
    if combination is None or not inside:
        return None
    own = [
        m
        for m in installation.electricity
        if m.name in meter_energies.electricity and inside.issuperset(m.includes)
    ]
    if inside == {c for m in own for c in m.includes}:  # a submeter tells more than steps do
        energy = np.sum([meter_energies.electricity[m.name].energy for m in own], axis=0)
        power = np.nan_to_num(energy) / trace.step
        works = power > HEATER_ON
        return HeaterSeen(float(np.median(power[works])), works, power) if works.any() else None
    used = summed(combination.electricity, meter_energies.energy)
    if used is None or any(
        meter_energies.electricity[n].step_energy for _, n in combination.electricity
    ):
        return None
    return heater_seen(
        used / trace.step,
        None if heat is None else heat / trace.step,
        states,
        trace.get(installation.outdoor.channel),
        trace.step,
    )


def _as_reported(
    installation: Installation,
    meter_energies: MeterEnergies,
    level_combinations: Mapping[Level, MeterCombination],
) -> MeterCombination | None:
    """The widest level by what the controller reports, where no level can be computed."""
    named = {r.name for r in installation.reported} & set(meter_energies.beside)
    if not named or nearest_to_table(level_combinations) is not None:
        return None
    heat = meter_energies.heat | {name: meter_energies.beside[name] for name in named}
    found = combinations(installation, replace(meter_energies, heat=heat))
    return widest(found)


def _interval(states: Running, meter_energies: MeterEnergies) -> float:
    """From one reading of the meters to the next where they lie so far apart that nothing but the
    sum between is known [s]; 0 where more is."""
    natives = [
        s.native for s in (*meter_energies.electricity.values(), *meter_energies.heat.values())
    ]
    if (states.state != State.UNKNOWN).any() or not natives or max(natives) <= FAR_APART:
        return 0.0
    return max(natives)


def _heater_open(
    installation: Installation,
    trace: Trace,
    meter_energies: MeterEnergies,
    combination: MeterCombination | None,
) -> bool:
    """Whether the meter at which is compared holds a heater whose steps these readings cannot
    show."""
    inside = (
        frozenset() if combination is None else beyond(installation, combination.level) & HEATERS
    )
    if combination is None or not inside:
        return False
    own = {
        c
        for m in installation.electricity
        for c in m.includes
        if m.name in meter_energies.electricity and inside.issuperset(m.includes)
    }
    if inside == own:
        return False
    registers = any(meter_energies.electricity[n].step_energy for _, n in combination.electricity)
    return registers or trace.step > HEATER_DETECTION_COARSEST


def _widened(mask: Bools, cells: int) -> Bools:
    """A mask and so many cells to either side, so that its pieces are few and settled."""
    total = np.concatenate([[0], np.cumsum(mask)])
    at = np.arange(len(mask))
    first, last = np.maximum(at - cells, 0), np.minimum(at + cells + 1, len(mask))
    result: Bools = total[last] > total[first]
    return result


def _settled(
    segments: Segments, level_combinations: Mapping[Level, MeterCombination], trace: Trace
) -> Reckoning | None:
    """Settled heating at the lowest level that can be computed."""
    combination = lowest(level_combinations)
    if combination is None:
        return None
    settled = (segments.state == State.HEATING) & (segments.sums["recovery"] == 0)
    period = Period("whole", trace.start, trace.stop)
    return reckon(segments, combination, np.where(settled, 0, -1), [(period.start, period.stop)])[0]
