"""Readings, observations and bills by hand: stored, changed, undone, and what the API says."""

from dataclasses import replace
from typing import Any

from django.test import TestCase

from ember.description.as_json import installation_from_json, installation_to_json
from ember.description.logged import HandSeries
from server.readings.models import Change, Entry
from tests.server.helpers import NO_CHANGE, described, send, signed_in, system


def row(time: str, key: int | None = None, note: str = "", **cells: str) -> dict[str, Any]:
    return {"id": key, "time": time, "cells": cells, "turns": {}, "note": note}


class Sheet(TestCase):
    def setUp(self) -> None:
        self.client = signed_in()
        self.system = system(days=3)
        installation = described(days=3)
        meters = [meter.name for meter in installation.electricity]
        series = (
            HandSeries("heat", "heat", "kWh", meter=installation.registers[0].name),
            *(
                HandSeries(name.split()[0], "electricity", "kWh", meter=name, resolution=0.1)
                for name in meters
            ),
            HandSeries("outdoor", "other", "degC", channel="outdoor_temp"),
        )
        self.system.put(replace(installation, by_hand=series), None)
        self.address = f"/api/v1/systems/{self.system.pk}/sheet"

    def post(self, address: str, body: Any) -> Any:
        return self.client.post(address, body, "application/json")

    def rows(self, *rows: dict[str, Any], gone: tuple[int, ...] = (), to: str = "") -> Any:
        body = {"rows": list(rows), "gone": list(gone)}
        return send(self.client, "post" if to else "put", self.address + to, body)

    FIRST = row(
        "2026-01-01 08:00", heat="12000", unit="3000,5", pump="210", backup="5", outdoor="2"
    )
    LAST = row("2026-01-08 08:00", heat="12350", unit="3100,5", pump="212,3", backup="5")

    def test_a_sheet_begins_with_the_described_meters(self) -> None:
        fresh = system(days=3, name="Fresh")
        shown = self.post(f"/api/v1/systems/{fresh.pk}/sheet/begin", {}).json()
        described_ = described(days=3)
        names = [s["name"] for s in shown["series"]]
        self.assertEqual(names[0], described_.registers[0].name)
        self.assertEqual(set(names[1:-1]), {m.name for m in described_.electricity})
        fresh.refresh_from_db()
        again = installation_from_json(installation_to_json(fresh.installation))
        self.assertEqual(again, fresh.installation, "the description's JSON holds the sheet")

    def test_a_check_stores_nothing_and_storing_stores_all_or_nothing(self) -> None:
        checked = self.rows(self.FIRST, self.LAST, to="/check").json()
        self.assertEqual(Entry.objects.count(), 0)
        self.assertEqual(checked["level"], "H4")
        cop = checked["rows"][1]["sum"]["cop"]
        self.assertAlmostEqual(cop["value"], 350 / 102.3, places=4)
        bad = self.rows(self.FIRST, row("2026-01-09 08:00", heat="x"))
        self.assertEqual(bad.status_code, 422)
        self.assertIn("row 2, heat: 'x' is no number. Nothing was stored.", bad.json()["detail"])
        self.assertEqual(Entry.objects.count(), 0)
        stored = self.rows(self.FIRST, self.LAST).json()
        self.assertEqual(
            [r["local"] for r in stored["rows"]], ["2026-01-01 08:00", "2026-01-08 08:00"]
        )
        self.assertEqual(stored["rows"][1]["sum"]["cop"], cop)
        self.assertEqual(stored["rows"][0]["user"], "tester")
        twice = self.rows(self.FIRST)
        self.assertIn("same time", twice.json()["detail"])

    def test_any_two_rows_give_a_cop_at_every_level(self) -> None:
        middle = row("2026-01-05 08:00", heat="12200", unit="3060", pump="211", backup="5")
        stored = self.rows(self.FIRST, middle, self.LAST).json()["rows"]
        levels = self.client.get(
            f"{self.address}/between", {"first": stored[2]["id"], "last": stored[0]["id"]}
        ).json()["levels"]
        found = {level["level"]: level for level in levels}
        self.assertIn("leaves out", found["H1"]["reason"]["sentence"])
        self.assertAlmostEqual(found["H3"]["reckoning"]["cop"]["value"], 3.5)
        self.assertAlmostEqual(found["H4"]["reckoning"]["cop"]["value"], 350 / 102.3)
        self.assertGreater(found["H4"]["reckoning"]["cop"]["U"], 0.05)

    def test_doubts_come_with_what_was_perhaps_meant(self) -> None:
        rows = [row(f"2026-01-0{d} 08:00", heat=str(1000 + 50 * d), unit="1") for d in (1, 2, 3, 4)]
        checked = self.rows(*rows, row("2026-01-05 08:00", heat="125"), to="/check").json()
        doubt = checked["rows"][-1]["doubts"][0]
        self.assertEqual((doubt["column"], doubt["likely"]), ("heat", 1250.0))

    def test_each_change_is_in_the_history_and_can_be_undone(self) -> None:
        stored = self.rows(self.FIRST, self.LAST).json()["rows"]
        changed = self.rows({**self.LAST, "id": stored[1]["id"], "note": "read twice"}).json()
        self.assertEqual(changed["rows"][1]["note"], "read twice")
        self.assertEqual(changed["rows"][1]["id"], stored[1]["id"])
        self.rows(gone=(stored[0]["id"],))
        history = self.client.get(f"/api/v1/systems/{self.system.pk}/history").json()
        self.assertEqual(
            [one["words"] for one in history],
            ["1 reading out", "1 reading changed", "2 readings added"],
        )
        # The first change cannot be undone before the later ones; then it can.
        refused = self.post(f"/api/v1/changes/{history[2]['key']}/turn", {})
        self.assertIn("changed since", refused.json()["detail"])
        for one in history:
            self.assertEqual(self.post(f"/api/v1/changes/{one['key']}/turn", {}).status_code, 200)
        self.assertEqual(Entry.objects.count(), 0)
        for one in reversed(history):
            self.assertEqual(self.post(f"/api/v1/changes/{one['key']}/turn", {}).status_code, 200)
        left = self.client.get(self.address).json()["rows"]
        self.assertEqual([(r["id"], r["note"]) for r in left], [(stored[1]["id"], "read twice")])
        self.assertFalse(Change.objects.filter(undone=True).exists())

    def test_a_row_that_somebody_else_took_out_is_said(self) -> None:
        stored = self.rows(self.FIRST).json()["rows"]
        self.rows(gone=(stored[0]["id"],))
        late = self.rows({**self.FIRST, "id": stored[0]["id"]})
        self.assertEqual(late.status_code, 404)
        self.assertIn("no longer there", late.json()["detail"])

    def test_a_paste_of_a_whole_year_is_taken_and_a_longer_one_is_a_file(self) -> None:
        year = [
            row(f"2025-{m:02d}-{d:02d} 08:00", heat=str(100 * m + d), unit="1")
            for m in range(1, 13)
            for d in range(1, 29)
        ]
        self.assertEqual(len(self.rows(*year).json()["rows"]), 336)
        many = self.rows(*([self.FIRST] * 2001))
        self.assertIn("at most 2,000", many.json()["detail"])

    # --- observations and bills -----------------------------------------------------------

    def test_an_observation_by_one_tap_and_with_a_time(self) -> None:
        address = f"/api/v1/systems/{self.system.pk}/observations"
        tap = {"id": None, "time": "", "kind": "defrost begins", "note": ""} | NO_CHANGE
        shown = self.post(address, tap).json()
        self.assertEqual(shown["rows"][0]["kind"], "defrost begins")
        self.assertTrue(shown["rows"][0]["user"])
        later = {
            **tap,
            "time": "2026-01-22 07:30",
            "kind": "ice left",
            "note": "lower third",
            "photo": "0031",
        }
        shown = self.post(address, later).json()
        self.assertEqual([r["local"] for r in shown["rows"]][-1], "2026-01-22 07:30")
        self.assertIn("no kind", self.post(address, {**tap, "kind": "x"}).json()["detail"])
        self.assertIn(
            "no day or time", self.post(address, {**tap, "time": "soon"}).json()["detail"]
        )
        self.assertIn("future", self.post(address, {**tap, "time": "2100-01-01"}).json()["detail"])
        key = shown["rows"][0]["id"]
        change = self.client.delete(f"/api/v1/systems/{self.system.pk}/entries/{key}").json()
        self.assertEqual(len(self.client.get(address).json()["rows"]), 1)
        self.post(f"/api/v1/changes/{change['key']}/turn", {})
        self.assertEqual(len(self.client.get(address).json()["rows"]), 2)

    def bill(self, **change: Any) -> dict[str, Any]:
        return {
            "id": None,
            "first": "2026-01-01",
            "last": "2026-01-30",
            "carrier": "Electricity",
            "amount": 300.0,
            "unit": "kWh",
            "kwh_per_unit": 1.0,
            "cost": 90.0,
            "estimated": False,
            "meter": None,
            "before": False,
            "note": "",
            **change,
        }

    def test_bills_and_what_they_say_together(self) -> None:
        address = f"/api/v1/systems/{self.system.pk}/bills"
        self.post(address, self.bill())
        guess = self.bill(
            first="2026-01-31", last="2026-02-28", amount=500.0, estimated=True, cost=None
        )
        self.post(address, guess)
        shown = self.post(
            address,
            {
                **guess,
                "first": "2026-03-01",
                "last": "2026-03-31",
                "amount": 100.0,
                "estimated": False,
            },
        ).json()
        self.assertEqual(
            [
                tuple(s[k] for k in ("first", "last", "days", "kwh", "sure"))
                for s in shown["stretches"]
            ],
            [
                ("2026-01-01", "2026-01-30", 30, 300, True),
                ("2026-01-31", "2026-03-31", 60, 600, True),
            ],
        )
        self.assertEqual(shown["stretches"][0]["price"], 0.3)
        self.assertIsNone(shown["stretches"][1]["price"])
        over = self.post(address, self.bill(first="2026-01-20", last="2026-02-10")).json()
        self.assertTrue(any(r["overlap"] for r in over["rows"]))

    def test_bills_that_cannot_be(self) -> None:
        address = f"/api/v1/systems/{self.system.pk}/bills"
        for change, said, where in (
            ({"last": "2025-01-01"}, "before the first", "last"),
            ({"first": "14.1.2026"}, "no day", "first"),
            ({"first": "2006-01-01"}, "one bill", "last"),
            ({"carrier": " "}, "what was billed", "carrier"),
            ({"amount": -1.0}, "zero or more", "amount"),
            ({"kwh_per_unit": 0.0}, "more than 0 kWh", "kwh_per_unit"),
            ({"meter": "none such"}, "no electricity meter", "meter"),
        ):
            answer = self.post(address, self.bill(**change))
            self.assertEqual(answer.status_code, 422, change)
            self.assertIn(said, answer.json()["detail"])
            self.assertEqual(answer.json()["where"], where)
        self.assertEqual(Entry.objects.count(), 0)
