"""A system begun from its log, over the API and on the command line."""

import io
import json
import tempfile
from pathlib import Path

from django.core.management import call_command
from django.test import TestCase

from server.jobs.problem import CommandProblem
from server.jobs.running import perform
from server.systems.models import System
from tests.core.helpers import foreign_log
from tests.server.helpers import signed_in


class FromALog(TestCase):
    path: Path

    @classmethod
    def setUpTestData(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.path = Path(folder.name) / "plant.csv"
        foreign_log(cls.path, 10)

    def proposed(self, *paths: Path):
        client = signed_in()
        files = [path.open("rb") for path in paths]
        job = client.post("/api/v1/proposal", {"file": files, "zone": "UTC"}).json()
        for one in files:
            one.close()
        perform(job["id"])
        return client, client.get(f"/api/v1/jobs/{job['id']}/proposal")

    def test_a_proposal_stores_nothing_and_is_accepted_with_answers(self) -> None:
        client, reply = self.proposed(self.path)
        self.assertEqual(reply.status_code, 200, reply.content)
        found = reply.json()
        self.assertEqual(System.objects.count(), 0)
        self.assertGreater(found["cop"]["value"], 2)
        self.assertIn("H4", found["level"])
        self.assertEqual(
            {c["channel"] for c in found["columns"]},
            {"power", "flow_temp", "return_temp", "flow_rate", "outdoor_temp", "heat_energy"},
        )
        begin = {"name": "Mill", "description": found["description"], "answers": {"pump": "55"}}
        made = client.post("/api/v1/proposal/accept", begin, "application/json").json()
        described = System.objects.get(pk=made["id"]).installation
        self.assertEqual((described.name, described.fixed[0].watts), ("Mill", 55.0))
        twice = client.post("/api/v1/proposal/accept", begin, "application/json")
        self.assertIn("a system called 'Mill' already", twice.json()["detail"])

    def test_two_files_of_one_system(self) -> None:
        lines = self.path.read_text("utf-8").splitlines(keepends=True)
        halves = []
        for k, part in enumerate((lines[1:8000], lines[8000:])):
            half = self.path.with_name(f"half{k}.csv")
            half.write_text("".join([lines[0], *part]), encoding="utf-8")
            halves.append(half)
        _, whole = self.proposed(self.path)
        _, both = self.proposed(*halves)
        self.assertEqual(both.status_code, 200, both.content)
        self.assertAlmostEqual(both.json()["cop"]["value"], whole.json()["cop"]["value"], 2)

    def test_bad_input_is_named(self) -> None:
        broken = self.path.with_name("broken.csv")
        broken.write_text("hello\nworld\n")
        _, reply = self.proposed(broken)
        self.assertEqual(reply.status_code, 422)
        self.assertIn("broken.csv", reply.json()["detail"])
        client = signed_in()
        nameless = {"name": " ", "description": "{}", "answers": {}}
        reply = client.post("/api/v1/proposal/accept", nameless, "application/json")
        self.assertIn("give the system a name", reply.json()["detail"])

    def test_on_the_command_line(self) -> None:
        out = io.StringIO()
        target = self.path.with_name("made.json")
        call_command(
            "describe", str(self.path), "--answer", "class=B", "--out", str(target), stdout=out
        )
        said = out.getvalue()
        self.assertRegex(said, r"plant: COP \d\.\d+ ± \d\.\d+ at H4, over 10 days")
        self.assertIn("Vorlauf (°C) → flow_temp", said)
        self.assertIn("What does this electricity meter hold? [holds]", said)
        made = json.loads(target.read_text("utf-8"))
        self.assertEqual(made["electricity"][0]["accuracy"], "B")
        with self.assertRaisesRegex(CommandProblem, "write the question's key"):
            call_command("describe", str(self.path), "--answer", "B")
        with self.assertRaisesRegex(CommandProblem, "nowhere.csv"):
            call_command("describe", str(self.path.with_name("nowhere.csv")))
