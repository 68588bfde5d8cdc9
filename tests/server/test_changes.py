"""What a change was worth, through the API; the core is tested in tests.core.test_before_after."""

import io
import json
import tempfile
from datetime import date
from pathlib import Path

from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import SimpleTestCase

from server.assessments.models import FindingStatus
from server.readings.models import Entry
from tests.server.helpers import NO_CHANGE
from tests.server.test_api import WithRecord


class Changes(WithRecord):
    def note(self, kind: str, time: str, note: str = "") -> None:
        body = {"id": None, "kind": kind, "time": time, "note": note} | NO_CHANGE
        done = self.client.post(
            f"/api/v1/systems/{self.system.pk}/observations", body, "application/json"
        )
        self.assertEqual(done.status_code, 200, done.content)

    def test_what_was_changed_is_what_was_noted(self) -> None:
        self.note("setting changed", "2025-10-05 10:00", "curve lowered by 2 K")
        self.note("noise", "2025-10-06 10:00")
        self.note("work done", "2025-10-08 09:00", "filter cleaned")
        rows = self.get("/changes").json()["rows"]
        self.assertEqual([one["words"] for one in rows], ["Work done", "Setting changed"])
        self.assertEqual(Entry.objects.count(), 3)
        found = self.get("/change", at="2025-10-05").json()
        # Twelve days of record: too few on either side, and the other work is named.
        self.assertIsNone(found["electricity"])
        self.assertTrue(found["electricity_reason"]["sentence"])
        self.assertEqual([one["note"] for one in found["beside"]], ["filter cleaned"])
        self.assertEqual(found["before"], "2025-10-01 00:00 to 2025-10-05 00:00")

    def test_days_that_are_none(self) -> None:
        for at, said in (("2020-01-01", "no whole day before"), ("soon", "no day or time")):
            found = self.get("/change", at=at)
            self.assertEqual(found.status_code, 422)
            self.assertIn(said, found.json()["detail"])

    def test_what_a_change_cost_and_who_did_it(self) -> None:
        path = f"/api/v1/systems/{self.system.pk}/observations"
        done = {"id": None, "kind": "work done", "time": "2025-10-05 10:00", "note": "pump changed"}
        body = {**done, "photo": "", "cost": 240.5, "done_by": "fitter"}
        kept = self.client.post(path, body, "application/json").json()
        self.assertEqual(kept["rows"][0]["cost"], 240.5)
        self.assertEqual([k["kind"] for k in kept["kinds"] if k["change"]],
                         ["setting changed", "work done"])  # fmt: skip
        (row,) = self.get("/changes").json()["rows"]
        self.assertEqual((row["cost"], row["done_by"]), (240.5, "fitter"))
        table = self.get("/changes.csv").content.decode().splitlines()
        self.assertEqual(table[0], "local time,what,note,cost [EUR],done by,noted by")
        self.assertRegex(table[1], r"^2025-10-05 10:00,Work done,pump changed,240\.50,fitter,\w+$")
        # What changes nothing has no cost.
        body |= {"kind": "noise", "time": "2025-10-06 10:00"}
        kept = self.client.post(path, body, "application/json").json()
        self.assertEqual((kept["rows"][0]["cost"], kept["rows"][0]["done_by"]), (None, ""))
        found = self.get("/change", at="2025-10-05").json()
        self.assertIsNone(found["avoided_electricity"])
        self.assertIn("whole days", found["avoided_electricity_reason"]["sentence"])
        # Four days before and seven after in October: some are alike.
        self.assertTrue(found["alike"])
        for pair in found["alike"]:
            self.assertLessEqual(abs(pair["outdoor"][0] - pair["outdoor"][1]), 0.5)
            self.assertLess(pair["days"][0], "2025-10-05")
            self.assertGreaterEqual(pair["days"][1], "2025-10-05")
            self.assertAlmostEqual(pair["cop"][0], pair["heat"][0] / pair["electricity"][0])

    def test_a_finding_marked_as_fixed_is_followed_up(self) -> None:
        FindingStatus.objects.create(
            system=self.system,
            code="heating_curve_too_steep",
            state=FindingStatus.State.FIXED,
            sentence="The flow lies 6 K above what the house needs.",
            measured=6.0,
            U=2.0,
            above=True,
            fixed_on=date(2025, 10, 6),
        )
        self.note("work done", "2025-10-08 09:00", "filter cleaned")
        rows = self.get("/changes").json()["rows"]
        self.assertEqual([one["words"] for one in rows], ["Work done", "Finding fixed"])
        self.assertEqual(rows[1]["local"], "2025-10-06")
        self.assertLess(rows[1]["id"], 0)
        found = self.get("/change", at="2025-10-06").json()
        self.assertEqual([one["note"] for one in found["beside"]], ["filter cleaned"])
        found = self.get("/change", at="2025-10-08").json()
        self.assertEqual([one["words"] for one in found["beside"]], ["Finding fixed"])


class ByCommand(SimpleTestCase):
    """assess --change: the same as on the screen, without a database."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        call_command("simulate", str(folder), "--scenario", "as-rated", "--days", "200",
                     "--first-day", "2025-10-01", stdout=io.StringIO())  # fmt: skip
        cls.words = [str(folder / "log.csv"), "--installation", str(folder / "installation.json")]

    def assess(self, *more: str) -> str:
        out = io.StringIO()
        call_command("assess", *self.words, *more, stdout=out)
        return out.getvalue()

    def test_two_changes_in_json(self) -> None:
        text = self.assess("--change", "2026-01-07:300", "--change", "2026-01-12", "--json", "-")
        first, second = json.loads(text)["changes"]
        self.assertEqual((first["at"], second["at"]), ("2026-01-07", "2026-01-12"))
        self.assertEqual((first["cost"], second["cost"]), (300.0, 0.0))
        self.assertEqual(first["before"]["stop"], first["after"]["start"])
        used = first["electricity"]
        self.assertAlmostEqual(
            used["saved"]["value"], used["before"]["value"] - used["after"]["value"]
        )
        # Nothing was changed at this unit.
        self.assertEqual(used["worth"], "cannot be told yet")
        self.assertLess(abs(used["saved"]["value"]), used["saved"]["U"])
        self.assertIsNotNone(first["payback"])
        self.assertIsNone(second["payback"])
        self.assertTrue(first["alike"])
        for pair in first["alike"]:
            self.assertLess(pair["start"][0], first["after"]["start"])
            self.assertGreaterEqual(pair["start"][1], first["after"]["start"])

    def test_days_left_out_after_it(self) -> None:
        text = self.assess("--change", "2026-01-07", "--change-skip", "3", "--change-days", "20",
                           "--json", "-")  # fmt: skip
        (found,) = json.loads(text)["changes"]
        days = [found[side][end][:10] for side in ("before", "after") for end in ("start", "stop")]
        self.assertEqual(days, ["2025-12-18", "2026-01-07", "2026-01-10", "2026-01-30"])

    def test_on_the_terminal(self) -> None:
        said = self.assess("--change", "2026-01-07:300")
        self.assertIn("CHANGE OF 2026-01-07", said)
        self.assertRegex(said, r"electricity +[\d,]+ ± \d+ kWh +[\d,]+ ± \d+ kWh +−?\d+ ± \d+ kWh")
        self.assertRegex(said, r"\d+% of a year's days lie within")
        self.assertIn("Paid back. ", said)

    def test_what_is_none_is_refused_in_words(self) -> None:
        for asked, said in (
            ("soon", "--change: 'soon' is no day"),
            ("2026-01-07:much", "'much' is no cost"),
            ("2026-01-07:-4", "'-4' is no cost"),
            ("2024-01-07", "there is no whole day before 2024-01-07; the record runs 2025-10-01"),
        ):
            with self.assertRaisesRegex(CommandError, said):
                self.assess("--change", asked)
