"""Systems with little metering through the API: a sheet alone, a controller alone, electricity
alone. What they can say is said in every room, and no more."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import orjson
from django.test import TestCase

from ember.description.house import House
from ember.description.installation import Installation, ReportedHeat, Tariff
from ember.description.logged import HandSeries
from ember.readings import TypedCells, read_rows
from server.assessments.cache import cache_results, find
from server.jobs.models import Job
from server.readings.entries import Written, reading_content, write
from server.readings.models import Entry
from server.readings.record import has_record, record, span_of
from server.readings.store import store
from server.systems.models import System
from stand_ins.scenario import ZONE
from tests.core import test_seldom
from tests.server.helpers import log, signed_in, system

REPORTED = ReportedHeat("heat", "heat_energy", includes=("heat_pump", "backup_heater"))
SERIES = (
    HandSeries("electricity", "electricity", "kWh", meter="meter", resolution=0.1),
    HandSeries("heat", "heat", "kWh", meter="heat"),
    HandSeries("outdoor", "other", "degC", channel="outdoor_temp"),
)


def house(name: str, **changes: Any) -> Installation:
    made = test_seldom.Days().house(
        zone=ZONE,
        by_hand=SERIES,
        house=House(design_outdoor=-6, design_flow=45),
        tariff=Tariff(0.30),
        rated=test_seldom.FLAT,
    )
    return replace(made, name=name, **changes)


def filled(described: Installation, weeks: int = 12) -> System:
    """A system whose sheet has a reading a week: 100 kWh of electricity, 320 kWh of heat."""
    made = System.describe(described)
    first = datetime(2026, 1, 1, 8, tzinfo=ZoneInfo(described.zone))
    rows = [
        TypedCells(
            f"{first + timedelta(days=7 * k):%Y-%m-%d %H:%M}",
            {"electricity": f"{1000 + 100 * k}", "heat": f"{3000 + 320 * k}", "outdoor": "3"},
        )
        for k in range(weeks + 1)
    ]
    readings, problems = read_rows(rows, described.by_hand, ZoneInfo(described.zone), 2e9)
    assert not problems, problems
    entries = [
        Written(None, Entry.Kind.READING, int(r.time), None, reading_content(r))
        for r in readings
        if r is not None
    ]
    write(made, None, "readings", entries)
    cache_results(made)
    return made


class BySheet(TestCase):
    def setUp(self) -> None:
        self.client = signed_in()
        self.system = filled(house("Sheet"))
        self.address = f"/api/v1/systems/{self.system.pk}"

    def get(self, what: str, **query: str) -> Any:
        return self.client.get(f"{self.address}/{what}", query).json()

    def test_the_fleet_has_its_cop(self) -> None:
        (row,) = self.client.get("/api/v1/systems").json()["rows"]
        self.assertAlmostEqual(row["system"]["spf"]["value"], 3.2)
        self.assertFalse(row["stale"])

    def test_the_frame_says_what_it_is_made_of(self) -> None:
        shown = self.client.get(self.address).json()
        self.assertEqual(shown["by_hand"], 13)
        self.assertIn("7 days apart", shown["without_runs"])

    def test_a_month_is_summed_compared_and_paid(self) -> None:
        span = self.get("span", start="2026-02-01", stop="2026-02-28")
        level = next(one for one in span["levels"] if one["reckoning"])
        self.assertAlmostEqual(level["reckoning"]["cop"]["value"], 3.2)
        self.assertEqual((span["runs"], span["defrosts"]), (None, None))
        self.assertIsNotNone(span["comparison"])
        money = self.get("money", start="2026-02-01", stop="2026-02-28")
        self.assertAlmostEqual(money["total"]["cost"]["total"]["value"], 0.3 * 400, places=3)

    def test_a_day_within_a_week_has_no_cop_of_its_own(self) -> None:
        span = self.get("span", start="2026-02-03", stop="2026-02-03")
        level = next(one for one in span["levels"] if one["reckoning"])
        self.assertIsNone(level["reckoning"]["cop"])
        self.assertIn("7 days", level["reckoning"]["reason"]["sentence"])

    def test_the_chart_draws_the_means_between_readings(self) -> None:
        for stop in ("2026-02-05", "2026-03-20"):
            answer = self.client.get(
                f"{self.address}/window", {"start": "2026-02-01", "stop": stop, "points": 200}
            )
            self.assertEqual(answer.status_code, 200)
            head = orjson.loads(
                answer.content[4 : 4 + int.from_bytes(answer.content[:4], "little")]
            )
            named = {lane["channel"] for lane in head["lanes"]}
            self.assertLessEqual({"heat", "power", "outdoor_temp"}, named)

    def test_every_room_answers(self) -> None:
        span = {"start": "2026-01-02", "stop": "2026-03-20"}
        for what in (
            "rating",
            "same",
            "trust",
            "runs",
            "starts",
            "defrosts",
            "charges",
            "control",
            "events",
        ):
            answer = self.client.get(f"{self.address}/{what}", span)
            self.assertIn(answer.status_code, (200, 404), (what, answer.content[:200]))

    def test_a_new_reading_makes_the_figures_anew(self) -> None:
        before = find(self.system)
        self.assertFalse(before.stale)
        row = {
            "id": None,
            "time": "2026-04-02 08:00",
            "turns": {},
            "note": "",
            "cells": {"electricity": "2300", "heat": "7200"},
        }
        body = {"rows": [row], "gone": []}
        self.assertEqual(
            self.client.put(f"{self.address}/sheet", body, "application/json").status_code, 200
        )
        self.system.refresh_from_db()
        self.assertTrue(find(self.system).stale)
        self.assertTrue(Job.objects.filter(system=self.system, kind="figures").exists())
        cache_results(self.system)
        span = self.get("span", start="2026-03-26", stop="2026-04-01")
        level = next(one for one in span["levels"] if one["reckoning"])
        self.assertAlmostEqual(level["reckoning"]["cop"]["value"], 3.6, delta=0.03)

    def test_the_weather_may_be_fetched_for_its_time(self) -> None:
        first, last = span_of(self.system)
        self.assertEqual((last - first) / 86_400, 84)

    def test_nothing_written_is_no_record(self) -> None:
        empty = System.describe(house("Empty"))
        self.assertFalse(has_record(empty))
        self.assertIsNone(cache_results(empty))
        self.assertIsNone(span_of(empty))


class ByController(TestCase):
    def test_what_it_reports_is_shown_as_such_and_ranks_nowhere(self) -> None:
        described = house("Display", registers=(), reported=(REPORTED,), rated=test_seldom.FLAT)
        made = filled(described)
        client = signed_in()
        (row,) = client.get("/api/v1/systems").json()["rows"]
        self.assertIsNone(row["system"]["spf"])
        self.assertIn("As reported by the controller 3.2", row["system"]["sentence"])
        span = client.get(
            f"/api/v1/systems/{made.pk}/span", {"start": "2026-01-02", "stop": "2026-03-20"}
        ).json()
        self.assertIsNone(span["comparison"])
        cop = span["reported"]["cop"]
        self.assertAlmostEqual(cop["value"], 3.2)
        self.assertGreater(cop["U"], 0.3)  # ± 20 %, rectangular
        self.assertIn("not measured", span["no_sum"]["sentence"])
        self.assertAlmostEqual(span["power"]["a_day"]["value"], 100 / 7, places=2)

    def test_the_sheet_of_a_system_with_a_log_stays_beside_it(self) -> None:
        logged = system(days=3)
        store(logged, log(days=3))
        installation, trace = record(logged)
        self.assertEqual(installation, logged.installation)
        self.assertIn("flow_temp", trace)


class ByBills(TestCase):
    """Bills of the unit's own meter are readings of it; those of the whole house are not."""

    def setUp(self) -> None:
        self.client = signed_in()
        # A name of its own: kept surveys go by what they are made from, whose count starts anew.
        bare = house(self.id().rpartition(".")[2], by_hand=(), rated=None)
        self.system = System.describe(bare)
        self.address = f"/api/v1/systems/{self.system.pk}"

    def bill(self, first: str, last: str, amount: float, **more: Any) -> Any:
        body = {
            "id": None,
            "first": first,
            "last": last,
            "carrier": "electricity",
            "amount": amount,
            "unit": "kWh",
            "kwh_per_unit": 1,
            "cost": None,
            "estimated": False,
            "before": False,
            "note": "",
            "meter": "meter",
            **more,
        }
        return self.client.post(f"{self.address}/bills", body, "application/json")

    def test_two_bills_are_a_record(self) -> None:
        self.bill("2026-01-01", "2026-01-31", 620.0)
        answer = self.bill("2026-02-01", "2026-02-28", 420.0)
        self.assertEqual(answer.json()["rows"][0]["meter"], "meter")
        self.assertTrue(has_record(self.system))
        described, trace = record(self.system)
        counted = trace[described.electricity[0].channel]
        self.assertAlmostEqual(float(max(counted) - min(counted)) / 3.6e6, 1040.0)
        cache_results(self.system)
        months = self.client.get(
            f"{self.address}/money", {"start": "2026-01-01", "stop": "2026-02-28"}
        ).json()
        values = [m["electricity"]["value"] for m in months["months"]]
        self.assertAlmostEqual(values[0], 620.0, delta=1.0)
        self.assertAlmostEqual(values[1], 420.0, delta=1.0)
        self.assertAlmostEqual(months["total"]["cost"]["total"]["value"], 0.30 * 1040.0, delta=1.0)
        self.assertEqual(span_of(self.system)[1] - span_of(self.system)[0], 59 * 86_400)
        (row,) = self.client.get("/api/v1/systems").json()["rows"]
        self.assertFalse(row["stale"])

    def test_a_gap_is_not_filled(self) -> None:
        self.bill("2026-01-01", "2026-01-31", 620.0)
        self.bill("2026-03-01", "2026-03-31", 310.0)
        cache_results(self.system)
        months = self.client.get(
            f"{self.address}/money", {"start": "2026-01-01", "stop": "2026-03-31"}
        ).json()
        self.assertAlmostEqual(months["total"]["electricity"]["value"], 930.0, delta=1.0)

    def test_the_whole_house_is_not_the_unit(self) -> None:
        self.bill("2026-01-01", "2026-01-31", 620.0, meter=None)
        self.bill("2026-02-01", "2026-02-28", 620.0, before=True)
        self.assertFalse(has_record(self.system))
        refused = self.bill("2026-03-01", "2026-03-31", 1.0, meter="another")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("no electricity meter is called", refused.json()["detail"])

    def test_heat_by_hand_meets_electricity_by_bills(self) -> None:
        heat = (HandSeries("heat", "heat", "kWh", meter="heat"),)
        made = System.describe(house("Both", by_hand=heat, rated=None))
        self.system, self.address = made, f"/api/v1/systems/{made.pk}"
        zone = ZoneInfo(ZONE)
        rows = [
            TypedCells(f"{day} 00:00", {"heat": value})
            for day, value in (
                ("2026-01-01", "1000"),
                ("2026-02-01", "2860"),
                ("2026-03-01", "4120"),
            )
        ]
        readings, problems = read_rows(rows, heat, zone, 2e9)
        self.assertEqual(problems, [])
        write(
            made,
            None,
            "heat",
            [
                Written(None, Entry.Kind.READING, int(r.time), None, reading_content(r))
                for r in readings
                if r is not None
            ],
        )
        self.bill("2026-01-01", "2026-01-31", 620.0)
        self.bill("2026-02-01", "2026-02-28", 420.0)
        cache_results(made)
        span = self.client.get(
            f"{self.address}/span", {"start": "2026-01-01", "stop": "2026-02-28"}
        ).json()
        level = next(one for one in span["levels"] if one["reckoning"])
        self.assertAlmostEqual(level["reckoning"]["cop"]["value"], 3120 / 1040, delta=0.01)
