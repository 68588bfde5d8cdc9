"""python manage.py readings …: the store of readings, from describing a system to its archive."""

from argparse import ArgumentParser
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from rich.table import Table

from ember.assessment.assess import assess
from ember.assessment.export import plain, to_json
from ember.basis.clock import iso_local, zone_named
from ember.basis.errors import EmberError
from ember.description.as_json import read_installation
from ember.rated import read_table
from server.archives import archive
from server.assessments.cache import cache_results
from server.assessments.compared import side_by_side
from server.assessments.present import compared_report, console, report
from server.jobs.problem import CommandProblem, put_out
from server.readings.models import Import
from server.readings.record import record
from server.readings.store import store, undo
from server.systems.models import System


class Command(BaseCommand):
    """The store from the command line."""

    help = "Keeps readings: describe a system, import its logs, list and undo imports, assess."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        """One word for what to do, then what it needs."""
        what = parser.add_subparsers(dest="what", required=True)
        describe = what.add_parser("describe", help="store a description under its name")
        describe.add_argument("installation", type=Path)
        describe.add_argument("--rated", type=Path)
        read = what.add_parser("import", help="import a log of a described system")
        read.add_argument("name")
        read.add_argument("log", type=Path)
        read.add_argument(
            "--overlap",
            choices=Import.Rule.values,
            default=Import.Rule.FILL,
            help="where readings are stored: fill what is unknown, replace, or keep such times",
        )
        what.add_parser("list", help="systems and their imports")
        back = what.add_parser("undo", help="take an import out again, by its number")
        back.add_argument("number", type=int)
        out = what.add_parser("archive", help="write systems to one file that comes in again equal")
        out.add_argument("file", type=Path)
        out.add_argument("--name", help="of one system; else all")
        again = what.add_parser("restore", help="bring the systems of an archive in, all or none")
        again.add_argument("file", type=Path)
        summary = what.add_parser("assess", help="assess what is stored of a system")
        summary.add_argument("name")

        compare = what.add_parser("compare", help="systems side by side in their common days")
        compare.add_argument("names", nargs="+")
        compare.add_argument("--json", type=Path, help="write it here; - for the terminal")

    def handle(self, *args: Any, **options: Any) -> None:
        """Does it, or says why not."""
        settings.VAR.mkdir(parents=True, exist_ok=True)
        call_command("migrate", verbosity=0)
        try:
            getattr(self, f"do_{options['what']}")(options)
        except EmberError as error:
            raise CommandProblem(error) from error

    def do_describe(self, options: dict[str, Any]) -> None:
        """Stores a description."""
        installation = read_installation(options["installation"])
        if options["rated"]:
            installation = replace(installation, rated=read_table(options["rated"]))
        System.describe(installation)
        self.stdout.write(f"Described: {installation.name}.")

    def do_import(self, options: dict[str, Any]) -> None:
        """Imports a log."""
        system = _system(options["name"])
        found = store(system, options["log"], rule=options["overlap"])
        if found.already:
            self.stdout.write(
                f"Nothing added: the same file is import {found.batch.pk}, {found.batch.file}."
            )
            return
        assert found.report is not None
        for note in found.report.notes:
            self.stdout.write(f"{note.treatment.value.capitalize()}. {note.text}")
        self.stdout.write(
            f"Import {found.batch.pk}: {found.batch.rows:,} rows of {found.batch.file} stored."
        )
        cache_results(system)

    def do_list(self, options: dict[str, Any]) -> None:
        """Lists systems and imports."""
        table = Table(box=None, padding=(0, 2, 0, 0))
        for name in ("system", "import", "file", "from", "to", "rows", "state"):
            table.add_column(name, justify="right" if name in ("import", "rows") else "left")
        for system in System.objects.order_by("name"):
            zone = zone_named(system.installation.zone)
            batches = list(system.imports.all())
            for batch in batches:
                table.add_row(
                    system.name,
                    str(batch.pk),
                    batch.file,
                    iso_local(batch.start, zone),
                    iso_local(batch.stop, zone),
                    f"{batch.rows:,}",
                    batch.state,
                )
            if not batches:
                table.add_row(system.name, "–", "no import yet")
        if not table.row_count:
            self.stdout.write("No system yet. Begin with: readings describe installation.json")
            return
        console(self.stdout).print(table)

    def do_undo(self, options: dict[str, Any]) -> None:
        """Takes an import out again."""
        batch = Import.objects.filter(pk=options["number"]).first()
        if batch is None:
            raise CommandProblem(f"There is no import {options['number']}; see: readings list")
        undo(batch)
        cache_results(batch.system)
        self.stdout.write(f"Import {batch.pk}, {batch.file}, is taken out; its journal is kept.")

    def do_archive(self, options: dict[str, Any]) -> None:
        """Writes an archive."""
        name, path = options["name"], options["file"]
        systems = [_system(name)] if name else list(System.objects.order_by("name"))
        try:
            archive.write(systems, path)
        except OSError as error:
            raise CommandProblem(f"{path}: cannot be written ({error.strerror}).") from error
        self.stdout.write(f"Wrote {path}: {', '.join(system.name for system in systems)}.")

    def do_restore(self, options: dict[str, Any]) -> None:
        """Brings an archive in."""
        systems = archive.restore(options["file"])
        for system in systems:
            cache_results(system)
        self.stdout.write(f"Brought in: {', '.join(system.name for system in systems)}.")

    def do_assess(self, options: dict[str, Any]) -> None:
        """Assesses what is stored."""
        system = _system(options["name"])
        console(self.stdout).print(report(assess(*record(system)), ()))

    def do_compare(self, options: dict[str, Any]) -> None:
        """Systems side by side."""
        names = list(dict.fromkeys(options["names"]))
        found = side_by_side([_system(name) for name in names])
        if found.local is None:
            raise CommandProblem("Their records have no day in common.")
        rows = [(name, *row) for name, row in zip(names, found.rows, strict=True)]
        out: Path | None = options["json"]
        if out is None:
            console(self.stdout).print(compared_report(found.local, rows))
            return
        systems = [{"name": name, "stale": stale, **plain(seen)} for name, stale, seen in rows]
        put_out(self.stdout, out, to_json(in_common=found.local, systems=systems))


def _system(name: str) -> System:
    system = System.objects.filter(name=name).first()
    if system is None:
        raise CommandProblem(f"No system is called '{name}'; see: readings list")
    return system
