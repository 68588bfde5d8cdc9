"""The sums: heat and electricity over any selection, and the COP that follows.

`reckon` is the one function that makes a Reckoning; every COP in the product is the `cop`
of one.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode
from ember.basis.quantity import Estimate, Estimates, added
from ember.basis.series import Bools, Floats, Ints
from ember.boundary import Level, MeterCombination
from ember.boundary.combinations import Share
from ember.messages import Reason, because
from ember.reckoning.segments import Segments
from ember.reckoning.tally import Tally, validity
from ember.states import State

# The lines in which heat is shown; the rest of the states is added up as "other".
HEAT_LINES = (State.HEATING, State.START_UP, State.HOT_WATER, State.DEFROST)


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the sum [kWh].

    Attributes
    ----------
    loads : str
        what is in it, where the name does not say.
    """

    name: str
    loads: str
    energy: Estimate


@dataclass(frozen=True, slots=True)
class Left:
    """Time that is not in the sum, and why [s]."""

    reason: Reason
    seconds: float


@dataclass(frozen=True)
class Reckoning:
    """The sum a person could do by hand.

    Attributes
    ----------
    level : Level
        boundary.
    start, stop : float
        instants of what was asked for [s].
    seconds : float
        time asked for
    covered : float
        time in the sum [s].
    method : str
        how the heat was measured
    heat_meters : tuple[str, ...]
        by what.
    heat, electricity : Estimate | None
        totals [kWh]; heat_lines by state, electricity_lines by meter.
    cop : Estimate | None
        net of defrost, None with the reason in `reason`.
    gross_cop : Estimate | None
        defrosts left out on both sides.
    standby : Estimate
        electricity while the unit is off or waits [kWh], a part of the electricity.
    """

    level: Level
    start: float
    stop: float
    seconds: float
    covered: float
    method: str
    heat_meters: tuple[str, ...]
    heat_lines: tuple[Line, ...]
    heat: Estimate | None
    electricity_lines: tuple[Line, ...]
    electricity: Estimate
    cop: Estimate | None
    gross_cop: Estimate | None
    standby: Estimate
    left_out: tuple[Left, ...]
    reason: Reason | None

    @property
    def coverage(self) -> float:
        """Share of the time asked for that is in the sum."""
        return self.covered / self.seconds if self.seconds else 0.0


def reckon(
    segments: Segments,
    combination: MeterCombination,
    groups: Ints,
    periods: Sequence[tuple[float, float]],
    cop_reason: Reason | None = None,
    cooling: bool = False,
) -> list[Reckoning]:
    """The Reckoning of each group of segments at one boundary level.

    Parameters
    ----------
    segments : Segments
        the segments and their sums.
    combination : MeterCombination
        how the level is computed; it must be one that can be (its `reason` is None).
    groups : array, (m,)
        Which of the `periods` a segment belongs to, −1 for none.
    periods : Sequence[tuple[float, float]]
        instants from and to which each group was asked for [s].
    cop_reason : Reason | None
        why no heat and COP may be stated, if metering forbids it.
    cooling : bool
        reckons the cooling instead, whose heat is negative and whose `cop` is the EER; it is never
        mixed with heating.

    Returns
    -------
    list of Reckoning, one per period.

    Source: COP = Σheat ÷ Σelectricity over the same cells, net of defrost (common practice;
    boundaries SEPEMO-Build). Uncertainty: GUM, linear propagation by named source.
    """
    count = len(periods)
    apart, groups = _without_other(segments, groups, count, cooling)
    tally, valid, lost = _tallied(segments, combination, groups, count)
    cells = np.bincount(groups[groups >= 0], weights=segments.cells[groups >= 0], minlength=count)
    left = _left_out(segments, valid, lost, groups, count)
    method = " and ".join(
        dict.fromkeys(segments.meters[name].method for _, name in combination.heat)
    )
    sums = _sums(tally, combination, segments.step, cooling)
    lines = [
        (
            f"{'less ' if sign < 0 else ''}{name}",
            segments.meters[name].loads,
            tally.total(name).scaled(sign),
        )
        for sign, name in combination.electricity
    ]
    heat_lines = [] if cop_reason else _heat_lines(tally, combination)
    given, taken = (
        added([tally.without(name, State.DEFROST).scaled(sign) for sign, name in shares], count)
        for shares in (combination.given, combination.electricity)
    )
    gross = given.over(taken, "")
    standby = added(
        [
            tally.state(name, state).scaled(sign)
            for sign, name in combination.electricity
            for state in (State.OFF, State.STANDBY)
            if tally.has(state)
        ],
        count,
    )
    result = []
    for k, (start, stop) in enumerate(periods):
        why = cop_reason or sums.reason(k)
        if why and apart[k] and not tally.cells[k]:
            why = because(ReasonCode.ALL_COOLING)
        known = why is None
        heat = [Line(name, "", energy[k]) for name, energy in heat_lines if energy.values[k]]
        result.append(
            Reckoning(
                level=combination.level,
                start=start,
                stop=stop,
                seconds=float(cells[k]) * segments.step,
                covered=float(sums.covered[k]),
                method=method,
                heat_meters=tuple(name for _, name in combination.given),
                heat_lines=tuple(heat),
                heat=None if cop_reason else sums.heat[k],
                electricity_lines=tuple(
                    Line(name, loads, energy[k]) for name, loads, energy in lines
                ),
                electricity=sums.electricity[k],
                cop=sums.cop[k] if known else None,
                # None where there is nothing but defrosts
                gross_cop=gross[k] if known and not cooling and taken.values[k] else None,
                standby=standby[k],
                left_out=left[k] + _apart(float(apart[k]), cooling),
                reason=why,
            )
        )
    return result


@dataclass(frozen=True, slots=True)
class Sums:
    """What of a Reckoning a ratio needs, of several groups: time in the sum, (k,) [s]; totals
    [kWh]; and the COP, which holds only where there is no reason against it."""

    covered: Floats
    heat: Estimates
    electricity: Estimates
    cop: Estimates
    moved: Floats

    def reason(self, k: int) -> Reason | None:
        """Why group k has no COP."""
        if self.electricity.values[k] <= 0:
            return because(ReasonCode.NO_ELECTRICITY_COVERED)
        if self.moved[k] <= 0:
            return because(ReasonCode.NO_HEAT_COVERED)
        return None

    @property
    def known(self) -> Bools:
        """Groups with a COP, (k,)."""
        mask: Bools = (self.electricity.values > 0) & (self.moved > 0)
        return mask


def reckon_sums(
    segments: Segments, combination: MeterCombination, groups: Ints, count: int
) -> Sums:
    """The sums of `reckon` of heating alone, without its lines: many groups at once.

    Parameters
    ----------
    groups : array, (m,)
        0 … count − 1, −1 for none.
    """
    _, groups = _without_other(segments, groups, count, cooling=False)
    tally, _, _ = _tallied(segments, combination, groups, count)
    return _sums(tally, combination, segments.step, cooling=False)


def _without_other(
    segments: Segments, groups: Ints, count: int, cooling: bool
) -> tuple[Floats, Ints]:
    """Time of each group in the other of heating and cooling, (count,) [s]; the groups without."""
    other = (segments.state == State.COOLING) != cooling
    if not other.any():
        return np.zeros(count), groups
    here = other & (groups >= 0)
    apart = np.bincount(groups[here], segments.cells[here], count).astype(float) * segments.step
    return apart, np.where(other, -1, groups)


def _tallied(
    segments: Segments, combination: MeterCombination, groups: Ints, count: int
) -> tuple[Tally, Bools, dict[str, Bools]]:
    """The tally of a level's meters; which segments count, and where each meter is unknown."""
    if combination.reason is not None:
        raise ValueError(f"{combination.level} cannot be computed: {combination.reason}")
    names = tuple(dict.fromkeys(n for _, n in combination.meters))
    valid, lost = validity(segments, names)
    return Tally(segments, names, valid, groups, count), valid, lost


def _sums(tally: Tally, combination: MeterCombination, step: int, cooling: bool) -> Sums:
    """Heat, electricity and COP of each group."""
    heat, electricity = (
        added([tally.total(name).scaled(sign) for sign, name in shares], tally.count)
        for shares in (combination.given, combination.electricity)
    )
    moved = heat.scaled(-1.0) if cooling else heat
    cop = moved.over(electricity, "")
    return Sums(tally.cells * step, heat, electricity, cop, moved.values)


def _heat_lines(tally: Tally, combination: MeterCombination) -> list[tuple[str, Estimates]]:
    def energy(*states: State) -> Estimates:
        return added(
            [
                added([tally.state(n, state).scaled(sign) for sign, n in combination.given], count)
                for state in states
                if tally.has(state)
            ],
            count,
        )

    count = tally.count
    named = (*HEAT_LINES, State.COOLING, State.UNKNOWN, State.RUNNING)
    lines = [
        ("defrost, taken back" if state == State.DEFROST else state.words, energy(state))
        for state in HEAT_LINES
    ]
    lines.append(("cooling, taken out", energy(State.COOLING)))
    lines.append(("modes not told apart", energy(State.UNKNOWN, State.RUNNING)))
    rest = [state for state in State if state not in named]
    lines.append(("pump overrun and other", energy(*rest)))
    return lines


def _apart(seconds: float, cooling: bool) -> tuple[Left, ...]:
    """Cooling is no gap in the heating, and said to be apart."""
    if not seconds or cooling:
        return ()
    return (Left(because(ReasonCode.COOLING_APART), seconds),)


def _left_out(
    segments: Segments, valid: Bools, lost: dict[str, Bools], groups: Ints, count: int
) -> list[tuple[Left, ...]]:
    """Time not in the sum by reason; the first reason that applies."""
    out: list[list[Left]] = [[] for _ in range(count)]
    if valid.all():
        return [()] * count
    open_ = ~valid & (groups >= 0)
    named = np.array([*segments.reasons, ""], object)[segments.excluded]  # −1 is the empty one
    reasons = [
        (because(ReasonCode.LEFT_OUT, words=words), named == words)
        for words in dict.fromkeys(segments.reasons)
    ]
    reasons += [(because(ReasonCode.NO_READING_OF, what=name), mask) for name, mask in lost.items()]
    for reason, mask in reasons:
        here = open_ & mask
        if not here.any():
            continue
        open_ &= ~mask
        cells = np.bincount(groups[here], weights=segments.cells[here], minlength=count)
        for k in np.flatnonzero(cells):
            out[k].append(Left(reason, float(cells[k]) * segments.step))
    return [tuple(items) for items in out]


def metered(
    segments: Segments, shares: tuple[Share, ...], groups: Ints, count: int
) -> tuple[list[Estimate], Floats]:
    """Electricity of each group whatever the heat does, and the cells in which it is known.

    Parameters
    ----------
    shares : tuple[Share, ...]
        meters with sign.
    groups : array, (m,)
        0 … count − 1, −1 for none.

    Returns
    -------
    list of Estimate [kWh], one per group; array, (count,)  Cells known.
    """
    names = tuple(name for _, name in shares)
    valid, _ = validity(segments, names, with_exclusions=False)
    tally = Tally(segments, names, valid, groups, count)
    totals = added([tally.total(name).scaled(sign) for sign, name in shares], count)
    return [totals[k] for k in range(count)], tally.cells
