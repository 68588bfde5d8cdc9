"""The sums: heat and electricity over any selection, and the COP that follows.

`reckon` is the one function that makes a Reckoning; every COP in the product is the `cop`
of one.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode
from ember.basis.quantity import Estimate, merge
from ember.basis.series import Bools, Floats, Ints
from ember.messages import Reason, because
from ember.metering import Level, Plan
from ember.metering.boundary import Share
from ember.reckoning.ledger import Ledger
from ember.reckoning.tally import Tally, validity
from ember.running import State

# The lines in which heat is shown; the rest of the states is added up as "other".
HEAT_LINES = (State.HEATING, State.START_UP, State.HOT_WATER, State.DEFROST)


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the sum [kWh]. holds : what is in it, where the name does not say."""

    name: str
    holds: str
    energy: Estimate


@dataclass(frozen=True, slots=True)
class Left:
    """Time that is not in the sum, and why [s]."""

    reason: Reason
    seconds: float


@dataclass(frozen=True)
class Reckoning:
    """The sum a person could do by hand.

    level : boundary. start, stop : instants of what was asked for [s]. seconds : time asked
    for; covered : time in the sum [s]. way : how the heat was measured, heat_meters : by what.
    heat, electricity : totals [kWh]; heat_lines by state, electricity_lines by meter.
    cop : net of defrost, None with the reason in `reason`.
    gross_cop : defrosts left out on both sides. standby : electricity while the unit is off or
    waits [kWh], a part of the electricity.
    """

    level: Level
    start: float
    stop: float
    seconds: float
    covered: float
    way: str
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
    ledger: Ledger,
    plan: Plan,
    groups: Ints,
    periods: Sequence[tuple[float, float]],
    withheld: Reason | None = None,
    cooling: bool = False,
) -> list[Reckoning]:
    """The Reckoning of each group of segments at one boundary level.

    Parameters
    ----------
    ledger : the segments and their sums.
    plan : how the level is computed; it must be one that can be (plan.reason is None).
    groups : array, (m,)  Which of the `periods` a segment belongs to, −1 for none.
    periods : instants from and to which each group was asked for [s].
    withheld : why no heat and COP may be stated, if metering forbids it.
    cooling : reckons the cooling instead, whose heat is negative and whose `cop` is the EER; it is
        never mixed with heating.

    Returns
    -------
    list of Reckoning, one per period.

    Source: COP = Σheat ÷ Σelectricity over the same cells, net of defrost (common practice;
    boundaries SEPEMO-Build). Uncertainty: GUM, linear propagation by named source.
    """
    count = len(periods)
    apart, groups = _without_other(ledger, groups, count, cooling)
    tally, valid, lost = _tallied(ledger, plan, groups, count)
    cells = np.bincount(groups[groups >= 0], weights=ledger.cells[groups >= 0], minlength=count)
    left = _left_out(ledger, valid, lost, groups, count)
    way = " and ".join(dict.fromkeys(ledger.meters[name].way for _, name in plan.heat))
    result = []
    for k, (start, stop) in enumerate(periods):
        sums = _sums(tally, k, plan, ledger.step, withheld, cooling)
        why = sums.reason
        if why and apart[k] and not tally.cells[k]:
            why = because(ReasonCode.ALL_COOLING)
        lines = tuple(
            Line(
                f"{'less ' if sign < 0 else ''}{name}",
                ledger.meters[name].holds,
                tally.total(k, name).scaled(sign),
            )
            for sign, name in plan.electricity
        )
        heat_lines = () if withheld else _heat_lines(tally, k, plan)
        gross = None
        if why is None and not cooling:
            given, taken = (
                _added([tally.without(k, n, State.DEFROST).scaled(s) for s, n in shares])
                for shares in (plan.given, plan.electricity)
            )
            gross = given.over(taken, "") if taken.value else None  # nothing but defrosts
        result.append(
            Reckoning(
                level=plan.level,
                start=start,
                stop=stop,
                seconds=float(cells[k]) * ledger.step,
                covered=sums.covered,
                way=way,
                heat_meters=tuple(name for _, name in plan.given),
                heat_lines=heat_lines,
                heat=None if withheld else sums.heat,
                electricity_lines=lines,
                electricity=sums.electricity,
                cop=sums.cop,
                gross_cop=gross,
                standby=_added(
                    [
                        tally.state(k, name, state).scaled(sign)
                        for sign, name in plan.electricity
                        for state in (State.OFF, State.STANDBY)
                    ]
                ),
                left_out=left[k] + _apart(float(apart[k]), cooling),
                reason=why,
            )
        )
    return result


@dataclass(frozen=True, slots=True)
class Sums:
    """What of a Reckoning a ratio needs: time in the sum [s], totals [kWh], and the COP, None with
    the reason."""

    covered: float
    heat: Estimate
    electricity: Estimate
    cop: Estimate | None
    reason: Reason | None


def reckon_sums(ledger: Ledger, plan: Plan, groups: Ints, count: int) -> list[Sums]:
    """The sums of `reckon` of heating alone, without its lines: many groups at once.

    Parameters
    ----------
    groups : array, (m,)  0 … count − 1, −1 for none.
    """
    _, groups = _without_other(ledger, groups, count, cooling=False)
    tally, _, _ = _tallied(ledger, plan, groups, count)
    return [_sums(tally, k, plan, ledger.step, None, cooling=False) for k in range(count)]


def _without_other(ledger: Ledger, groups: Ints, count: int, cooling: bool) -> tuple[Floats, Ints]:
    """Time of each group in the other of heating and cooling, (count,) [s]; the groups without."""
    other = (ledger.state == State.COOLING) != cooling
    if not other.any():
        return np.zeros(count), groups
    here = other & (groups >= 0)
    apart = np.bincount(groups[here], ledger.cells[here], count).astype(float) * ledger.step
    return apart, np.where(other, -1, groups)


def _tallied(
    ledger: Ledger, plan: Plan, groups: Ints, count: int
) -> tuple[Tally, Bools, dict[str, Bools]]:
    """The tally of a level's meters; which segments count, and where each meter is unknown."""
    if plan.reason is not None:
        raise ValueError(f"{plan.level} cannot be computed: {plan.reason}")
    names = tuple(dict.fromkeys(n for _, n in plan.meters))
    valid, lost = validity(ledger, names)
    return Tally(ledger, names, valid, groups, count), valid, lost


def _sums(
    tally: Tally, k: int, plan: Plan, step: int, withheld: Reason | None, cooling: bool
) -> Sums:
    """Heat, electricity and COP of a group."""
    heat, electricity = (
        _added([tally.total(k, name).scaled(sign) for sign, name in shares])
        for shares in (plan.given, plan.electricity)
    )
    moved = heat.scaled(-1.0) if cooling else heat
    why = withheld or _why_not(moved, electricity)
    cop = moved.over(electricity, "") if why is None else None
    return Sums(float(tally.cells[k]) * step, heat, electricity, cop, why)


def _why_not(heat: Estimate, electricity: Estimate) -> Reason | None:
    if electricity.value <= 0:
        return because(ReasonCode.NO_ELECTRICITY_COVERED)
    if heat.value <= 0:
        return because(ReasonCode.NO_HEAT_COVERED)
    return None


def _heat_lines(tally: Tally, k: int, plan: Plan) -> tuple[Line, ...]:
    shares = plan.given

    def energy(state: State) -> Estimate:
        if not tally.state_pieces[k][state]:
            return Estimate(0.0, "kWh", ())
        return _added([tally.state(k, name, state).scaled(sign) for sign, name in shares])

    lines = [
        Line("defrost, taken back" if state == State.DEFROST else state.words, "", energy(state))
        for state in HEAT_LINES
    ]
    lines.append(Line("cooling, taken out", "", energy(State.COOLING)))
    open_ = (State.UNKNOWN, State.RUNNING)
    lines.append(Line("modes not told apart", "", _added([energy(state) for state in open_])))
    named = (*HEAT_LINES, State.COOLING, *open_)
    rest = _added([energy(state) for state in State if state not in named])
    lines.append(Line("pump overrun and other", "", rest))
    return tuple(line for line in lines if line.energy.value)


def _added(estimates: Sequence[Estimate]) -> Estimate:
    budget = merge(part for estimate in estimates for part in estimate.budget)
    return Estimate(sum(e.value for e in estimates), "kWh", budget)


def _apart(seconds: float, cooling: bool) -> tuple[Left, ...]:
    """Cooling is no gap in the heating, and said to be apart."""
    if not seconds or cooling:
        return ()
    return (Left(because(ReasonCode.COOLING_APART), seconds),)


def _left_out(
    ledger: Ledger, valid: Bools, lost: dict[str, Bools], groups: Ints, count: int
) -> list[tuple[Left, ...]]:
    """Time not in the sum by reason; the first reason that applies."""
    out: list[list[Left]] = [[] for _ in range(count)]
    if valid.all():
        return [()] * count
    open_ = ~valid & (groups >= 0)
    named = np.array([*ledger.reasons, ""], object)[ledger.excluded]  # −1 is the empty one
    reasons = [
        (because(ReasonCode.LEFT_OUT, words=words), named == words)
        for words in dict.fromkeys(ledger.reasons)
    ]
    reasons += [(because(ReasonCode.NO_READING_OF, what=name), mask) for name, mask in lost.items()]
    for reason, mask in reasons:
        here = open_ & mask
        if not here.any():
            continue
        open_ &= ~mask
        cells = np.bincount(groups[here], weights=ledger.cells[here], minlength=count)
        for k in np.flatnonzero(cells):
            out[k].append(Left(reason, float(cells[k]) * ledger.step))
    return [tuple(items) for items in out]


def metered(
    ledger: Ledger, shares: tuple[Share, ...], groups: Ints, count: int
) -> tuple[list[Estimate], Floats]:
    """Electricity of each group whatever the heat does, and the cells in which it is known.

    Parameters
    ----------
    shares : meters with sign. groups : array, (m,)  0 … count − 1, −1 for none.

    Returns
    -------
    list of Estimate [kWh], one per group; array, (count,)  Cells known.
    """
    names = tuple(name for _, name in shares)
    valid, _ = validity(ledger, names, with_exclusions=False)
    tally = Tally(ledger, names, valid, groups, count)
    totals = [
        _added([tally.total(k, name).scaled(sign) for sign, name in shares]) for k in range(count)
    ]
    return totals, tally.cells
