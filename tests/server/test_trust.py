"""Trust over the API: corrections accepted and taken back, readings behind a figure, proofs."""

import json
from dataclasses import replace

import numpy as np
from django.test import TestCase

from ember.assessment.assess import assess
from ember.description.installation import ReportedHeat
from ember.trust import Soundness
from server.assessments.cache import cache_results
from server.assessments.models import Proof
from server.jobs.models import Job
from server.jobs.running import perform
from server.readings.store import store, trace_of
from server.systems.models import System
from tests.server.helpers import log, send, signed_in, system

SPAN = {"start": "2025-10-01", "stop": "2025-10-12"}
OUT = {"kind": "exclude", "start": "2025-10-03T00:00", "end": "2025-10-05T00:00",
       "reason": "pump mode test"}  # fmt: skip


class WithRecord(TestCase):
    """A system of twelve days whose sensors are swapped, worked out."""

    key = "swapped"
    days = 12

    @classmethod
    def setUpTestData(cls) -> None:
        cls.system = system(cls.key, cls.days)
        store(cls.system, log(cls.key, cls.days))
        cache_results(cls.system)
        cls.system.refresh_from_db()

    def setUp(self) -> None:
        self.client = signed_in()

    def get(self, path: str, **query: str):
        return self.client.get(f"/api/v1/systems/{self.system.pk}{path}", query)

    def send(self, method: str, path: str, body: object):
        return send(self.client, method, f"/api/v1/systems/{self.system.pk}{path}", body)

    def post(self, path: str, body: object):
        return self.send("post", path, body)

    def work(self) -> None:
        """What the worker does."""
        for job in Job.objects.filter(state=Job.State.WAITING):
            perform(job.pk)


class Corrections(WithRecord):
    def test_what_a_check_proposes_is_accepted_listed_and_undone(self) -> None:
        shown = self.get("/trust", **SPAN).json()
        self.assertEqual(shown["kind"], "electricity only")
        self.assertIsNone(shown["cop"])
        check = next(c for c in shown["checks"] if c["name"] == "swapped sensors")
        self.assertEqual(check["soundness"], Soundness.BROKEN.value)
        self.assertGreater(check["effect"]["cop_then"]["value"], 2)
        self.assertTrue(check["picture"]["series"][0]["x"])
        asked = [p["correction"] for p in check["proposals"]]

        found = self.post("/corrections", {"corrections": asked}).json()["corrections"]
        self.assertIn("swapped", found[0]["words"])
        self.assertEqual(found[0]["user"], "tester")
        self.assertTrue(self.get("/trust", **SPAN).json()["stale"])
        self.work()
        after = self.get("/trust", **SPAN).json()
        self.assertFalse(after["stale"])
        self.assertAlmostEqual(after["cop"]["value"], check["effect"]["cop_then"]["value"], 9)
        self.assertIn("swapped", self.get("/span", **SPAN).json()["corrections"][0])

        self.post("/corrections/withdraw", {"corrections": asked})
        self.work()
        again = self.get("/trust", **SPAN).json()
        self.assertIsNone(again["cop"])
        self.assertEqual(again["corrections"], [])

    def test_a_stretch_left_out_by_hand_with_its_reason(self) -> None:
        self.post("/corrections", {"corrections": [OUT]})
        self.work()
        self.system.refresh_from_db()
        core = assess(self.system.installation, trace_of(self.system))
        spans = self.get("/span", **SPAN).json()
        self.assertIn("pump mode test", spans["corrections"][0])
        self.assertEqual(core.corrections, tuple(spans["corrections"]))

    def test_since_when_and_by_whom(self) -> None:
        first = self.post("/corrections", {"corrections": [OUT]}).json()["corrections"][0]
        rule = {"kind": "rule", "channel": "outdoor_temp", "below": -20, "reason": "too cold"}
        both = self.post("/corrections", {"corrections": [rule]}).json()["corrections"]
        self.assertEqual(both[0]["since"], first["since"])
        self.assertGreater(both[1]["since"], first["since"])

    def test_what_cannot_be_is_refused_and_nothing_is_stored(self) -> None:
        cases = (
            ({**OUT, "end": "2025-10-02T00:00"}, "does not lie after"),
            ({**OUT, "reason": ""}, "reason"),
            (
                {"kind": "offset", "channel": "flow_temp:9", "add": 1, "U": 0.1, "reason": "x"},
                "is not logged",
            ),
            ({"kind": "factor", "channel": "heating", "factor": 2, "reason": "x"}, "is not logged"),
            ({"kind": "rule", "reason": "x"}, "at which hours"),
            (
                {
                    "kind": "prefer",
                    "use": "unit meter",
                    "instead_of": "outdoor_temp",
                    "reason": "x",
                },
                "stands for no channel",
            ),
        )
        for wrong, words in cases:
            with self.subTest(words):
                answer = self.post("/corrections", {"corrections": [OUT, wrong]})
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.json()["detail"])
        self.system.refresh_from_db()
        self.assertEqual(self.system.installation.corrections, ())

    def test_the_same_twice_and_what_is_gone(self) -> None:
        self.post("/corrections", {"corrections": [OUT]})
        self.assertIn("already", self.post("/corrections", {"corrections": [OUT]}).json()["detail"])
        self.post("/corrections/withdraw", {"corrections": [OUT]})
        gone = self.post("/corrections/withdraw", {"corrections": [OUT]})
        self.assertIn("any more", gone.json()["detail"])


class Sound(WithRecord):
    key = "as-rated"

    def test_claims_ways_and_levels(self) -> None:
        shown = self.get("/trust", **SPAN).json()
        self.assertEqual(shown["kind"], "sound")
        self.assertEqual(len(shown["checks"]), 19)
        self.assertRegex(next(c for c in shown["claims"] if "COP" in c["what"])["words"], r"± \d+%")
        methods = {w["name"]: w for w in shown["methods"]}
        self.assertTrue(methods["heat meter"]["used"])
        self.assertTrue(methods["heat register"]["agrees"])
        self.assertLess(methods["heat register"]["ratio"]["U"], 0.05)  # they share their sensors
        self.assertEqual([m["level"] for m in shown["missing"]], ["H1"])

    def test_the_trust_state_stands_at_the_sum_and_in_the_fleet(self) -> None:
        span = self.get("/span", **SPAN).json()
        self.assertEqual(span["trust"]["kind"], "sound")
        row = self.client.get("/api/v1/systems").json()["rows"][0]["system"]
        self.assertEqual(row["metering_words"], span["trust"]["brief"])
        self.assertIn("counts yes", row["metering_line"])

    def test_the_readings_add_up_to_the_line(self) -> None:
        day = {"start": "2025-10-04", "stop": "2025-10-04"}
        total, page, pages = 0.0, 0, 1
        while page < pages:
            found = self.get("/behind", **day, meter="heat meter", page=str(page)).json()
            total += sum(e for e in found["energy"] if e is not None)
            page, pages = page + 1, found["pages"]
        span = self.get("/span", **day).json()
        heat = next(x["reckoning"]["heat"] for x in span["levels"] if x["level"] == "H4")
        self.assertAlmostEqual(total, heat["value"], 6)
        self.assertEqual(
            [c["channel"] for c in found["channels"]], ["flow_rate", "flow_temp", "return_temp"]
        )
        self.assertIn("c_p", found["formula"])

    def test_a_cell_by_hand(self) -> None:
        """L/min × K × c_p·ρ of water: 1 L/min at 1 K is 69.2 W at 35 °C (IAPWS)."""
        day = {"start": "2025-10-04", "stop": "2025-10-04"}
        found = self.get("/behind", **day, meter="heat meter").json()
        flow, supply, back = (np.array(c["logged"], float) for c in found["channels"])
        by_hand = flow * (supply - back) * 69.2 * found["step"] / 3.6e6
        shown = np.array(found["energy"], float)
        busy = np.abs(by_hand) > 0.005
        self.assertTrue(busy.any())
        np.testing.assert_allclose(shown[busy], by_hand[busy], rtol=0.01)

    def test_corrected_and_left_out_readings_are_told_apart(self) -> None:
        offset = {"kind": "offset", "channel": "flow_temp", "add": -0.5, "U": 0.1, "reason": "x"}
        self.post("/corrections", {"corrections": [OUT, offset]})
        self.work()
        day = {"start": "2025-10-04", "stop": "2025-10-04"}
        found = self.get("/behind", **day, meter="heat meter").json()
        supply = found["channels"][1]
        difference = np.array(supply["corrected"], float) - np.array(supply["logged"], float)
        np.testing.assert_allclose(difference, -0.5)
        self.assertIsNone(found["channels"][2]["corrected"])
        self.assertEqual(set(found["reason"]), {"pump mode test"})

    def test_a_meter_that_is_none(self) -> None:
        answer = self.get("/behind", **SPAN, meter="moon")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("'moon'", answer.json()["detail"])

    def test_the_budget_of_a_figure(self) -> None:
        span = self.get("/span", **SPAN).json()
        cop = span["levels"][3]["reckoning"]["cop"]
        answer = self.client.post(
            "/api/v1/budget", json.dumps(cop), content_type="application/json"
        )
        found = answer.json()
        self.assertAlmostEqual(sum(line["share"] for line in found["lines"]), 1.0)
        both = np.hypot(found["systematic"], found["random"])
        self.assertAlmostEqual(both, cop["U"], 9)
        self.assertLess(found["pays_U"], cop["U"])


class Pinned(WithRecord):
    key = "as-rated"

    def pin(self) -> str:
        asked = {
            "start": "2025-10-02T00:00",
            "stop": "2025-10-11T00:00",
            "level": "H4",
            "what": "COP",
        }
        return self.post("/proofs", asked).json()["key"]

    def cop(self, figures) -> float:
        return next(x["reckoning"]["cop"]["value"] for x in figures["levels"] if x["level"] == "H4")

    def test_it_gives_the_same_later_and_says_what_has_changed(self) -> None:
        key = self.pin()
        before = self.client.get(f"/api/v1/proofs/{key}").json()
        self.assertFalse(before["changed"])
        self.assertEqual(before["user"], "tester")
        self.post("/corrections", {"corrections": [OUT]})
        self.work()
        after = self.client.get(f"/api/v1/proofs/{key}").json()
        self.assertTrue(after["changed"])
        self.assertEqual(after["then"], before["then"])
        self.assertNotEqual(self.cop(after["now"]), self.cop(after["then"]))
        self.post("/corrections/withdraw", {"corrections": [OUT]})
        self.work()
        self.assertFalse(self.client.get(f"/api/v1/proofs/{key}").json()["changed"])

    def test_it_goes_with_its_system(self) -> None:
        key = self.pin()
        System.objects.all().delete()
        self.assertEqual(Proof.objects.count(), 0)
        answer = self.client.get(f"/api/v1/proofs/{key}")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("no such proof", answer.json()["detail"])

    def test_a_stranger_sees_none(self) -> None:
        key = self.pin()
        self.client.logout()
        self.assertEqual(self.client.get(f"/api/v1/proofs/{key}").status_code, 401)


class Reported(WithRecord):
    """The controller's heat is the meter's register under another name, which counts the same."""

    key = "as-rated"
    days = 45

    def test_month_by_month_against_the_meter(self) -> None:
        base = self.system.installation
        register = base.registers[0]
        reported = ReportedHeat("display", register.channel, includes=register.includes)
        self.system.put(replace(base, registers=(), reported=(reported,)), None)
        cache_results(self.system)
        found = self.get("/trust", start="2025-10-01", stop="2025-11-14").json()
        months = {one["month"]: one["method"] for one in found["reported"]}
        self.assertEqual(list(months), ["2025-10", "2025-11"])
        for way in months.values():
            self.assertAlmostEqual(way["ratio"]["value"], 1.0, delta=0.05)
            self.assertGreater(way["ratio"]["U"], 0.05)
            self.assertTrue(way["agrees"])
        whole = next(w for w in found["methods"] if w["name"] == "display")
        self.assertAlmostEqual(
            sum(way["heat"]["value"] for way in months.values()), whole["heat"]["value"], delta=1.0
        )
