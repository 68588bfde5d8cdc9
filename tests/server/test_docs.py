"""The documents keep up with the code."""

import json
import re
import subprocess
import sys
from dataclasses import fields, is_dataclass
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

from ember.assessment.results import Assessment, LevelState
from ember.balance.sums import PeriodFigures
from ember.basis.channels import QUANTITIES
from ember.comparison.performance_ratio import Comparison, Verdict
from ember.cost import BandCost, Cost
from ember.description.as_json import json_schema
from ember.description.installation import Thresholds
from ember.diagnosis import Cause, Evidence, Finding, NotJudged
from ember.events import RunningSummary
from ember.intake import ColumnReport, IntakeReport, Note
from ember.metering.electricity import ELECTRICITY_LIMITS
from ember.reckoning import Left, Line, Reckoning
from ember.trust import Check
from stand_ins.scenario import Simulated
from tests.core.helpers import simulated

DOCS = Path(settings.BASE_DIR) / "docs"


class Formats(SimpleTestCase):
    text = (DOCS / "formats.md").read_text(encoding="utf-8")

    def named(self, name: str) -> bool:
        return re.search(rf"`{re.escape(name)}`", self.text) is not None

    def test_every_field_of_the_description(self) -> None:
        schema = json_schema()
        for kind in ({"properties": schema["properties"]}, *schema["$defs"].values()):
            for name in kind.get("properties", {}):
                self.assertTrue(self.named(name), name)

    def test_every_field_of_the_results(self) -> None:
        for kind in (
            Assessment,
            LevelState,
            PeriodFigures,
            Reckoning,
            Line,
            Left,
            Cost,
            BandCost,
            Check,
            Comparison,
            Verdict,
            Finding,
            Evidence,
            Cause,
            NotJudged,
            RunningSummary,
            IntakeReport,
            ColumnReport,
            Note,
        ):
            assert is_dataclass(kind)
            for field in fields(kind):
                self.assertTrue(self.named(field.name), f"{kind.__name__}.{field.name}")

    def test_every_channel(self) -> None:
        for name in QUANTITIES:
            self.assertTrue(self.named(name), name)

    def test_the_truth(self) -> None:
        done: Simulated = simulated("as-rated", days=2)
        for name in json.loads(json.dumps(done.truth())):
            self.assertTrue(self.named(name), name)


class Methods(SimpleTestCase):
    text = (DOCS / "methods.md").read_text(encoding="utf-8")

    def test_thresholds_are_those_in_force(self) -> None:
        limits = Thresholds()
        for value in (
            limits.below_rated,
            limits.wide_limits,
            limits.too_good,
            limits.too_good_part_load,
        ):
            self.assertIn(f"{value:.2f}", self.text)

    def test_values_of_practice_are_those_in_the_code(self) -> None:
        script = [sys.executable, "scripts/practice.py", "--check"]
        made = subprocess.run(script, cwd=settings.BASE_DIR, capture_output=True, text=True)
        self.assertEqual(made.returncode, 0, made.stderr)

    def test_electricity_limits_are_those_in_force(self) -> None:
        shares = {
            key.value: f"{limit * 100:g}" for key, (limit, _, _) in ELECTRICITY_LIMITS.items()
        }
        self.assertIn(f"±{shares['A']} / {shares['B']} / {shares['C']} % as used", self.text)
        self.assertIn(f"±{shares['plug']} / {shares['clamp']} / {shares['unknown']} %", self.text)


class Readme(SimpleTestCase):
    def test_what_it_links_to_exists(self) -> None:
        for document in (Path(settings.BASE_DIR) / "README.md", *DOCS.glob("*.md")):
            text = document.read_text(encoding="utf-8")
            for target in re.findall(r"\]\(([^)#]+)\)", text):
                self.assertTrue((document.parent / target).exists(), f"{document.name}: {target}")
