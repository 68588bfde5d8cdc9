"""python manage.py demo: the demo systems of Varrick Sound, made once, and the application."""

from argparse import ArgumentParser
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any

import orjson
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from rich.table import Table
from rich.text import Text

from ember.basis.clock import wall_clock, zone_named
from ember.description.as_json import read_installation, table_to_json
from ember.description.installation import Installation, RatedTable, TableKind, UnitKind
from ember.rated import read_table
from ember.readings import TypedCells, read_rows
from server.accounts.demo import DEMO_NAME, demo_password, entrance
from server.assessments.cache import cache_results, find
from server.assessments.present import SOFT, console, one_line
from server.assessments.rows import unit_words
from server.assessments.times import instant
from server.jobs.problem import CommandProblem
from server.jobs.serving import free_port, serve
from server.readings.entries import Written, bill_content, reading_content, write
from server.readings.models import Entry, Import
from server.readings.store import store, trace_of
from server.systems.models import LibraryTable, System
from stand_ins import notebook
from stand_ins.files import write_all
from stand_ins.scenario import simulate
from stand_ins.varrick import BY_HAND, INSTALLATIONS, TABLE_ONLY

# A file for the visitor to bring in herself: the two weeks after the record, in another dialect.
NEXT_DAYS, NEXT_SEED, NEXT_DIALECT = 14, 21, "continental"
NEXT_FILE = "nursery-next.csv"
NOTEBOOK = "as-rated"  # whose owner keeps one
PROPERTIES = {
    "air": "Ferry yard", "swapped": "Ferry yard",
    "unit": "Quay flats", "stuck": "Quay flats", "spikes": "Quay flats",
}  # fmt: skip


class Command(BaseCommand):
    """Simulates and imports what is not there yet, then serves."""

    help = "Makes the demo systems of Varrick Sound and starts the application with them."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The arguments."""
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--prepare", action="store_true", help="make the demo data and stop")
        parser.add_argument("--only", nargs="*", choices=sorted(INSTALLATIONS), help="some of them")
        parser.add_argument("--days", type=int, help="length of the records; for tests")

    def handle(self, *args: Any, **options: Any) -> None:
        """Prepares, then serves until it is stopped."""
        if not options["prepare"] and not (settings.WEB / "index.html").exists():
            raise CommandProblem("The screens are not built; run `make demo`, or `make web` first.")
        call_command("migrate", verbosity=0)
        password = demo_password()
        show = console(self.stdout)
        for key in options["only"] or INSTALLATIONS:
            prepare(key, settings.VAR / "demo", options["days"], self.stdout.write)
        show.print(_list())
        if options["prepare"]:
            return
        port = free_port(options["port"])
        call_command("collectstatic", interactive=False, verbosity=0)
        address = f"http://127.0.0.1:{port}"
        show.print(Text(f"\nHonest Ember: open {entrance(address)}", "bold"), soft_wrap=True)
        show.print(
            Text(
                "That address signs a browser on this machine in, once. By hand: "
                f"{address}, {DEMO_NAME} / {password}\n"
                f"A log to bring in yourself: {settings.VAR / 'demo' / NEXT_FILE}\n"
                "Ctrl-C stops it; the data stays. `make demo-reset` makes it anew.",
                SOFT,
            ),
            soft_wrap=True,
        )
        serve(port, demo=True)


def prepare(key: str, base: Path, days: int | None, say: Any) -> System:
    """Makes, imports and works out one demo system, as far as that is not done yet."""
    scenario = INSTALLATIONS[key]
    if days is not None:
        scenario = replace(scenario, days=days)
    directory = base / key
    if not (directory / "truth.json").exists():
        say(f"simulating {scenario.name} …")
        directory.mkdir(parents=True, exist_ok=True)
        done = simulate(scenario)
        write_all(done, directory, "plain")
        if key in BY_HAND:
            (directory / "sheet.json").write_bytes(orjson.dumps(notebook.sheet(done)))
    if key == "as-rated" and not (base / NEXT_FILE).exists():
        folder = base / "next"
        folder.mkdir(exist_ok=True)
        following = replace(
            scenario,
            first_day=scenario.first_day + timedelta(days=scenario.days),
            days=NEXT_DAYS,
            seed=NEXT_SEED,
        )
        log = write_all(simulate(following), folder, NEXT_DIALECT)
        log.rename(base / NEXT_FILE)
    system = System.objects.filter(name=scenario.name).first()
    if system is None:
        installation = read_installation(directory / "installation.json")
        rated = fitting(read_table(directory / "rated.csv"), installation)
        if rated is not None:
            _shelve(rated)
        described = replace(installation, rated=rated, property=PROPERTIES.get(key))
        if key == NOTEBOOK:
            described = replace(described, by_hand=notebook.series(described))
        system = System.describe(described)
    if key in TABLE_ONLY:
        return system
    if not Import.objects.filter(system=system).exists():
        say(f"importing {scenario.name} …")
        store(system, directory / "log.csv")
    if key == NOTEBOOK and not system.entries.exists():
        _write_down(system)
    if key in BY_HAND and not system.entries.exists():
        _fill_in(system, directory / "sheet.json")
    if not hasattr(system, "cached") or find(system).stale:
        cache_results(system)
    return system


def fitting(table: RatedTable, installation: Installation) -> RatedTable | None:
    """The stand-in's table for the kind of unit: over the brine for ground source; none on air."""
    kind = installation.unit.kind
    if kind.value.startswith("air_to_air"):
        return None
    ground = kind == UnitKind.GROUND_SOURCE
    return replace(
        table, name=unit_words(installation), kind=TableKind.GROUND if ground else table.kind
    )


def _shelve(table: RatedTable) -> None:
    """Puts a table into the library, under the type of its unit, unless it is there."""
    LibraryTable.objects.get_or_create(
        name=table.name, defaults={"table": orjson.dumps(table_to_json(table)).decode()}
    )


def _fill_in(system: System, path: Path) -> None:
    """The sheet of a system that is read by hand."""
    cells = [TypedCells(row.pop("time"), row) for row in orjson.loads(path.read_bytes())]
    _put_readings(system, cells)


def _put_readings(system: System, cells: list[TypedCells]) -> None:
    installation = system.installation
    zone = zone_named(installation.zone)
    readings, problems = read_rows(cells, installation.by_hand, zone, float(trace_of(system).stop))
    assert not problems, problems
    rows = [
        Written(None, Entry.Kind.READING, int(r.time), None, reading_content(r))
        for r in readings
        if r is not None
    ]
    write(system, None, f"{len(rows)} readings from a notebook", rows)


def _write_down(system: System) -> None:
    """An owner's notebook for one of the systems."""
    trace = trace_of(system)
    zone = zone_named(system.installation.zone)
    _put_readings(
        system,
        [
            TypedCells(line.local, line.cells, note=line.note)
            for line in notebook.lines(trace, zone)
        ],
    )
    seen = [
        Written(
            None,
            Entry.Kind.OBSERVATION,
            int(instant(local, zone, "time")),
            None,
            {"kind": kind, "note": note, "photo": ""},
        )
        for local, kind, note in notebook.seen(trace, zone)
    ]
    write(system, None, f"{len(seen)} observations from a notebook", seen)
    first = wall_clock(trace.start, zone).date()
    bills = [
        Written(None, Entry.Kind.BILL, int(bill.start), int(bill.stop), bill_content(bill))
        for bill in notebook.bills(system.installation, zone, first)
    ]
    write(system, None, f"{len(bills)} bills", bills)


def _list() -> Table:
    table = Table(box=None, padding=(0, 3, 0, 0), header_style=SOFT)
    for name, justify in (("system", "left"), ("SPF", "left"), ("verdict", "left")):
        table.add_column(name, justify=justify)  # type: ignore[arg-type]
    table.add_column("lost", justify="right")
    for system in System.objects.order_by("name"):
        if hasattr(system, "cached"):
            first = orjson.loads(system.cached.row)["foremost"]
            money = first["money"]
            lost = f"{money['value']:,.0f} {money['unit']}" if money else "–"
            table.add_row(*one_line(find(system).analysis), lost)
    return table
