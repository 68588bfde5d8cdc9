"""Files that version 1 wrote are read today: an archive, a description; assessments in
tests/core/test_pins.py."""

import json
from importlib import import_module
from pathlib import Path

from django.apps import apps
from django.test import TransactionTestCase

from ember.description.as_json import read_installation
from ember.description.remedies import Loads
from server.archives import archive
from server.assessments.cache import cache_results
from server.assessments.models import FindingStatus, Proof
from server.systems.models import System
from tests.server.helpers import signed_in

FOLDER = Path(__file__).parent / "version_1"


class Descriptions(TransactionTestCase):
    def test_one_comes_in(self) -> None:
        found = read_installation(FOLDER / "description.json")
        self.assertEqual(found.version, 2)
        limits = found.thresholds
        self.assertEqual((limits.action_share, limits.charges_a_day), (0.03, 5.0))
        (said,) = found.corrections
        self.assertIsInstance(said, Loads)
        self.assertEqual(said.reason, "seen on site")


class Archives(TransactionTestCase):
    def setUp(self) -> None:
        (self.system,) = archive.restore(FOLDER / "archive.zip")
        self.client = signed_in()

    def test_description_readings_and_findings_come_in(self) -> None:
        self.assertEqual(json.loads(self.system.description)["version"], 2)
        self.assertEqual(self.system.installation, read_installation(FOLDER / "description.json"))
        cache_results(self.system)
        (status,) = FindingStatus.objects.all()
        self.assertEqual((status.code, status.state), ("curve_too_steep", "dismissed"))
        self.assertEqual(status.reason, "known since the start")
        found = self.client.get(f"/api/v1/systems/{self.system.pk}/findings").json()
        self.assertEqual([x["name"] for x in found["statuses"]], ["heating curve too steep"])

    def test_a_pinned_figure_is_shown_as_it_was(self) -> None:
        cache_results(self.system)
        pinned = Proof.objects.get()
        then = self.client.get(f"/api/v1/proofs/{pinned.key}").json()["then"]
        level = next(one for one in then["levels"] if one["level"] == "H3")
        self.assertIsNone(level["reason"])
        self.assertEqual(level["reckoning"]["method"][:9], "flow × ΔT")
        self.assertGreater(level["reckoning"]["cop"]["value"], 2.0)

    def test_what_was_stored_by_version_1_is_brought_over(self) -> None:
        """The migrations on rows as version 1 had them."""
        text = json.loads((FOLDER / "description.json").read_text())
        System.objects.filter(pk=self.system.pk).update(description=json.dumps(text))
        FindingStatus.objects.update(code="over-steep curve")
        FindingStatus.objects.create(
            system=self.system, code="of a rule that is no more", sentence="", measured=0.0,
            U=0.0, above=True,
        )  # fmt: skip
        Proof.objects.update(shown=json.dumps({"levels": [{"level": "H1", "why_not": "no meter"}]}))
        import_module("server.systems.migrations.0003_version_2").version_2(apps, None)
        import_module("server.assessments.migrations.0005_codes").codes(apps, None)
        self.system.refresh_from_db()
        self.assertEqual(json.loads(self.system.description)["thresholds"]["charges_a_day"], 5.0)
        self.assertEqual([x.code for x in FindingStatus.objects.all()], ["curve_too_steep"])
        (level,) = json.loads(Proof.objects.get().shown)["levels"]
        self.assertEqual(level["reason"], {"code": "left_out", "sentence": "no meter"})
