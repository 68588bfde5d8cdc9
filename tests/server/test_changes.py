"""What a change was worth, through the API; the core is tested in tests.core.test_before_after."""

from server.readings.models import Entry
from tests.server.test_api import WithRecord


class Changes(WithRecord):
    def note(self, kind: str, time: str, note: str = "") -> None:
        body = {"id": None, "kind": kind, "time": time, "note": note, "photo": ""}
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
