"""The commands that work on the store: logbook, demo, openapi."""

import io
import json
from pathlib import Path
from tempfile import mkdtemp

from django.core.management import call_command
from django.test import TestCase, override_settings

from ember.description.as_json import installation_to_json
from server.assessments.cache import find
from server.jobs.problem import CommandProblem
from server.readings.models import Block, Import
from server.systems.models import System
from stand_ins.files import table_text
from stand_ins.varrick import INSTALLATIONS, TABLE_ONLY
from tests.server.helpers import described, log


def said(*command: str, **options) -> str:
    out = io.StringIO()
    call_command(*command, stdout=out, **options)
    return out.getvalue()


class Logbook(TestCase):
    def setUp(self) -> None:
        folder = Path(mkdtemp())
        installation = described()
        self.file = folder / "installation.json"
        self.file.write_text(installation_to_json(installation))
        self.table = folder / "rated.csv"
        self.table.write_text(table_text(installation.rated))

    def test_from_a_description_to_a_sum(self) -> None:
        self.assertIn("No system yet", said("readings", "list"))
        said("readings", "describe", str(self.file), "--rated", str(self.table))
        self.assertIn("no import yet", said("readings", "list"))
        stored = said("readings", "import", "Nursery", str(log()))
        self.assertIn("17,280 rows", stored)
        self.assertFalse(find(System.objects.get()).stale)
        self.assertIn("Nothing added", said("readings", "import", "Nursery", str(log())))
        self.assertIn("stored", said("readings", "list"))
        self.assertIn("RECKONING", said("readings", "assess", "Nursery"))
        number = str(Import.objects.get().pk)
        self.assertIn("taken out", said("readings", "undo", number))
        self.assertFalse(Block.objects.exists())

    def test_what_is_not_there(self) -> None:
        for command in (
            ("import", "Nowhere", str(log())),
            ("assess", "Nowhere"),
            ("undo", "77"),
            ("describe", "/nowhere/installation.json"),
        ):
            with self.assertRaises(CommandProblem) as caught:
                said("readings", *command)
            self.assertEqual(caught.exception.returncode, 2)

    def test_no_readings_to_assess(self) -> None:
        said("readings", "describe", str(self.file))
        with self.assertRaisesMessage(CommandProblem, "no readings are stored"):
            said("readings", "assess", "Nursery")


class Demo(TestCase):
    def test_it_is_made_once_and_kept(self) -> None:
        with override_settings(VAR=Path(mkdtemp())):
            first = said("demo", prepare=True, days=8)
            self.assertIn("simulating Nursery", first)
            imports = list(Import.objects.values_list("pk", flat=True))
            self.assertEqual(len(imports), len(INSTALLATIONS) - len(TABLE_ONLY))
            again = said("demo", prepare=True, days=8)
            self.assertNotIn("simulating", again)
            self.assertEqual(list(Import.objects.values_list("pk", flat=True)), imports)
            for name in ("Nursery", "School house", "Ferry office", "Workshop"):
                self.assertIn(name, again)
            self.assertRegex(again, r"Workshop\s+none\s+no verdict")

    def test_what_is_stale_is_made_anew(self) -> None:
        with override_settings(VAR=Path(mkdtemp())):
            said("demo", prepare=True, days=12, only=["as-rated"])
            nursery = System.objects.get(name="Nursery")
            nursery.description = nursery.description.replace('"EUR"', '"NOK"')
            nursery.save()
            self.assertTrue(find(nursery).stale)
            said("demo", prepare=True, days=12, only=["as-rated"])
            self.assertFalse(find(System.objects.get(name="Nursery")).stale)


class Schema(TestCase):
    def test_every_result_field_is_required(self) -> None:
        """A default would make a field optional on the other side."""
        schemas = json.loads(said("openapi"))["components"]["schemas"]
        sent = {"Choice", "ColumnChoice", "SignIn"}
        for name, schema in schemas.items():
            if name in sent or "properties" not in schema or name.endswith("Params"):
                continue
            lacking = set(schema["properties"]) - set(schema.get("required", []))
            self.assertEqual(lacking - {"rated"}, set(), name)
