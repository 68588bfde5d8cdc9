"""python manage.py simulate DIR: a made-up log with its description, table and truth."""

from argparse import ArgumentParser
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from server.jobs.problem import CommandProblem
from stand_ins.catalogue import SCENARIOS
from stand_ins.dialects import DIALECTS
from stand_ins.files import write_all
from stand_ins.scenario import simulate


class Command(BaseCommand):
    """Writes log, installation.json, rated.csv and truth.json."""

    help = "Simulates a house and its heat pump and writes log, description, table and truth."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The arguments."""
        parser.add_argument("directory", type=Path)
        parser.add_argument("--scenario", choices=sorted(SCENARIOS), default="as-rated")
        parser.add_argument("--dialect", choices=sorted(DIALECTS), default="plain")
        parser.add_argument("--seed", type=int)
        parser.add_argument("--first-day", type=date.fromisoformat, help="2025-10-01")
        parser.add_argument("--days", type=int)
        parser.add_argument("--step", type=int, help="seconds between rows, a multiple of 10")
        parser.add_argument("--gzip", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Runs the simulation and writes the files."""
        chosen = {"seed": "seed", "first_day": "first_day", "days": "days", "step": "step"}
        given = {field: options[o] for o, field in chosen.items() if options[o] is not None}
        if given.get("step", 60) < 10 or given.get("step", 60) % 10:
            raise CommandProblem(
                "--step: the simulation runs in steps of 10 s; give a multiple of 10."
            )
        if not 1 <= given.get("days", 1) <= 3660:
            raise CommandProblem("--days: between 1 day and ten years.")
        simulated = simulate(replace(SCENARIOS[options["scenario"]], **given))
        directory: Path = options["directory"]
        try:
            directory.mkdir(parents=True, exist_ok=True)
            log = write_all(simulated, directory, options["dialect"], options["gzip"])
        except OSError as error:
            raise CommandProblem(f"{directory}: cannot be written ({error.strerror}).") from error
        self.stdout.write(f"Wrote {log}, installation.json, rated.csv and truth.json beside it.")
        self.stdout.write(
            f"Next: python manage.py assess {log} --installation "
            f"{directory / 'installation.json'} --rated {directory / 'rated.csv'}"
        )
