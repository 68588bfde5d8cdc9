"""assess(): the whole road in one call."""

from dataclasses import replace

import numpy as np

from ember import VERSION
from ember.assessment import (
    FORMAT,
    FORMAT_VERSION,
    Assessment,
    LevelState,
    PeriodFigures,
)
from ember.clock import zone_named
from ember.corrections import corrected
from ember.errors import DescriptionError
from ember.findings import below_rated
from ember.installation import Installation
from ember.metering import Level, Plan, Streams, meter, plans
from ember.metering.boundary import all_metered
from ember.money import Windows, cost, windows
from ember.period import Period
from ember.quantity import Estimate
from ember.rating import Comparison, Expected, compare, expected, verdict
from ember.rating.compare import LEVEL
from ember.reckoning import Ledger, Reckoning, ledger, reckon
from ember.reckoning.tally import KWH, validity
from ember.running import Running, State, running, summarise
from ember.season import latest_year, months, whole
from ember.trace import Floats, Ints, Trace, edges_of
from ember.trust import (
    Check,
    Soundness,
    beyond_physics,
    flow_scatter,
    swapped_sensors,
    two_ways,
)


def assess(
    installation: Installation,
    trace: Trace,
    start: float | None = None,
    stop: float | None = None,
    effects: bool = True,
) -> Assessment:
    """Everything the core can say about one record.

    Parameters
    ----------
    installation : the description; its corrections are applied first.
    trace : the readings.
    start, stop : instants between which to assess [s]; None: the whole record. What lies
        outside still helps to tell the states at the edges.
    effects : whether to work out what each proposed correction would do to the COP.

    Returns
    -------
    Assessment.

    Raises DescriptionError if the description does not fit the record.
    """
    zone = zone_named(installation.zone)
    logged = trace
    trace, excluded, applied = corrected(installation, trace, zone)
    begin, end = _limits(trace, start, stop)
    streams = meter(installation, trace)
    states = running(installation, trace, streams)
    promise = expected(installation, trace, states)
    calendar = months(begin, end, zone)
    last_year = latest_year(begin, end, zone)
    times = None
    if installation.tariff is not None:
        times = windows(installation.tariff, trace.start, trace.stop, zone)
    level_plans = plans(installation, streams)
    named = [*calendar, *([last_year] if last_year else [])]
    cuts = _cuts(trace, begin, end, named, times, promise, states)
    book = ledger(
        trace.start, trace.step, states.state, streams, excluded, cuts,
        _rated_heat(promise, streams, level_plans[LEVEL]),
    )  # fmt: skip
    whole_period = whole(begin, end)
    inside = book.within(begin, end)

    swapped = swapped_sensors(installation, trace, streams, states)
    withheld = _withheld([swapped])
    settled = _settled(book, level_plans, inside, states, whole_period, withheld)
    checks: tuple[Check, ...] = (
        swapped,
        flow_scatter(installation, trace, streams, states, zone, excluded),
        beyond_physics(installation, trace, streams, states, settled),
        two_ways(installation, trace, streams, swapped),
    )
    withheld = _withheld(checks)

    total = _figures([whole_period], book, level_plans, installation, streams, times, withheld)[0]
    year = None
    if last_year is not None:
        year = _figures([last_year], book, level_plans, installation, streams, times, withheld)[0]
    by_month = _figures(calendar, book, level_plans, installation, streams, times, withheld)
    comparison, why_none = _comparison(
        installation, promise, book, level_plans[LEVEL], inside, whole_period, withheld
    )
    if effects:
        now = total.reckonings[-1].cop if total.reckonings else None
        checks = tuple(
            _with_effect(check, now, installation, logged, begin, end) for check in checks
        )
    doubt = None if withheld else _doubt(checks, begin, end)
    judged = verdict(
        None if doubt else comparison,
        installation.thresholds,
        installation.unit.variable_speed,
        doubt or why_none,
    )
    over = year if year is not None else total
    in_year = None
    if comparison is not None:
        compared = book.within(over.period.start, over.period.stop) & (book.extra["compared"] > 0)
        asked = [(over.period.start, over.period.stop)]
        in_year = reckon(book, level_plans[LEVEL], np.where(compared, 0, -1), asked)[0]
    found = below_rated(
        comparison, judged, installation.thresholds, over.period, in_year, over.cost
    )
    return Assessment(
        format=FORMAT,
        version=FORMAT_VERSION,
        name=installation.name,
        zone=installation.zone,
        core=VERSION,
        start=begin,
        stop=end,
        step=trace.step,
        levels=tuple(LevelState(p.level, p.level.words, p.missing) for p in level_plans.values()),
        checks=checks,
        corrections=applied,
        total=total,
        latest_year=year,
        months=tuple(by_month),
        running=summarise(trace, states, begin, end, swapped.soundness == Soundness.BROKEN),
        comparison=comparison,
        verdict=judged,
        findings=(found,) if found else (),
        missing_meters=streams.missing,
    )


def _limits(trace: Trace, start: float | None, stop: float | None) -> tuple[float, float]:
    begin = max(trace.start, trace.start if start is None else start)
    end = min(trace.stop, trace.stop if stop is None else stop)
    if end <= begin:
        raise DescriptionError(
            "from/to: there are no readings between these two times; the record runs from "
            f"{np.datetime64(trace.start, 's')}Z to {np.datetime64(trace.stop, 's')}Z."
        )
    return float(begin), float(end)


def _cuts(
    trace: Trace,
    begin: float,
    end: float,
    named: list[Period],
    times: Windows | None,
    promise: Expected | str,
    states: Running,
) -> list[Ints]:
    instants = [np.array([begin, end, *(p.start for p in named)])]
    if times is not None:
        instants += [times.start, times.stop]
    cells = np.ceil((np.concatenate(instants) - trace.start) / trace.step).astype(np.int64)
    cuts = [np.clip(cells, 0, len(trace)), edges_of(states.recovery)]
    if isinstance(promise, Expected):
        cuts.append(edges_of(promise.compared))
    return cuts


def _rated_heat(promise: Expected | str, streams: Streams, plan: Plan) -> dict[str, Floats]:
    """Electricity × rated COP of each cell [J], and the cells compared, to be summed."""
    if isinstance(promise, str) or plan.missing is not None:
        return {}
    total: Floats | None = None
    for sign, name in plan.electricity:
        energy = streams.electricity[name].energy
        total = sign * energy if total is None else total + sign * energy
    assert total is not None
    return {"rated heat": total * promise.cop, "compared": promise.compared.astype(np.float64)}


def _settled(
    book: Ledger,
    level_plans: dict[Level, Plan],
    inside: np.ndarray,
    states: Running,
    period: Period,
    withheld: str | None,
) -> Reckoning | None:
    """Settled heating at the lowest level that can be computed."""
    plan = next((p for p in level_plans.values() if p.missing is None), None)
    if plan is None:
        return None
    settled = inside & (book.state == State.HEATING) & ~states.recovery[book.edges[:-1]]
    return reckon(book, plan, np.where(settled, 0, -1), [(period.start, period.stop)], withheld)[0]


def _with_effect(
    check: Check,
    now: Estimate | None,
    installation: Installation,
    logged: Trace,
    begin: float,
    end: float,
) -> Check:
    """The check with the COP before and after its proposals, by assessing anew with them."""
    if not check.proposals:
        return check
    accepted = replace(installation, corrections=installation.corrections + check.proposals)
    then = assess(accepted, logged, begin, end, effects=False).main
    return replace(check, cop_now=now, cop_if_accepted=then.cop if then else None)


def _withheld(checks: list[Check] | tuple[Check, ...]) -> str | None:
    broken = [check.name for check in checks if check.soundness == Soundness.BROKEN]
    return f"the metering is broken ({', '.join(broken)}); no COP is stated" if broken else None


def _doubt(checks: tuple[Check, ...], begin: float, end: float) -> str | None:
    """Why doubtful metering forbids a verdict, if it does."""
    named = [
        check.name
        for check in checks
        if check.soundness == Soundness.DOUBTFUL
        and any(span.start < end and span.stop > begin for span in check.spans)
    ]
    if not named:
        return None
    return (
        f"The metering is doubtful ({', '.join(named)}). Accept or answer what the check proposes; "
        "until then neither blame nor praise rests on it."
    )


def _figures(
    periods: list[Period],
    book: Ledger,
    level_plans: dict[Level, Plan],
    installation: Installation,
    streams: Streams,
    times: Windows | None,
    withheld: str | None,
) -> list[PeriodFigures]:
    """Reckonings at every level, and the cost, of each period."""
    begins = book.start + book.edges[:-1] * book.step
    starts = np.array([p.start for p in periods])
    groups = np.searchsorted(starts, begins, side="right") - 1
    groups[begins >= periods[-1].stop] = -1
    asked = [(p.start, p.stop) for p in periods]
    possible = [plan for plan in level_plans.values() if plan.missing is None]
    columns = [reckon(book, plan, groups, asked, withheld) for plan in possible]
    shares = all_metered(installation, streams)
    costs = None
    if installation.tariff is not None and times is not None and shares:
        costs = cost(installation.tariff, times, book, shares, groups, asked)
    return [
        PeriodFigures(period, tuple(column[k] for column in columns), costs[k] if costs else None)
        for k, period in enumerate(periods)
    ]


def _comparison(
    installation: Installation,
    promise: Expected | str,
    book: Ledger,
    plan: Plan,
    inside: np.ndarray,
    period: Period,
    withheld: str | None,
) -> tuple[Comparison | None, str]:
    """Performance ratio at H2 over the cells that fit the table, or why there is none."""
    if withheld:
        return None, f"No comparison: {withheld}."
    if isinstance(promise, str):
        return None, f"No comparison with a rated table: {promise}."
    if plan.missing is not None:
        return None, (
            f"No comparison with the rated table: it stands at about {LEVEL}, and that level "
            f"cannot be computed: {plan.missing}."
        )
    compared = inside & (book.extra["compared"] > 0)
    asked = [(period.start, period.stop)]
    measured = reckon(book, plan, np.where(compared, 0, -1), asked)[0]
    counted, _ = validity(book, tuple(name for _, name in plan.meters))
    rated = float(book.extra["rated heat"][compared & counted].sum()) / KWH
    found = compare(installation, promise, measured, rated)
    share = f"{promise.outside / promise.fitting:.0%}" if promise.fitting else "all"
    return found, (
        f"No comparison with the rated table: no settled heating lies inside it ({share} of it "
        "is outside). Nothing is extrapolated."
    )
