"""Set up through the API: looked at, changed, refused, put back."""

import json

from django.test import TestCase

from ember.boundary import Level, combinations_if_logged
from ember.description.as_json import problems_of
from ember.description.installation import Consumer
from server.assessments.cache import cache_results, find
from server.jobs.models import Job
from server.readings.store import store
from server.systems.models import Description
from tests.core.helpers import UNIT, installation
from tests.server.helpers import log, send, signed_in, system


class Setup(TestCase):
    def setUp(self) -> None:
        self.system = system()
        self.client = signed_in()
        self.path = f"/api/v1/systems/{self.system.pk}/setup"
        self.description = self.client.get(self.path).json()["description"]

    def save(self, path: str, description: dict, based_on=None):
        body = {"description": description, "based_on": based_on}
        return self.client.put(path, json.dumps(body), "application/json")

    def test_a_meter_is_described_from_an_import(self) -> None:
        address = f"/api/v1/systems/{self.system.pk}"
        offered = {c["channel"]: c for c in self.client.get(f"{address}/channels").json()}
        self.assertIsNone(offered["room_temp"]["meter"], "a room needs no meter")
        self.assertEqual(offered["environmental_yield"]["meter"]["holds"], [])
        self.assertIn("distribution_pump", offered["energy"]["meter"]["holds"])
        body = {"channel": "energy", "name": "attic", "includes": []}
        refused = send(self.client, "post", f"{address}/meters", body)
        self.assertEqual((refused.status_code, refused.json()["where"]), (422, "includes"))
        kept = self.client.get(self.path).json()["description"]
        self.assertEqual(kept, self.description, "nothing is half described")
        body["includes"] = ["distribution_pump"]
        added = send(self.client, "post", f"{address}/meters", body).json()
        self.assertEqual(added, {"channel": "energy"})
        now = self.client.get(self.path).json()
        self.assertEqual(now["description"]["electricity"][-1]["name"], "attic")
        again = {c["channel"]: c for c in self.client.get(f"{address}/channels").json()}
        self.assertTrue(again["energy"]["needed"] and again["energy"]["meter"] is None)
        # And back, by the history of the description.
        before = now["history"][1]["id"]
        back = self.client.post(f"{self.path}/{before}/put-back")
        self.assertEqual(back.json()["description"], self.description)

    def test_what_may_be_chosen(self) -> None:
        found = self.client.get(self.path).json()
        levels = {one["value"]: one["level"] for one in found["consumers"]}
        self.assertEqual(levels["compressor"], "H1")
        self.assertEqual(levels["source"], "H2")
        self.assertEqual(levels["backup_heater"], "H3")
        self.assertEqual(levels["distribution_pump"], "H4")
        self.assertEqual(len(levels), len(Consumer))

    def test_a_draft_is_looked_at_and_not_stored(self) -> None:
        self.description["electricity"][0]["includes"] = []
        found = send(
            self.client,
            "post",
            f"{self.path}/check",
            {"description": self.description, "based_on": None},
        ).json()
        (problem,) = found["problems"]
        self.assertEqual(problem["where"], "electricity.0.includes")
        self.assertIn("at least 1 entry", problem["what"])
        self.assertEqual(found["levels"], [])
        again = self.client.get(self.path).json()["description"]
        self.assertNotEqual(again["electricity"][0]["includes"], [])

    def test_levels_follow_the_draft(self) -> None:
        pump = next(m for m in self.description["electricity"] if "pump" in m["name"])
        self.description["electricity"].remove(pump)
        found = send(
            self.client,
            "post",
            f"{self.path}/check",
            {"description": self.description, "based_on": None},
        ).json()
        why = {one["level"]: one["reason"] for one in found["levels"]}
        self.assertIsNone(why["H2"])
        self.assertIn("distribution pump not metered", why["H4"]["sentence"])

    def test_a_change_is_stored_kept_in_history_and_put_back(self) -> None:
        store(self.system, log())
        cache_results(self.system)
        was = self.description["outdoor"]["limit_k"]
        self.description["outdoor"]["limit_k"] = 0.7
        saved = self.save(self.path, self.description).json()
        self.assertEqual(saved["description"]["outdoor"]["limit_k"], 0.7)
        self.assertEqual(len(saved["history"]), 2)
        self.assertEqual(saved["history"][0]["user"], "tester")
        self.system.refresh_from_db()
        self.assertTrue(find(self.system).stale)
        self.assertEqual(Job.objects.filter(kind="figures").count(), 1)
        first = saved["history"][-1]["id"]
        back = self.client.post(f"{self.path}/{first}/put-back").json()
        self.assertEqual(back["description"]["outdoor"]["limit_k"], was)
        self.system.refresh_from_db()
        self.assertFalse(find(self.system).stale)
        self.assertEqual(Description.objects.filter(system=self.system).count(), 3)

    def test_what_cannot_be_is_refused_with_its_field(self) -> None:
        for change, where in (
            ({"zone": "Mars/Base"}, "zone"),
            ({"name": ""}, "name"),
            ({"colour": "red"}, "colour"),
        ):
            answer = self.save(self.path, {**self.description, **change})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(where, answer.json()["detail"])
        system(name="Other")
        taken = self.save(self.path, {**self.description, "name": "Other"})
        self.assertIn("another system", taken.json()["detail"])
        self.assertEqual(Description.objects.filter(system=self.system).count(), 1)

    def test_a_correction_accepted_meanwhile_is_not_lost(self) -> None:
        shown = self.client.get(self.path).json()
        out = {
            "kind": "exclude",
            "start": "2025-10-03T00:00",
            "end": "2025-10-05T00:00",
            "reason": "pump mode test",
        }
        self.client.post(
            f"/api/v1/systems/{self.system.pk}/corrections",
            json.dumps({"corrections": [out]}),
            "application/json",
        )
        changed = {**shown["description"], "property": "Harbour"}
        refused = self.save(self.path, changed, shown["history"][0]["id"])
        self.assertEqual(refused.status_code, 422)
        self.assertIn("described anew meanwhile", refused.json()["detail"])
        again = self.client.get(self.path).json()
        self.assertEqual(len(again["description"]["corrections"]), 1)
        changed = {**again["description"], "property": "Harbour"}
        self.assertEqual(self.save(self.path, changed, again["history"][0]["id"]).status_code, 200)

    def test_the_file_is_the_documented_json(self) -> None:
        answer = self.client.get(f"/api/v1/systems/{self.system.pk}/installation.json")
        self.assertEqual(problems_of(answer.content), [])
        self.assertIn("attachment", answer["Content-Disposition"])


class Promises(TestCase):
    def test_levels_of_a_description_alone(self) -> None:
        described = installation(consumers=(*UNIT, Consumer.DISTRIBUTION_PUMP))
        found = combinations_if_logged(described)
        self.assertIsNone(found[Level.H2].reason)
        self.assertIn("distribution pump", str(found[Level.H4].reason))

    def test_no_heat_no_level(self) -> None:
        found = combinations_if_logged(installation(circuits=()))
        self.assertTrue(all(combination.reason for combination in found.values()))
