"""python manage.py assess LOG --installation installation.json"""

from argparse import ArgumentParser
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from django.core.management.base import BaseCommand

from ember.assessment.assess import assessed
from ember.assessment.export import plain, to_json
from ember.basis.clock import zone_named
from ember.basis.errors import EmberError
from ember.description.as_json import read_as, read_installation
from ember.description.installation import table_kind
from ember.intake import read_logs
from ember.operation.within import Within
from ember.rated import table_with_doubts
from ember.season import season_seen
from ember.views.change_seen import (
    CHANGE_DAYS,
    ChangeSummary,
    change_seen,
    change_summary,
    stretches,
)
from ember.views.fuel_seen import FuelAsked, FuelSeen, fuel_seen
from ember.views.season_summary import season_summary
from ember.views.trial_seen import TrialAsked, TrialSeen, trial_days, trial_seen
from ember.what_if import asked_from_json, what_if
from server.assessments.present import (
    change_report,
    console,
    fuel_report,
    report,
    season_report,
    trial_report,
    what_if_report,
)
from server.assessments.times import instant, local_day
from server.jobs.problem import TERMINAL, CommandProblem, put_out


class Command(BaseCommand):
    """Assesses the log of a system, in one file or several; needs no database."""

    help = "Works out heat, COP, season, cost and the verdict from a log file."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The arguments."""
        parser.add_argument("log", type=Path, nargs="+", help="log; several of one system")
        parser.add_argument("--installation", type=Path, required=True, help="description, JSON")
        parser.add_argument("--rated", type=Path, help="rated table, CSV")
        parser.add_argument("--from", dest="since", help="first local day or time, 2026-01-22")
        parser.add_argument("--to", dest="until", help="last local day, or the time to stop at")
        parser.add_argument("--season", action="store_true", help="its season besides")
        parser.add_argument(
            "--change",
            action="append",
            default=[],
            metavar="DAY[:COST]",
            help="what a change of that local day was worth; may be repeated",
        )
        parser.add_argument("--change-days", type=int, default=CHANGE_DAYS, help="on either side")
        parser.add_argument("--change-skip", type=int, default=0, help="days left out after it")
        parser.add_argument(
            "--fuel",
            type=Path,
            action="append",
            default=[],
            help="another fuel beside it, JSON; may be repeated",
        )
        parser.add_argument(
            "--trial",
            type=Path,
            action="append",
            default=[],
            help="two settings alternated by days, JSON; may be repeated",
        )
        parser.add_argument("--what-if", type=Path, help="other settings, tariff or unit, JSON")
        parser.add_argument("--json", type=Path, help="write everything here; - for the terminal")

    def handle(self, *args: Any, **options: Any) -> None:
        """Reads, assesses, prints."""
        try:
            installation = read_installation(options["installation"])
            doubts: tuple[str, ...] = ()
            if options["rated"]:
                kind = table_kind(installation.unit.kind)
                table, doubts = table_with_doubts(options["rated"], kind)
                installation = replace(installation, rated=table)
            zone = zone_named(installation.zone)
            since, until = options["since"], options["until"]
            start = instant(since, zone, "--from") if since else None
            stop = instant(until, zone, "--to", 1) if until else None
            trace, intakes = read_logs(options["log"], installation)
            assessment, within = assessed(installation, trace, start, stop)
            asked = options["what_if"]
            answered = what_if(within, asked_from_json(_text(asked))) if asked else None
            fuels = _fuels(within, options["fuel"])
            trials = [_trial(within, path) for path in options["trial"]]
            days, skip = options["change_days"], options["change_skip"]
            changes = [_change(within, one, days, skip) for one in options["change"]]
        except EmberError as error:
            raise CommandProblem(error) from error
        out: Path | None = options["json"]
        if out is not None:
            further: dict[str, Any] = {"intakes": intakes} if len(intakes) > 1 else {}
            if answered is not None:
                further["what_if"] = answered
            for name, found in (("changes", changes), ("fuels", fuels), ("trials", trials)):
                if found:
                    further[name] = found
            text = to_json(
                assessment=assessment,
                season=season_summary(within),
                intake=intakes[0],
                installation=plain(installation),
                doubts=doubts,
                **further,
            )
            put_out(self.stdout, out, text)
            if out == TERMINAL:
                return
        console(self.stdout).print(report(assessment, intakes, doubts))
        if options["season"]:
            console(self.stdout).print(season_report(season_summary(within)))
        if answered is not None:
            console(self.stdout).print(what_if_report(answered))
        for change in changes:
            console(self.stdout).print(change_report(change))
        for fuel in fuels:
            console(self.stdout).print(fuel_report(fuel))
        for trial in trials:
            console(self.stdout).print(trial_report(trial))


def _change(within: Within, asked: str, days: int, skip: int) -> ChangeSummary:
    """What a change was worth, of a local day and what it cost. Raises EmberError."""
    text, _, paid = asked.partition(":")
    at = local_day(text, "--change")
    try:
        cost = float(paid or 0.0)
    except ValueError:
        cost = -1.0
    if not 0 <= cost < np.inf:
        raise EmberError(f"--change: '{paid}' is no cost; write 2026-01-22 or 2026-01-22:480.")
    about = stretches(within.analysis, at, days, skip)
    return change_summary(change_seen(within.analysis, within.found.hours, about, cost), at)


def _fuels(within: Within, paths: list[Path]) -> list[FuelSeen]:
    """Fuels that are asked in files, each beside the system. Raises EmberError."""
    if not paths:
        return []
    seen = season_seen(within.analysis, within.period)
    tariff = within.analysis.installation.tariff
    currency = tariff.currency if tariff else None
    return [fuel_seen(seen, currency, read_as(FuelAsked, _text(path), "fuel")) for path in paths]


def _trial(within: Within, path: Path) -> TrialSeen:
    """What a trial of a file has shown. Raises EmberError."""
    asked = read_as(TrialAsked, _text(path), "trial")
    period = trial_days(within.analysis, asked.plan)
    return trial_seen(within.analysis, within.found.hours, asked, period)


def _text(path: Path) -> bytes:
    """What stands in a file. Raises EmberError."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise EmberError(f"{path}: cannot be read ({error.strerror}).") from error
