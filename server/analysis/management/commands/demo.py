"""python manage.py demo: the demo systems, made and assessed."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from rich.table import Table
from rich.text import Text

from ember.assess import assess
from ember.assessment import Assessment
from ember.description import read_installation
from ember.intake import read_log
from ember.rating import read_table
from server.analysis.present import EMBER, SOFT, brief, console, one_line
from stand_ins.catalogue import SCENARIOS
from stand_ins.files import write_all
from stand_ins.scenario import simulate


class Command(BaseCommand):
    """Writes the demo systems' logs once and assesses them from the files."""

    help = "Assesses the demo systems of Varrick Sound."
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        """Prints one summary for each system and a list of all."""
        base = Path(settings.BASE_DIR) / "var" / "demo"
        show = console(self.stdout)
        show.print(Text("Varrick Sound · four invented systems, 13 months of 1-minute data", SOFT))
        results: list[tuple[str, Assessment]] = []
        for key, scenario in SCENARIOS.items():
            directory = base / key
            truth = directory / "truth.json"
            if not truth.exists():
                show.print(Text(f"simulating {scenario.name} …", SOFT))
                directory.mkdir(parents=True, exist_ok=True)
                write_all(simulate(scenario), directory, "plain")
            installation = read_installation(directory / "installation.json")
            trace, _ = read_log(directory / "log.csv", installation)
            rated = read_table(directory / "rated.csv")
            installation = replace(installation, rated=rated)
            results.append((key, assess(installation, trace)))
        for _, assessment in results:
            show.rule(style=SOFT)
            show.print(brief(assessment))
        show.rule(style=SOFT)
        show.print(_fleet([a for _, a in results]))
        where = (base / "below-rated").relative_to(Path.cwd()) if _below(base) else base
        show.print(
            Text(
                "\nEverything about one of them:\n  .venv/bin/python manage.py assess "
                f"{where}/log.csv --installation {where}/installation.json "
                f"--rated {where}/rated.csv",
                SOFT,
            ),
            soft_wrap=True,
        )


def _below(path: Path) -> bool:
    return path.is_relative_to(Path.cwd())


def _fleet(assessments: list[Assessment]) -> Table:
    table = Table(box=None, padding=(0, 3, 0, 0), header_style=SOFT)
    for name, justify in (("system", "left"), ("SPF", "left"), ("verdict", "left")):
        table.add_column(name, justify=justify)  # type: ignore[arg-type]
    table.add_column("lost a year", justify="right")
    for assessment in assessments:
        name, cop, verdict, lost = one_line(assessment)
        table.add_row(name, cop, Text(verdict, EMBER if lost != "–" else ""), lost)
    return table
