"""Trials through the API: planned, given to a calendar, told apart, taken out and put back."""

from datetime import date, timedelta

from icalendar import Calendar

from ember.season import TrialPlan, schedule
from server.readings.models import Change, Entry
from tests.server.helpers import send
from tests.server.test_api import WithRecord

PLAN = {"a": "curve at 45", "b": "curve at 42", "first": "2025-10-01", "days": 12, "block": 2}


class Trials(WithRecord):
    def plan(self, **changed: object) -> dict:
        path = f"/api/v1/systems/{self.system.pk}/trials"
        return send(self.client, "post", path, {**PLAN, "carry": 1, **changed}).json()

    def test_a_trial_is_planned_and_its_schedule_is_the_cores(self) -> None:
        (trial,) = self.plan()["rows"]
        entry = Entry.objects.get(kind="trial")
        core = schedule(TrialPlan(date(2025, 10, 1), 12, 2, 1, entry.content["seed"]))
        self.assertEqual(
            [(d["day"], d["setting"], d["begins"], d["counts"]) for d in trial["schedule"]],
            [(str(d.day), d.setting, d.begins, d.counts) for d in core],
        )
        self.assertEqual((trial["first"], trial["last"]), ("2025-10-01", "2025-10-12"))
        self.assertIsNone(trial["result"])  # seven counted days of each are needed
        self.assertEqual(trial["reason"]["code"], "too_few_days")

    def test_the_calendar_holds_every_change(self) -> None:
        (trial,) = self.plan()["rows"]
        answer = self.get(f"/trials/{trial['id']}.ics")
        self.assertEqual(answer.headers["Content-Type"], "text/calendar; charset=utf-8")
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        begins = [d for d in trial["schedule"] if d["begins"]]
        self.assertEqual([str(e.decoded("dtstart")) for e in events], [d["day"] for d in begins])
        for event, following in zip(events, [*events[1:], None], strict=True):
            end = event.decoded("dtend")
            if following is not None:
                self.assertEqual(end, following.decoded("dtstart"))
            (alarm,) = event.walk("VALARM")
            self.assertEqual(alarm.decoded("trigger"), timedelta(hours=-4))
        self.assertEqual(events[-1].decoded("dtend"), date(2025, 10, 13))
        self.assertIn("curve at 4", str(events[0]["summary"]))

    def test_what_is_none_is_refused_at_its_field(self) -> None:
        path = f"/api/v1/systems/{self.system.pk}/trials"
        for changed, where in (
            ({"first": "soon"}, "first"),
            ({"carry": 2}, "carry"),
            ({"days": 3}, "days"),
        ):
            answer = send(self.client, "post", path, {**PLAN, "carry": 1, **changed})
            self.assertEqual(answer.status_code, 422, changed)
            self.assertEqual(answer.json()["where"], where)
        self.assertFalse(Entry.objects.filter(kind="trial").exists())

    def test_how_long_it_must_be_needs_days(self) -> None:
        found = self.get("/trials/needed", share=0.1, block=3, carry=1).json()
        self.assertIsNone(found["days"])
        self.assertEqual(found["reason"]["code"], "too_few_days")
        self.assertEqual(self.get("/trials/needed", share=0.1, block=3, carry=3).status_code, 422)
        self.assertEqual(self.get("/trials/needed", share=0, block=3, carry=1).status_code, 422)

    def test_it_is_taken_out_and_put_back(self) -> None:
        (trial,) = self.plan()["rows"]
        path = f"/api/v1/systems/{self.system.pk}/entries/{trial['id']}"
        self.assertEqual(self.client.delete(path).status_code, 200)
        self.assertEqual(self.get("/trials").json()["rows"], [])
        change = Change.objects.first()
        send(self.client, "post", f"/api/v1/changes/{change.pk}/turn", {})
        (again,) = self.get("/trials").json()["rows"]
        self.assertEqual(again["schedule"], trial["schedule"])
