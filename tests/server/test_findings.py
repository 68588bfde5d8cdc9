"""Findings kept, their lives, thresholds, the fleet's row and its news."""

import csv
import io
from datetime import date
from unittest.mock import patch

from ember.assessment.assess import assess
from ember.basis.codes import FindingCode, ReasonCode
from ember.diagnosis import Finding, Findings, NotJudged
from ember.messages import because
from server.assessments import finding_status
from server.assessments.cache import cache_results
from server.assessments.finding_status import findings_of, follow, put
from server.assessments.models import FindingStatus
from server.readings.store import StoreError, store
from tests.core.helpers import simulated
from tests.server.helpers import described, log, send, system
from tests.server.test_trust import WithRecord


class WithFinding(WithRecord):
    """A unit a fifth below its table, twelve days."""

    key = "below-rated"

    def status(self, state: str, reason: str = "", fixed_on: str | None = None):
        body = {"state": state, "reason": reason, "fixed_on": fixed_on}
        return self.send("put", "/findings/below_rated", body)

    def row(self):
        rows = self.client.get("/api/v1/systems").json()["rows"]
        return next(r for r in rows if r["id"] == self.system.pk)["system"]["foremost"]


class Made(WithFinding):
    def test_they_are_what_the_core_finds(self) -> None:
        core = assess(described("below-rated"), simulated("below-rated", days=12).trace())
        shown = self.get("/findings").json()
        self.assertEqual([f["code"] for f in shown["findings"]], [f.code for f in core.findings])
        first, mine = shown["findings"][0], core.findings[0]
        self.assertEqual(first["code"], "below_rated")
        self.assertAlmostEqual(first["lost"]["value"], mine.lost.value, 4)
        self.assertFalse(shown["stale"])
        self.assertEqual(
            {s["code"] for s in shown["not_judged"]}, {s.code for s in core.not_judged}
        )

    def test_a_change_of_the_description_makes_them_stale_and_says_so(self) -> None:
        changed = self.system.description.replace('"EUR"', '"CHF"')
        type(self.system).objects.filter(pk=self.system.pk).update(description=changed)
        self.assertTrue(self.get("/findings").json()["stale"])

    def test_without_readings_there_are_none(self) -> None:
        other = system("as-rated", name="empty")
        shown = self.client.get(f"/api/v1/systems/{other.pk}/findings").json()
        self.assertFalse(shown["made"])

    def test_same_conditions(self) -> None:
        found = self.get("/same", start="2025-10-01", stop="2025-10-12").json()
        all_loads = sum(c["hours"] for c in found["cells"] if c["load"] == 0)
        by_load = sum(c["hours"] for c in found["cells"] if c["load"] > 0)
        self.assertAlmostEqual(all_loads, by_load, 6)
        self.assertEqual(found["months"][0]["name"], "2025-10")
        rating = self.get("/rating", start="2025-10-01", stop="2025-10-12").json()
        self.assertAlmostEqual(
            found["months"][0]["ratio"]["value"], rating["comparison"]["ratio"]["value"], 9
        )
        self.assertIsNone(found["drift"]["change"])  # twelve days are too few


class Lives(WithFinding):
    def test_what_is_wrong_and_what_is_not_there_are_told_apart(self) -> None:
        """RFC 9110: 422 for content that cannot be, 404 for what is not there, 409 for what stands
        against it."""
        self.assertEqual(self.status("dismissed").status_code, 422)
        self.assertEqual(self.status("forgotten", "x").status_code, 422)
        other = self.send("put", "/findings/oversized", {"state": "accepted", "reason": "",
                                                         "fixed_on": None})  # fmt: skip
        self.assertEqual(other.status_code, 404)
        loggers = f"/api/v1/systems/{self.system.pk}/loggers"
        self.assertEqual(send(self.client, "post", loggers, {"name": "roof"}).status_code, 200)
        self.assertEqual(send(self.client, "post", loggers, {"name": "roof"}).status_code, 409)

    def test_dismissed_it_leaves_the_fleet_and_stays_in_the_history(self) -> None:
        self.assertIn("below_rated", [one["code"] for one in self.row()["actions"]])
        shown = self.status("dismissed", "the table is of another pairing").json()
        (status,) = [x for x in shown["statuses"] if x["code"] == "below_rated"]
        self.assertEqual(status["state"], "dismissed")
        self.assertEqual(status["events"][0]["by"], "tester")
        self.assertIn("another pairing", status["events"][0]["words"])
        self.assertEqual(status["events"][-1]["words"], "first seen")
        self.assertNotIn("below_rated", [one["code"] for one in self.row()["actions"]])
        cache_results(self.system)  # worked out anew it stays dismissed
        self.assertNotIn("below_rated", [one["code"] for one in self.row()["actions"]])
        self.status("new")
        self.assertIn("below_rated", [one["code"] for one in self.row()["actions"]])

    def test_a_reason_and_a_date_are_asked_for(self) -> None:
        self.assertIn("say why", self.status("dismissed").json()["detail"])
        self.assertIn("on which day", self.status("fixed").json()["detail"])
        self.assertEqual(FindingStatus.objects.get(code="below_rated").state, "new")
        with self.assertRaisesMessage(StoreError, "nothing called 'x'"):
            put(self.system, "x", "accepted", "", None, None)

    def test_stronger_evidence_brings_it_back(self) -> None:
        self.status("dismissed", "known")
        status = FindingStatus.objects.get(code="below_rated")
        FindingStatus.objects.filter(pk=status.pk).update(measured=status.measured + 2 * status.U)
        cache_results(self.system)
        status.refresh_from_db()
        self.assertEqual(status.state, "new")
        self.assertIn("evidence is stronger", status.events.first().words)
        self.assertIn("below_rated", [one["code"] for one in self.row()["actions"]])

    def test_fixed_it_comes_back_only_if_it_shows_since(self) -> None:
        self.status("fixed", "coil cleaned", "2025-10-05")
        cache_results(self.system)  # too few days since
        self.assertEqual(FindingStatus.objects.get(code="below_rated").state, "fixed")
        with patch.object(finding_status, "FINDING_STATUS_LEAST_DAYS", 3):
            cache_results(self.system)
        status = FindingStatus.objects.get(code="below_rated")
        self.assertEqual(status.state, "new")
        self.assertIn("shows again since 2025-10-05", status.events.first().words)

    def test_what_is_not_found_any_more_is_gone_and_can_come_back(self) -> None:
        found = findings_of(self.system)
        self.assertIsInstance(found[0], Finding)
        doubted = NotJudged(
            FindingCode.BELOW_RATED, because(ReasonCode.METERING_DOUBTFUL, checks="clocks")
        )
        follow(self.system, Findings((), (doubted,)), None, None)
        self.assertEqual(
            FindingStatus.objects.get(code="below_rated").state, "new"
        )  # not judged, not gone
        follow(self.system, Findings((), ()), None, None)
        self.assertEqual(FindingStatus.objects.get(code="below_rated").state, "gone")
        follow(self.system, Findings(found, ()), None, None)
        status = FindingStatus.objects.get(code="below_rated")
        self.assertEqual(status.state, "new")
        self.assertIn("came back", status.events.first().words)

    def test_put_needs_a_known_state(self) -> None:
        with self.assertRaises(StoreError):
            put(self.system, "below_rated", "forgotten", "", None, None)
        put(self.system, "below_rated", "fixed", "", date(2025, 10, 9), None)
        self.assertEqual(FindingStatus.objects.get(code="below_rated").fixed_on, date(2025, 10, 9))


class AsCsv(WithFinding):
    def test_one_row_a_finding(self) -> None:
        self.status("accepted")
        text = self.client.get("/api/v1/findings.csv").content.decode()
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(len(rows), len(findings_of(self.system)))
        (row,) = [r for r in rows if r["finding"] == "below rated"]
        mine = next(f for f in findings_of(self.system) if f.code == "below_rated")
        self.assertEqual((row["stands"], row["weight"]), ("accepted", "action"))
        self.assertAlmostEqual(float(row["measured"]), mine.evidence[0].measured.value, 4)
        self.assertEqual(row["kWh a year"], "")  # twelve days are no year


class Limits(WithFinding):
    def test_a_changed_threshold_clears_the_finding(self) -> None:
        shown = self.send("patch", "/thresholds", {"values": {"below_rated": 0.5}}).json()
        (limit,) = [x for x in shown["limits"] if x["name"] == "below_rated"]
        self.assertEqual((limit["value"], limit["default"]), (0.5, 0.9))
        self.assertTrue(self.get("/findings").json()["stale"])
        self.work()
        shown = self.get("/findings").json()
        self.assertFalse(shown["stale"])
        self.assertNotIn("below_rated", [f["code"] for f in shown["findings"]])
        (status,) = [x for x in shown["statuses"] if x["code"] == "below_rated"]
        self.assertEqual(status["state"], "gone")

    def test_a_wrong_threshold_is_refused_by_name(self) -> None:
        answer = self.send("patch", "/thresholds", {"values": {"below_rated": -1, "no such": 3}})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("below_rated", answer.json()["detail"])
        self.assertIn("no such", answer.json()["detail"])


class News(WithFinding):
    def test_new_until_seen(self) -> None:
        news = self.client.get("/api/v1/news").json()
        self.assertIsNone(news["since"])
        self.assertIn("below_rated", [line["code"] for line in news["lines"]])
        seen = self.client.put("/api/v1/news/seen").json()
        self.assertEqual(seen["lines"], [])
        cache_results(self.system)
        self.assertEqual(self.client.get("/api/v1/news").json()["lines"], [])


class Siblings(WithFinding):
    def test_systems_with_the_same_table(self) -> None:
        other = system("below-rated", name="twin")
        store(other, log("below-rated"))
        cache_results(other)
        shown = self.get("/findings").json()
        self.assertEqual([s["name"] for s in shown["siblings"]], ["twin"])
        causes = [c["name"] for c in shown["findings"][0]["causes"]]
        self.assertTrue(any("rated table" in name for name in causes))
