"""python manage.py describe LOG [LOG …]"""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from ember.basis.errors import EmberError
from ember.description.as_json import installation_to_json
from ember.proposal.proposed import Proposal, propose
from server.jobs.problem import CommandProblem


class Command(BaseCommand):
    """Proposes a description from a log, before anything is described; needs no database."""

    help = "Proposes the description of a system from its log, with a first COP and its U."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The arguments."""
        parser.add_argument("log", type=Path, nargs="+", help="log; several of one system")
        parser.add_argument("--name", help="of the system; without it the file's")
        parser.add_argument("--zone", default="UTC", help="local time, an IANA zone such as CET")
        parser.add_argument("--answer", action="append", default=[], metavar="QUESTION=ANSWER")
        parser.add_argument("--out", type=Path, help="write the description here")

    def handle(self, *args: Any, **options: Any) -> None:
        """Reads, proposes, prints."""
        try:
            answers = dict(one.split("=", 1) for one in options["answer"])
        except ValueError as error:
            raise CommandProblem(
                "--answer: write the question's key, =, and the answer's."
            ) from error
        name = options["name"] or options["log"][0].name.split(".")[0]
        try:
            found = propose(options["log"], name, options["zone"], answers)
        except EmberError as error:
            raise CommandProblem(error) from error
        self.stdout.write("\n".join(_said(found)))
        if options["out"]:
            try:
                options["out"].write_text(installation_to_json(found.installation), "utf-8")
            except OSError as error:
                raise CommandProblem(
                    f"{options['out']}: cannot be written ({error.strerror})."
                ) from error
            self.stdout.write(f"Written to {options['out']}.")


def _said(found: Proposal) -> list[str]:
    cop = (
        f"COP {found.cop} at {found.level}" if found.cop is not None else f"no COP: {found.reason}"
    )
    lines = [f"{found.installation.name}: {cop}, over {found.days:.0f} days", ""]
    lines += [f"  {text}" for text in found.found]
    for report in found.reports:
        lines += ["", f"{report.file}: {report.dialect}; clock: {report.clock}"]
        lines += [f"  {c.header} → {c.channel} ({c.reason})" for c in report.columns]
        if report.ignored_columns:
            lines.append(f"  not used: {', '.join(report.ignored_columns)}")
        for question in report.questions:
            lines.append(f"  asked: {question.sentence}")
            lines += [f"    {c.words}: {c.preview}" for c in question.choices]
    for asked in found.asked:
        lines += ["", f"{asked.sentence} [{asked.key}]  {asked.skipped}"]
        lines += [
            f"  {a.key}: {a.words}{f' – {a.preview}' if a.preview else ''}" for a in asked.answers
        ]
    return lines
