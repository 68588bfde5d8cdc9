"""python manage.py assess LOG --installation installation.json"""

from argparse import ArgumentParser
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from ember.assessment.assess import assessed
from ember.assessment.export import plain, to_json
from ember.basis.clock import zone_named
from ember.basis.errors import EmberError
from ember.description.as_json import read_installation
from ember.description.installation import table_kind
from ember.intake import read_logs
from ember.operation.within import Within
from ember.rated import table_with_doubts
from ember.views.season_summary import season_summary
from ember.what_if import WhatIf, asked_from_json, what_if
from server.assessments.present import console, report, season_report, what_if_report
from server.assessments.times import instant
from server.jobs.problem import CommandProblem


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
            answered = _what_if(within, options["what_if"])
        except EmberError as error:
            raise CommandProblem(error) from error
        out: Path | None = options["json"]
        if out is not None:
            further: dict[str, Any] = {"intakes": intakes} if len(intakes) > 1 else {}
            if answered is not None:
                further["what_if"] = answered
            text = to_json(
                assessment=assessment,
                season=season_summary(within),
                intake=intakes[0],
                installation=plain(installation),
                doubts=doubts,
                **further,
            )
            if str(out) == "-":
                self.stdout.write(text.decode(), ending="")
                return
            try:
                out.write_bytes(text)
            except OSError as error:
                raise CommandProblem(f"{out}: cannot be written ({error.strerror}).") from error
        console(self.stdout).print(report(assessment, intakes, doubts))
        if options["season"]:
            console(self.stdout).print(season_report(season_summary(within)))
        if answered is not None:
            console(self.stdout).print(what_if_report(answered))


def _what_if(within: Within, path: Path | None) -> WhatIf | None:
    """What is asked in a file, answered; None where nothing is."""
    if path is None:
        return None
    try:
        text = path.read_bytes()
    except OSError as error:
        raise CommandProblem(f"{path}: cannot be read ({error.strerror}).") from error
    return what_if(within, asked_from_json(text))
