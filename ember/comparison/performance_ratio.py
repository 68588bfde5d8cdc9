"""Performance ratio and verdict."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.basis.codes import SourceCode
from ember.basis.quantity import KWH, Estimate, Estimates, exact, rectangular
from ember.basis.series import Bools, Floats
from ember.boundary import Level, MeterCombination
from ember.description.installation import Installation, Thresholds
from ember.messages import Source, words_of
from ember.rated.expected import Promise
from ember.rated.further import IN_THE_RATING, Further
from ember.reckoning import Reckoning, Segments, Sums, reckon
from ember.reckoning.tally import validity

say = words_of(__name__)

FLOW_TEMP_LIMIT = 0.5  # error limit of the flow temperature itself [K], common practice
HEATER_RESTS = 7.0  # outdoors, above which a backup heater rests [degC], common practice
HEATER_SHARE = "heater in the same meter, not told apart"
# of the electricity, that one takes where that is not known, common practice, chosen
HEATER_OPEN = 0.1
# of comparable running before anything is said, common practice, chosen
PERFORMANCE_RATIO_LEAST_HOURS = 24.0


class VerdictKind(StrEnum):
    """The verdict over a performance ratio."""

    BELOW_RATED = "below rated"
    WATCH = "watch"
    AS_RATED = "as rated"
    WIDE_LIMITS = "as rated within wide limits"
    TOO_GOOD = "too good"
    NONE = "no verdict"


@dataclass(frozen=True)
class Comparison:
    """Measured against rated over the span that fits the table.

    Attributes
    ----------
    measured : Reckoning
        the Reckoning of the compared cells, at the level nearest to the table that can be computed.
    rated_cop : Estimate
        Σ heat ÷ Σ expected electricity at that level.
    ratio : Estimate
        performance ratio, Σ expected ÷ Σ measured electricity, with meters, sensors, the table and
        what was assumed in its budget.
    further : tuple[Further, ...]
        what the level holds beside the table's boundary, and how it is known.
    with_heater : Estimate | None
        the ratio with the hours in which a heater may have worked in the same meter, which are left
        out else; None where none are.
    heater_hours : float
        those hours.
    assumed : tuple[tuple[str, float], ...]
        as in Promise.
    heater_open : bool
        a heater in the same meter cannot be told apart.
    resting : Estimate | None
        the ratio in weather in which it rests, None where there is too little of that.
    """

    measured: Reckoning
    rated_cop: Estimate
    ratio: Estimate
    hours: float
    outside_table: float
    span: str
    further: tuple[Further, ...]
    with_heater: Estimate | None
    heater_hours: float
    assumed: tuple[tuple[str, float], ...] = ()
    heater_open: bool = False
    resting: Estimate | None = None


@dataclass(frozen=True)
class Verdict:
    """The verdict with its sentence.

    Attributes
    ----------
    doubted : bool
        there is a ratio, but Trust doubts what it rests on.
    """

    kind: VerdictKind
    sentence: str
    doubted: bool = False


def compare(
    installation: Installation,
    promise: Promise,
    measured: Reckoning,
    expected: float,
    together: tuple[Reckoning, float] | None = None,
    mild: tuple[Reckoning, float] | None = None,
) -> Comparison | None:
    """Performance ratio over the compared cells; None where no COP may be stated.

    Parameters
    ----------
    measured : Reckoning
        Reckoning of the compared cells.
    expected : float
        Σ heat of the unit ÷ rated COP + power of each further consumer, over the same cells [kWh].
    together : tuple[Reckoning, float] | None
        the same of these cells and those left out for a heater.
    mild : tuple[Reckoning, float] | None
        the same of those in which a heater that cannot be told apart rests.

    Source: PR = Σ expected ÷ Σ measured electricity at the level that is metered, common practice.
    Tolerance of the table and limit of the outdoor sensor as described; both enter as rectangular
    and systematic.
    """
    assumed, resting = promise.assumed, None
    if promise.heater_open:
        if mild is not None and mild[0].covered >= PERFORMANCE_RATIO_LEAST_HOURS * 3600:
            there = _ratio(installation, promise, *mild, promise.assumed)
            resting = there[1] if there is not None else None
        plain = _ratio(installation, promise, measured, expected, ())
        if plain is None:
            return None
        lacks = max(resting.value - plain[1].value, 0.0) if resting is not None else HEATER_OPEN
        assumed = (*assumed, (HEATER_SHARE, lacks))
    found = _ratio(installation, promise, measured, expected, assumed)
    if found is None:
        return None
    rated, ratio = found
    share = promise.outside / promise.fitting if promise.fitting else 0.0
    hours, both = 0.0, None
    if together is not None and together[0].covered > measured.covered:
        hours = (together[0].covered - measured.covered) / 3600
        wider = _ratio(installation, promise, *together, assumed)
        both = wider[1] if wider is not None else None
    return Comparison(
        measured=measured,
        rated_cop=rated,
        ratio=ratio,
        hours=measured.covered / 3600,
        outside_table=share,
        span=promise.span,
        further=promise.further,
        with_heater=both,
        heater_hours=hours,
        assumed=assumed,
        heater_open=promise.heater_open,
        resting=resting,
    )


def ratios_alone(
    installation: Installation, promise: Promise, measured: Sums, expected: Floats
) -> Estimates:
    """The ratio of `compare` of several groups where nothing is known but their sums; it holds only
    where they have a COP and something is expected, (k,) [kWh]."""
    assumed = promise.assumed
    if promise.heater_open:
        assumed = (*assumed, (HEATER_SHARE, HEATER_OPEN))
    heat, covered = measured.heat.values, measured.covered
    return _ratios(installation, promise, measured.cop, heat, covered, expected, assumed)[1]


def _ratio(
    installation: Installation,
    promise: Promise,
    measured: Reckoning,
    expected: float,
    assumed: tuple[tuple[str, float], ...],
) -> tuple[Estimate, Estimate] | None:
    """Rated COP at the level of comparison, and the performance ratio."""
    if measured.cop is None or measured.heat is None or expected <= 0:
        return None
    heat, covered, wanted = (
        np.array([one]) for one in (measured.heat.value, measured.covered, expected)
    )
    cop = Estimates.of(measured.cop)
    rated, ratio = _ratios(installation, promise, cop, heat, covered, wanted, assumed)
    return rated[0], ratio[0]


def _ratios(
    installation: Installation,
    promise: Promise,
    cop: Estimates,
    heat: Floats,
    covered: Floats,
    expected: Floats,
    assumed: tuple[tuple[str, float], ...],
) -> tuple[Estimates, Estimates]:
    """Rated COPs at the level of comparison, and performance ratios, of several groups, (k,)."""
    budget: dict[tuple[Source, bool], Floats] = {}

    def besides(code: SourceCode, u: Floats, of: str = "", detail: str = "") -> None:
        key = Source(code, of, detail), False
        budget[key] = budget[key] + u if key in budget else u

    with np.errstate(divide="ignore", invalid="ignore"):
        value = heat / expected
        # What a further consumer takes [kWh], and how far that may be off.
        extra = [(f, f.watts * covered / KWH) for f in promise.further]
        taken = np.sum([energy for _, energy in extra], axis=0) if extra else 0.0
        of_unit = value * np.maximum(expected - taken, 0.0) / expected
        u_outdoor = rectangular(installation.outdoor.limit_k) * promise.per_kelvin_outdoor
        u_flow = rectangular(FLOW_TEMP_LIMIT) * promise.per_kelvin_flow
        besides(SourceCode.RATED_TABLE, of_unit * rectangular(promise.tolerance))
        besides(SourceCode.OUTDOOR_SENSOR, of_unit * u_outdoor)
        besides(SourceCode.FLOW_TEMPERATURE, of_unit * u_flow)
        for what, share in assumed:
            besides(SourceCode.METHOD, value * rectangular(share), detail=what)
        for further, energy in extra:
            share = further.limit / further.watts if further.watts else 0.0
            off = value * rectangular(1.0) * share * energy / expected
            besides(SourceCode.CONSUMER_POWER, off, further.consumer.replace("_", " "))
        for further, energy in extra:
            # What EN 14511 counts of a pump in the rating already: the unit's own pressure drop.
            off = value * rectangular(IN_THE_RATING) * energy / expected
            besides(SourceCode.CONSUMER_SHARE, off, further.consumer.replace("_", " "))
    rated = Estimates(value, "", budget)
    return rated, cop.over(rated, "")


def stands_at(comparison: Comparison) -> tuple[str, ...]:
    """At which level a comparison stands, what was assumed to bring the table there, what was left
    out for a heater, and what would narrow it; in words."""
    level = comparison.measured.level
    said = []
    if comparison.further:
        said.append(
            say("compared_nearest_table", level=level)
            + "; ".join(f"{f.words}, {f.watts:.0f} ± {f.limit:.0f} W" for f in comparison.further)
            + "."
        )
    elif level != Level.H2:
        said.append(say("compared_nearest_table_level", level=level))
    if comparison.heater_hours:
        both = (
            say("with_heater", with_heater=comparison.with_heater) if comparison.with_heater else ""
        )
        said.append(
            say(
                "left_out_heater",
                heater_hours=comparison.heater_hours,
                ratio=comparison.ratio,
                both=both,
            )
        )
    for what, share in comparison.assumed:
        if share:
            said.append(say("besides", what=what, share=share))
    if comparison.heater_open and comparison.resting is not None:
        said.append(
            say("above_outdoors_where", heater_rests=HEATER_RESTS, resting=comparison.resting)
        )
    narrower = [say("meter_heater_own")]
    narrower = narrower if comparison.heater_open else []
    narrower += [f.narrower for f in comparison.further if f.narrower]
    if narrower:
        said.append(say("would_narrow", narrower="; ".join(narrower)))
    return tuple(said)


def compare_segments(
    installation: Installation,
    segments: Segments,
    combination: MeterCombination,
    promise: Promise,
    inside: Bools,
    asked: tuple[float, float],
) -> tuple[Reckoning, Comparison | None]:
    """The Reckoning of the compared running among some segments, (m,), and the comparison.

    Parameters
    ----------
    combination : MeterCombination
        of the level at which is compared.
    asked : tuple[float, float]
        between which instants [s].
    """
    counted, _ = validity(segments, tuple(name for _, name in combination.meters))

    def summed(mask: Bools) -> tuple[Reckoning, float]:
        measured = reckon(segments, combination, np.where(mask, 0, -1), [asked])[0]
        return measured, float(segments.sums["expected"][mask & counted].sum()) / KWH

    compared = inside & (segments.sums["compared"] > 0)
    measured, expected = summed(compared)
    helped = inside & (segments.sums["helped"] > 0)
    together = summed(compared | helped) if helped.any() else None
    mild = None
    if promise.heater_open and "outdoor" in segments.sums:
        with np.errstate(invalid="ignore", divide="ignore"):
            outdoor = segments.sums["outdoor"] / segments.sums["outdoor known"]
        mild = summed(compared & (outdoor > HEATER_RESTS))
    return measured, compare(installation, promise, measured, expected, together, mild)


def electricity_lost(measured: Reckoning, ratio: Estimate) -> Estimate:
    """Electricity that the same heat would not have needed at the rated COP [kWh].

    Parameters
    ----------
    measured : Reckoning
        the compared running.
    ratio : Estimate
        its performance ratio; below 1 something is lost.

    Source: E·(1 − PR), from PR = expected ÷ E.
    """
    return measured.electricity.times(exact(1.0, "") - ratio, "kWh")


def cop_if_rated(whole: Reckoning, lost: Estimate) -> Estimate | None:
    """The COP of a Reckoning, had its compared running met the rated table.

    Parameters
    ----------
    lost : Estimate
        electricity lost in the compared running of the same time [kWh]. Running that is not
        compared stays as it was.
    """
    if whole.cop is None or whole.heat is None:
        return None
    return whole.heat.over(whole.electricity - lost, "")


def verdict(
    comparison: Comparison | None, thresholds: Thresholds, part_load: bool, why_none: str
) -> Verdict:
    """What may be said of a performance ratio.

    Parameters
    ----------
    part_load : bool
        a variable-speed unit against a table of one speed; part load is then better by nature and
        the limit of "too good" is wider.
    why_none : str
        the sentence where there is no comparison.

    Source: limits common practice, the analyst's to change.
    """
    if comparison is None:
        return Verdict(VerdictKind.NONE, why_none)
    if comparison.hours < PERFORMANCE_RATIO_LEAST_HOURS:
        return Verdict(
            VerdictKind.NONE,
            say(
                "only_running_can",
                hours=comparison.hours,
                performance_ratio_least_hours=PERFORMANCE_RATIO_LEAST_HOURS,
            ),
        )
    ratio, limit = comparison.ratio, thresholds.below_rated
    most = thresholds.too_good_part_load if part_load else thresholds.too_good
    low, high = ratio.value - ratio.U, ratio.value + ratio.U
    said = say("performance_ratio_over", ratio=ratio, hours=comparison.hours)
    if high < limit and comparison.heater_open:
        there = comparison.resting
        if there is None or there.value + there.U >= limit:
            return Verdict(
                VerdictKind.WATCH,
                say("below_but_heater", said=said, limit=limit),
            )
    if high < limit:
        return Verdict(VerdictKind.BELOW_RATED, say("even_all_stays", said=said, limit=limit))
    if ratio.value < limit:
        return Verdict(VerdictKind.WATCH, say("below_but_within", said=said, limit=limit))
    if low > most:
        return Verdict(
            VerdictKind.TOO_GOOD,
            say("above_even_without", said=said, most=most),
        )
    if ratio.value > most:
        return Verdict(
            VerdictKind.WIDE_LIMITS,
            say("above_no_unit", said=said, most=most),
        )
    if low < thresholds.wide_limits:
        return Verdict(
            VerdictKind.WIDE_LIMITS,
            say("as_rated_but_wide", said=said, wide_limits=thresholds.wide_limits),
        )
    return Verdict(VerdictKind.AS_RATED, say("as_rated", said=said))
