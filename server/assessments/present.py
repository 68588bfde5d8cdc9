"""An assessment as text for a terminal. Layout only: every number comes from the core."""

import json
import re
from collections.abc import Iterable, Sequence

from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from ember.assessment.export import plain
from ember.assessment.record_analysis import RecordAnalysis
from ember.assessment.results import Assessment
from ember.balance.sums import PeriodFigures
from ember.basis.clock import iso_local, zone_named
from ember.basis.quantity import Estimate
from ember.boundary import Level
from ember.comparison.performance_ratio import VerdictKind, stands_at
from ember.cost import Payback, fuel_named
from ember.description.installation import Service
from ember.diagnosis import Cause, Finding
from ember.intake import IntakeReport, Treatment
from ember.reckoning import Reckoning
from ember.trust import Check, Soundness
from ember.views.change_seen import ChangeSummary
from ember.views.fuel_seen import FuelSeen
from ember.views.in_common import InCommon
from ember.views.season_summary import SeasonSummary
from ember.views.standing import standing
from ember.views.trial_seen import TrialSeen
from ember.what_if import WhatIf

WIDTH = 96
EMBER, TEAL, SOFT = "bold #B5431A", "#2C7672", "#8A8378"


def figure(estimate: Estimate | None, none: str = "–") -> str:
    """An estimate with as many digits as its U allows."""
    return none if estimate is None else _signed(str(estimate))


def value_like(estimate: Estimate, like: Estimate) -> str:
    """A value to the decimals of another estimate, so that a column adds up."""
    return _signed(f"{estimate.value:,.{like.decimals or 0}f}")


def _signed(text: str) -> str:
    """The minus sign of numbers as such, hyphens of words and dates left alone."""
    return re.sub(r"(?<![\w.])-(?=\d)", "−", text)


def report(
    assessment: Assessment, intakes: Sequence[IntakeReport], doubts: Sequence[str] = ()
) -> RenderableType:
    """The whole assessment, set for reading. doubts : of the rated table."""
    parts: list[RenderableType] = [_head(assessment), *reckoning_block(assessment)]
    parts += [_heading("Boundaries"), _levels(assessment)]
    for found in assessment.total.services:
        name = "EER" if found.service == Service.COOLING else "COP"
        if found.reckoning is not None:
            parts += sum_block(
                found.reckoning,
                f"{found.service.words}, {name}",
                words_of(assessment, found.reckoning.level),
            )
        else:
            parts.append(
                _sentence(f"{found.service.words.capitalize()}. ", str(found.reason or ""))
            )
    if (reported := assessment.total.reported) is not None and reported.cop is not None:
        said = f"{figure(reported.cop)} at {reported.level}, not measured; no verdict rests on it."
        parts.append(_sentence("As the controller reports it. ", said))
    parts += [_heading("Metering"), _checks(assessment)]
    parts += [_heading("Against the rated table"), *_rating(assessment)]
    parts += [_sentence("The table. ", doubt) for doubt in doubts]
    for finding in assessment.findings:
        parts += [_heading("Finding", EMBER), *_finding(finding)]
    parts += [_heading("Running"), _running(assessment)]
    parts += [_heading("Months"), _months(assessment)]
    if assessment.total.cost is not None:
        parts += [_heading("Cost"), *_cost(assessment.total)]
    main = assessment.main
    if main is not None and main.cop is not None:
        parts += [_heading(f"Uncertainty of the COP at {main.level}"), budget(main.cop)]
    for intake in intakes:
        parts += [_heading("The file"), *_intake(intake)]
    proposals = [p for check in assessment.checks for p in check.proposals]
    if proposals:
        parts += [_heading("To accept: add to the corrections of the description")]
        parts += [_indented(Text(json.dumps(plain(p), ensure_ascii=False))) for p in proposals]
    return Group(*parts)


def brief(assessment: Assessment) -> RenderableType:
    """The sum, the metering where it is not sound, the verdict and the findings."""
    parts: list[RenderableType] = [_head(assessment), *reckoning_block(assessment)]
    unsound = [
        c for c in assessment.checks if c.soundness in (Soundness.BROKEN, Soundness.DOUBTFUL)
    ]
    for check in unsound:
        parts.append(_sentence(f"Metering {check.soundness}. ", check.sentence, EMBER))
        parts.append(_sentence("Remedy. ", f"{check.remedy} {effect(check)}"))
    parts += _rating(assessment)
    for finding in assessment.findings:
        parts.append(_sentence("Cost. ", _cost_of(finding)))
    return Group(*parts)


def console(file: object = None) -> Console:
    """A console that keeps lines within WIDTH and shows colours only to a terminal."""
    made = Console(file=file, highlight=False, markup=False, emoji=False)  # type: ignore[arg-type]
    if not made.is_terminal or made.width > WIDTH:
        made.width = WIDTH
    return made


def _heading(text: str, style: str = "bold") -> RenderableType:
    return Padding(Text(text.upper(), style=style), (1, 0, 0, 0))


def _sentence(lead: str, text: str, style: str = "bold") -> RenderableType:
    return Padding(Text.assemble((lead, style), _signed(text)), (0, 0, 0, 2))


def _grid(*justify: str, padding: int = 2) -> Table:
    table = Table.grid(padding=(0, padding, 0, 0))
    for how in justify:
        table.add_column(justify=how)  # type: ignore[arg-type]
    return table


def _indented(table: RenderableType) -> RenderableType:
    return Padding(table, (0, 0, 0, 2))


def _head(assessment: Assessment) -> RenderableType:
    zone = zone_named(assessment.zone)
    start, stop = (iso_local(t, zone) for t in (assessment.start, assessment.stop))
    step = assessment.step
    every = f"{step // 60} min" if step % 60 == 0 else f"{step} s"
    detail = f"   {start} to {stop} local time ({assessment.zone}) · every {every}"
    verdict = assessment.verdict.kind
    lead = verdict.value.capitalize()
    said = [f.sentence for f in assessment.findings]
    said += [_cost_of(f, brief=True) for f in assessment.findings if f.kwh_a_year is not None]
    said += [
        f"Metering {check.soundness}: {check.name}."
        for check in assessment.checks
        if check.soundness in (Soundness.BROKEN, Soundness.DOUBTFUL)
    ]
    return Text.assemble(
        (assessment.name, "bold"),
        (detail + "\n", SOFT),
        (lead + ". ", _verdict_style(verdict)),
        _signed(" ".join(said)),
    )


def _verdict_style(kind: VerdictKind) -> str:
    if kind in (VerdictKind.BELOW_RATED, VerdictKind.TOO_GOOD, VerdictKind.WATCH):
        return EMBER
    return TEAL if kind == VerdictKind.AS_RATED else "bold"


def reckoning_block(assessment: Assessment) -> list[RenderableType]:
    """The sum of an assessment, and what belongs to it."""
    main = assessment.main
    if main is None:
        why = "; ".join(f"{s.level}: {s.reason}" for s in assessment.levels)
        return [_heading("Reckoning"), _sentence("No COP. ", why, EMBER)]
    name = "SPF" if assessment.spf is main else "COP"
    parts = sum_block(main, name, words_of(assessment, main.level))
    spf = assessment.spf
    if spf is not None and spf is not main and spf.cop is not None:
        text = f"{figure(spf.cop, 'none')} at {spf.level}, covers {spf.coverage:.1%}"
        parts.append(_sentence("SPF of the latest 12 months. ", text))
    for correction in assessment.corrections:
        parts.append(_sentence("Corrected. ", correction))
    return parts


def words_of(assessment: Assessment, level: Level) -> str:
    """What a level holds, as the assessment says it."""
    return next(one.words for one in assessment.levels if one.level == level)


def sum_block(main: Reckoning, name: str, level_words: str) -> list[RenderableType]:
    """The sum, written out as a person would."""
    parts: list[RenderableType] = [_heading(f"Reckoning · {main.level} {level_words}")]
    table = _grid("left", "right", "left")
    if main.heat is not None:
        for line in main.heat_lines:
            table.add_row(line.name.capitalize(), value_like(line.energy, main.heat), "")
        table.add_row("", "─" * 9, "")
        table.add_row(
            Text("Heat", "bold"),
            Text(value_like(main.heat, main.heat), "bold"),
            _plus_minus(main.heat) + Text(f"   {main.method}", SOFT),
        )
    for line in main.electricity_lines:
        table.add_row(
            line.name.capitalize(),
            value_like(line.energy, main.electricity),
            Text(line.loads, SOFT),
        )
    table.add_row("", "─" * 9, "")
    table.add_row(
        Text("Electricity", "bold"),
        Text(value_like(main.electricity, main.electricity), "bold"),
        _plus_minus(main.electricity),
    )
    table.add_row("", "═" * 9, "")
    if main.cop is not None:
        decimals = main.cop.decimals or 2
        table.add_row(
            Text(name, "bold"),
            Text(f"{main.cop.value:.{decimals}f}", "bold"),
            Text(f"± {main.cop.U:.{decimals}f}  (k = 2)"),
        )
    else:
        table.add_row(Text(name, "bold"), Text("none", EMBER), Text(str(main.reason or ""), EMBER))
    parts.append(_indented(table))
    covered = f"Covers {main.coverage:.1%} of the time."
    if main.left_out:
        covered += " Left out: " + "; ".join(
            f"{_duration(left.seconds)} {left.reason}" for left in main.left_out
        )
    parts.append(_indented(Text(covered, SOFT)))
    if main.gross_cop is not None:
        gross = f"Net of defrosts; with them left out {figure(main.gross_cop)} (gross)."
        parts.append(_indented(Text(gross, SOFT)))
    return parts


def _plus_minus(estimate: Estimate) -> Text:
    return Text(_signed(f"± {estimate.U:,.{estimate.decimals or 0}f} {estimate.unit}"))


def _duration(seconds: float) -> str:
    days, rest = divmod(round(seconds / 60), 24 * 60)
    hours, minutes = divmod(rest, 60)
    parts = ((days, "d"), (hours, "h"), (minutes, "min"))
    return " ".join(f"{n} {unit}" for n, unit in parts if n) or "0 min"


def _levels(assessment: Assessment) -> RenderableType:
    year = assessment.latest_year
    table = Table(box=None, padding=(0, 2, 0, 0), header_style=SOFT, show_edge=False)
    table.add_column("")
    table.add_column("SPF" if assessment.spf is assessment.main else "COP")
    if year is not None:
        table.add_column("SPF, latest 12 months")
    table.add_column("")
    for state in assessment.levels:
        reckoning = assessment.total.at(state.level)
        row = [figure(reckoning.cop, "none") if reckoning else "–"]
        if year is not None:
            yearly = year.at(state.level)
            row.append(figure(yearly.cop, "none") if yearly else "–")
        table.add_row(state.level, *row, Text(str(state.reason or state.words), SOFT))
    return _indented(table)


_SOUNDNESS_STYLE = {
    Soundness.SOUND: TEAL,
    Soundness.DOUBTFUL: EMBER,
    Soundness.BROKEN: EMBER,
    Soundness.NOT_CHECKABLE: SOFT,
}


def _checks(assessment: Assessment) -> RenderableType:
    table = _grid("left", "left", "left")
    for check in assessment.checks:
        text = " ".join(part for part in (check.sentence, check.remedy, effect(check)) if part)
        style = _SOUNDNESS_STYLE[check.soundness]
        table.add_row(check.name, Text(check.soundness, style), _signed(text))
    for name, why in assessment.missing_meters.items():
        table.add_row(name, Text("silent", EMBER), why.sentence)
    return _indented(table)


def effect(check: Check) -> str:
    """What accepting the check's proposals would do to the COP."""
    found = check.effect
    if found is None:
        return ""
    return f"COP {figure(found.cop_now, 'none')} → {figure(found.cop_then, 'none')} if accepted."


def _rating(assessment: Assessment) -> list[RenderableType]:
    verdict = assessment.verdict
    lead = verdict.kind.value.capitalize() + ". "
    parts = [_sentence(lead, verdict.sentence, _verdict_style(verdict.kind))]
    comparison = assessment.comparison
    if comparison is not None:
        measured = figure(comparison.measured.cop)
        text = (
            f"ratio {figure(comparison.ratio)}; measured {measured} at "
            f"{comparison.measured.level}, rated "
            f"{figure(comparison.rated_cop)} at the same conditions; {comparison.span}."
        )
        if comparison.outside_table > 0.0005:
            text += (
                f" {comparison.outside_table:.1%} of the heating lies outside the table, left out."
            )
        parts.append(_indented(Text(text, SOFT)))
        parts += [_indented(Text(said, SOFT)) for said in stands_at(comparison)]
    return parts


def _cost_of(finding: Finding, brief: bool = False) -> str:
    if finding.kwh_a_year is None:
        return finding.cost_basis + "."
    money = f", {figure(finding.money_a_year)}" if finding.money_a_year else ""
    basis = "" if brief else f" ({finding.cost_basis})"
    return f"{figure(finding.kwh_a_year)}{money} a year{basis}."


def _cause(cause: Cause) -> str:
    said = [f"for it: {words}" for words in cause.speaks_for]
    said += [f"against it: {words}" for words in cause.speaks_against]
    return f"{cause.name} ({'; '.join(said)})" if said else cause.name


def _finding(finding: Finding) -> list[RenderableType]:
    rows = (
        *(
            ("Evidence", f"{e.words}: {figure(e.measured)} against {e.threshold:g}")
            for e in finding.evidence
        ),
        ("Causes", "; ".join(map(_cause, finding.causes))),
        ("Next", finding.next_check),
        ("Who", finding.who),
        ("Cost", _cost_of(finding)),
        ("Caution", finding.caution),
        ("Cleared by", finding.clears),
    )
    table = _grid("left", "left")
    for name, text in rows:
        table.add_row(Text(name, EMBER if name == "Caution" else SOFT), text)
    return [_sentence("", finding.sentence), _indented(table)]


def _running(assessment: Assessment) -> RenderableType:
    summary = assessment.running
    hours = " · ".join(f"{state} {h:,.0f} h" for state, h in summary.hours.items())
    table = _grid("left", "left")
    table.add_row("States", _signed(hours))
    runs = "not known" if summary.runs is None else f"{summary.runs:,} runs"
    if summary.starts_a_day is not None:
        runs += f", {summary.starts_a_day:.1f} starts a day"
    if summary.run_minutes is not None:
        runs += f", half of them longer than {summary.run_minutes:.0f} min"
    table.add_row("Runs", _signed(runs))
    defrosts = "not known" if summary.defrosts is None else f"{summary.defrosts:,}"
    if summary.defrost_minutes is not None:
        defrosts += f", {summary.defrost_minutes:.0f} min long"
    if summary.defrost_interval_minutes is not None:
        defrosts += f", {summary.defrost_interval_minutes:.0f} min from one to the next"
    table.add_row("Defrosts", _signed(defrosts + (" (medians)" if summary.defrosts else "")))
    table.add_row("Known from", "; ".join(f"{k}: {v}" for k, v in summary.basis.items()))
    for note in summary.notes:
        table.add_row("Note", note)
    return _indented(table)


def _months(assessment: Assessment) -> RenderableType:
    levels = [s.level for s in assessment.levels if s.reason is None]
    table = Table(box=None, padding=(0, 2, 0, 0), header_style=SOFT, show_edge=False)
    table.add_column("month")
    table.add_column("heat kWh", justify="right")
    table.add_column("electricity kWh", justify="right")
    shown = [level for level in (Level.H2, levels[-1] if levels else None) if level in levels]
    columns = list(dict.fromkeys(level for level in shown if level is not None))
    for level in columns:
        table.add_column(f"COP {level}", justify="right")
    table.add_column("covered", justify="right")
    cost = assessment.total.cost
    if cost is not None:
        table.add_column(f"cost {cost.currency}", justify="right")
    for month in assessment.months:
        last = month.reckonings[-1] if month.reckonings else None
        row = [month.period.name]
        if last is None:
            row += ["–", "–"]
        else:
            whole = assessment.total.reckonings[-1]
            row.append(
                "–" if not last.heat or not whole.heat else value_like(last.heat, whole.heat)
            )
            row.append(value_like(last.electricity, whole.electricity))
        for level in columns:
            reckoning = month.at(level)
            row.append(figure(reckoning.cop if reckoning else None))
        row.append("–" if last is None else f"{last.coverage:.0%}")
        if cost is not None:
            row.append(f"{month.cost.total.value:,.2f}" if month.cost else "–")
        table.add_row(*row)
    return _indented(table)


def _cost(total: PeriodFigures) -> list[RenderableType]:
    cost = total.cost
    assert cost is not None
    table = _grid("left", "right", "right", "right")
    for band in cost.bands:
        kwh = value_like(band.electricity, band.electricity)
        money = _signed(f"{band.money.value:,.2f}")
        name = f"{band.band}, from {band.since}" if band.since else band.band
        table.add_row(name, f"{kwh} kWh", f"× {band.price:.5g}", money)
    table.add_row("standing charge", "", "", _signed(f"{cost.standing:,.2f}"))
    table.add_row("", "", "", "─" * 9)
    shown = Text(_signed(f"{cost.total.value:,.2f}"), "bold")
    table.add_row(Text(f"cost, {cost.currency}", "bold"), "", "", shown)
    paid = f"{cost.average_price:.3f} a kWh on average" if cost.average_price else "nothing used"
    note = f"± {cost.total.U:,.2f} from the meters; {paid}; {cost.covered:.1%} of the time metered."
    return [_indented(table), _indented(Text(note, SOFT))]


def budget(estimate: Estimate) -> RenderableType:
    """An uncertainty budget: each source, its U, and its share of the variance as a bar."""
    table = _grid("left", "right", "left")
    variance = sum(part.u**2 for part in estimate.budget) or 1.0
    for part in sorted(estimate.budget, key=lambda p: -abs(p.u)):
        share = part.u**2 / variance
        if share < 0.0005:
            continue
        bar = Text("█" * round(share * 30), EMBER) + Text(f" {share:.0%}", SOFT)
        table.add_row(part.source, f"± {2 * abs(part.u):.3f}", bar)
    return _indented(table)


_NOTE_ORDER = (Treatment.LEFT_OUT, Treatment.DOUBTED, Treatment.CONVERTED, Treatment.READ)


def _intake(intake: IntakeReport) -> Iterable[RenderableType]:
    text = f"{intake.file}: {intake.rows:,} rows, {intake.dialect}; clock: {intake.clock}"
    yield _indented(Text(text))
    table = _grid("left", "left", "left")
    for column in intake.columns:
        table.add_row(column.header, f"→ {column.channel}", Text(column.reason, SOFT))
    yield _indented(table)
    if intake.ignored_columns:
        yield _sentence("Not used. ", ", ".join(intake.ignored_columns) + ".")
    for question in intake.questions:
        answers = "; ".join(f"{c.words} ({c.preview})" for c in question.choices)
        yield _sentence("Asked. ", f"{question.sentence} {answers}.", EMBER)
    for treatment in _NOTE_ORDER:
        for note in intake.notes:
            if note.treatment == treatment:
                style = EMBER if treatment == Treatment.LEFT_OUT else "bold"
                yield _sentence(f"{treatment.value.capitalize()}. ", note.text, style)


def one_line(analysis: RecordAnalysis) -> tuple[str, str, str]:
    """Name, SPF or why none, verdict: a row of the fleet."""
    stand = standing(analysis)
    spf = figure(stand.spf.cop, "none") if stand.spf else "none"
    return analysis.installation.name, spf, stand.verdict.value


def season_report(found: SeasonSummary) -> RenderableType:
    """A season, set for reading: apart, lost, what it went to."""
    parts: list[RenderableType] = [_heading("Heating and hot water apart")]
    table = _grid("left", "right", "right", "right")
    for mode in found.modes:
        sums = mode.reckoning
        table.add_row(
            mode.mode.words,
            f"{value_like(sums.heat, sums.heat)} kWh" if sums.heat else "–",
            f"{value_like(sums.electricity, sums.electricity)} kWh",
            figure(sums.cop),
        )
    for peer in found.peers:
        table.add_row(f"{peer.what}, {peer.words}", "", "", f"{peer.value:.2f}")
    parts += [_indented(table), _heading("Losses, not to be added")]
    table = _grid("left", "right", "right")
    for loss in found.losses:
        table.add_row(loss.name, figure(loss.electricity), figure(loss.paid))
    parts += [_indented(table), _heading("What the electricity went to")]
    table = _grid("left", "right", "right", "right")
    for use in found.uses:
        table.add_row(
            use.state.words, f"{use.hours:.0f} h", figure(use.electricity), figure(use.paid)
        )
    parts.append(_indented(table))
    for name, one, why in (
        ("Heat", found.heat, found.heat_reason),
        ("Electricity", found.electricity, found.electricity_reason),
    ):
        if one is None:
            parts.append(_sentence(f"{name} over the weather. ", f"{why}."))
            continue
        knee = f" below {figure(one.knee)}" if one.knee else ""
        said = (
            f"{figure(one.base)} and {figure(one.slope)}{knee}; "
            f"{one.days} days, CV(RMSE) {one.cv:.0%}."
        )
        parts.append(_sentence(f"{name} over the weather. ", said))
    return Group(*parts)


def what_if_report(found: WhatIf) -> RenderableType:
    """What other settings, a tariff or a unit would have saved, set for reading."""
    parts: list[RenderableType] = [_heading("What if")]
    table = _grid("left", "right", "right")
    for one in (*found.effects, *([found.together] if found.together else [])):
        table.add_row(one.name, figure(one.electricity), figure(one.money))
    parts.append(_indented(table))
    for one in found.effects:
        said = f"not told: {one.reason}" if one.reason else "; ".join(one.assumptions + one.comfort)
        parts.append(_sentence(f"{one.name}. ", f"{said}."))
    return Group(*parts)


def change_report(found: ChangeSummary) -> RenderableType:
    """What a change was worth, set for reading."""
    parts: list[RenderableType] = [_heading(f"Change of {found.at}, a year in the same weather")]
    table = _grid("left", "right", "right", "right", "left")
    table.add_row("", "before", "after", "saved", "", style=SOFT)
    for name, one in (("electricity", found.electricity), ("heat", found.heat)):
        if one is not None:
            cells = (figure(one.before), figure(one.after), figure(one.saved))
            table.add_row(name, *cells, one.worth.value)
    if (alone := found.same_rooms) is not None:
        table.add_row("as warm as before", "", "", figure(alone.electricity), alone.worth.value)
    if found.money is not None:
        table.add_row("money", "", "", figure(found.money), "")
    if found.cop_before is not None and found.cop_after is not None:
        table.add_row("COP", figure(found.cop_before), figure(found.cop_after), "", "")
    parts.append(_indented(table))
    for name, why in (("Electricity", found.electricity_reason), ("Heat", found.heat_reason)):
        if why is not None:
            parts.append(_sentence(f"{name} is not compared: ", f"{why}."))
    seen = f"{found.seen:.0%} of a year's days lie within the weather of both stretches."
    parts.append(_sentence("Compared. ", seen))
    if found.advice:
        parts.append(_sentence("To learn more. ", found.advice))
    if (back := found.payback) is not None:
        parts.append(_paid_back(found.cost, back))
    return Group(*parts)


def _paid_back(price: float, back: Payback) -> RenderableType:
    """Years until a price is paid back, in one line."""
    years = [None if y is None else f"{y:.1f}" for y in (back.years, back.soonest, back.latest)]
    said = "nothing is saved" if years[0] is None else f"in {years[0]} years"
    limits = f"95 %: {years[1] or 'never'} to {years[2] or 'never'}"
    return _sentence("Paid back. ", f"{price:,.0f}: {said} ({limits}).")


def fuel_report(found: FuelSeen) -> RenderableType:
    """Another fuel beside a system, set for reading."""
    name, money = fuel_named(found.kind).words, found.currency or ""
    parts: list[RenderableType] = [_heading(f"Heat by {name}")]
    table = _grid("left", "right")
    table.add_row("a kWh, MMBtu, therm of it", f"{found.per_kwh:.4f}, {found.per_mmbtu:.2f}, "
                  f"{found.per_therm:.2f} {money}")  # fmt: skip
    if found.needed_cop is not None:
        table.add_row("COP from which the heat pump is cheaper", f"{found.needed_cop:.2f}")
    if found.pumped is not None:
        table.add_row("a kWh by the heat pump", figure(found.pumped))
        table.add_row("saved in this period", figure(found.saved))
    if (at := found.break_even) is not None:
        where = f"above {figure(at.outdoor)} outdoors" if at.outdoor else at.crossing.value
        table.add_row("the heat pump is cheaper", where.removesuffix(" cheaper"))
    if (both := found.hybrid) is not None:
        said = f"{both.days} days, {figure(both.saved)}"
        table.add_row(f"the fuel below {both.below:.1f} °C would have saved", said)
    parts.append(_indented(table))
    for why in (found.reason, found.break_even_reason, found.payback_reason):
        if why is not None:
            parts.append(_sentence("Not told. ", f"{why}."))
    if (bought := found.payback) is not None:
        parts.append(_paid_back(bought.price, bought.payback))
    return Group(*parts)


def trial_report(found: TrialSeen) -> RenderableType:
    """What a trial has shown, set for reading."""
    first, last = found.schedule[0].day, found.schedule[-1].day
    parts: list[RenderableType] = [_heading(f"Trial of {first} to {last}")]
    parts.append(_sentence("A. ", found.a))
    parts.append(_sentence("B. ", found.b))
    said = found.sentence or (f"{found.reason}." if found.reason else "It has not begun.")
    parts.append(_sentence("Shown. ", said))
    return Group(*parts)


def compared_report(local: str, rows: Sequence[tuple[str, bool, InCommon]]) -> RenderableType:
    """Systems side by side in the days that all of them have, set for reading."""
    parts: list[RenderableType] = [_heading(f"In common: {local}")]
    table = _grid("left", *("right" for _ in rows))
    table.add_row("", *(name for name, _, _ in rows), style=SOFT)
    for words, of in (
        ("heat", "heat"),
        ("electricity", "electricity"),
        ("COP", "cop"),
        ("cost", "cost"),
        ("heat by floor", "heat_per_area"),
        ("electricity by floor", "electricity_per_area"),
        ("heat by floor, degree-day", "heat_by_weather"),
        ("electricity by floor, degree-day", "electricity_by_weather"),
    ):
        table.add_row(words, *(figure(getattr(one, of)) for _, _, one in rows))
    carriers = dict.fromkeys(used.carrier for _, _, one in rows for used in one.bought)
    for carrier in carriers:
        found = [{u.carrier: u.energy for u in one.bought}.get(carrier) for _, _, one in rows]
        table.add_row(f"bought: {carrier}", *(figure(energy) for energy in found))
    parts.append(_indented(table))
    for name, stale, one in rows:
        said = f"{one.covered:.0%} of the days measured"
        if stale:
            said = f"not worked out anew yet, of before; {said}"
        parts.append(_sentence(f"{name}. ", f"{said}, at {one.level.value if one.level else '–'}."))
    return Group(*parts)
