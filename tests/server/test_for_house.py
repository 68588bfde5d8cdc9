"""Tables in a house through the API: weather, what lies beside, and what is not described."""

from dataclasses import replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
import orjson
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from ember.description.as_json import table_to_json
from ember.description.house import CurvePoint, House, Replaced, SetCurve
from ember.description.installation import Carbon, RatedPoint, RatedTable, TableKind
from server.readings.entries import Written
from server.readings.entries import write as put
from server.readings.models import Entry
from server.systems.models import LibraryTable, System
from tests.core.helpers import installation
from tests.server.helpers import signed_in

CURVE = SetCurve((CurvePoint(-10.0, 45.0), CurvePoint(15.0, 25.0)))
HOUSE = House(heat_loss_kw=7.0, design_outdoor=-10.0, curve=CURVE, floor_area_m2=100.0)


def table(capacity: float, kind: TableKind = TableKind.WATER) -> RatedTable:
    points = tuple(RatedPoint(o, f, capacity, 3.0) for o in (-20.0, 16.0) for f in (20.0, 60.0))
    return RatedTable(points=points, kind=kind, outdoor_unit="A-60", indoor_unit="coil B")


def epw(temps: np.ndarray) -> bytes:
    """A year of weather in the form of EPW, with only what is read of it."""
    head = ["LOCATION,Nowhere,-,-,made up,0,52.0,-20.0,0.0,5.0"]
    head += [
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0",
        "COMMENTS 1,made up",
        "COMMENTS 2,-",
        "DATA PERIODS,1,1,Data,Sunday,1/1,12/31",
    ]
    rows = []
    first = datetime(2001, 1, 1)
    for k, temp in enumerate(temps.tolist()):
        day = datetime.fromordinal(first.toordinal() + k // 24)
        cells = [2001, day.month, day.day, k % 24 + 1, 60, "A7", f"{temp:.1f}", 1.0, 80, 101325]
        rows.append(",".join(str(c) for c in [*cells, *[0] * 25]))
    return "\n".join([*head, *rows]).encode()


class InHouse(TestCase):
    def setUp(self) -> None:
        self.client = signed_in()
        described = replace(installation(name="House"), house=HOUSE, rated=table(5.0))
        self.system = System.describe(described)

    def ask(self, query: str = "", **form: Any) -> Any:
        return self.client.post(f"/api/v1/systems/{self.system.pk}/in-house?{query}", form)

    def test_no_log_is_needed(self) -> None:
        found = self.ask().json()
        (own,) = found["tables"]
        self.assertEqual(own["pair"], "A-60 with coil B")
        self.assertAlmostEqual(own["need"], 7.0)
        # 7·(16 − T)/26 = 5 at T = −2.57.
        self.assertAlmostEqual(own["balance"], 16 - 26 * 5 / 7, places=6)
        self.assertGreater(own["spf"]["U"], 0)
        self.assertAlmostEqual(own["heat_per_area"], own["heat"]["value"] / 100.0, places=6)
        site = next(c for c in found["choices"] if c["key"] == "site")
        self.assertIn("nothing is logged", site["reason"]["sentence"])

    def test_another_of_the_library_beside_it(self) -> None:
        text = orjson.dumps(table_to_json(table(9.0))).decode()
        other = LibraryTable.objects.create(name="larger", table=text)
        own, beside = self.ask(f"others={other.pk}").json()["tables"]
        self.assertEqual(beside["name"], "larger")
        self.assertGreater(own["makeup"], 0)
        self.assertEqual(beside["makeup"], 0)
        air = orjson.dumps(table_to_json(table(9.0, TableKind.AIR))).decode()
        wrong = LibraryTable.objects.create(name="on air", table=air)
        refused = self.ask(f"others={wrong.pk}")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("are not laid over", refused.json()["detail"])

    def test_weather_of_a_file(self) -> None:
        temps = np.tile([-4.4, 5.6], 4380)
        file = SimpleUploadedFile("year.epw", epw(temps))
        found = self.ask(file=file).json()
        self.assertEqual(found["weather"], "year.epw")
        hours = {b["outdoor"]: b["hours"] for b in found["tables"][0]["bins"]}
        self.assertEqual(hours, {-4.5: 4380.0, 5.5: 4380.0})
        refused = self.ask(file=SimpleUploadedFile("year.csv", b"a,b\n1,2\n"))
        self.assertIn("no EPW or TMY3", refused.json()["detail"])

    def test_what_cannot_be(self) -> None:
        self.assertIn("none of the choices", self.ask("weather=nowhere").json()["detail"])
        self.assertIn("nothing is logged", self.ask("weather=site").json()["detail"])
        bare = System.describe(replace(installation(name="Bare"), rated=table(5.0)))
        self.system = bare
        found = self.ask().json()
        self.assertIn("heat loss is not described", found["need_reason"]["sentence"])
        self.assertIn("heat loss is not described", found["tables"][0]["reason"]["sentence"])

    def test_the_heating_before_by_its_bills(self) -> None:
        """20,000 kWh of gas at 85 % are 17,000 kWh of heat."""
        described = replace(
            installation(name="Gas"), house=HOUSE, rated=table(5.0), replaced=Replaced("gas")
        )
        self.system = System.describe(described)
        self.assertIsNone(self.ask().json()["before"])
        begin = datetime(2024, 1, 1, tzinfo=ZoneInfo("UTC")).timestamp()
        content = {
            "carrier": "gas",
            "amount": 20_000.0,
            "unit": "kWh",
            "kwh_per_unit": 1.0,
            "cost": None,
            "estimated": False,
            "before": True,
            "note": "",
        }
        bill = Written(None, Entry.Kind.BILL, int(begin), int(begin + 365 * 86_400), content)
        put(self.system, None, "a bill", [bill])
        before = self.ask().json()["before"]
        self.assertAlmostEqual(before["value"], 17_000.0)
        self.assertAlmostEqual(before["U"], 2 * 0.08 / 3**0.5 * 20_000.0)

    def test_half_a_table_is_saved_and_kept(self) -> None:
        points = [
            {
                "outdoor": o,
                "flow": 35.0,
                "capacity_kw": 5.0,
                "cop": None,
                "speed": "nominal",
                "airflow_m3h": None,
            }
            for o in (-15.0, 7.0)
        ]
        body = {"table": {"kind": "water", "points": points, "indoor_unit": "coil C"}}
        address = f"/api/v1/systems/{self.system.pk}/rated"
        saved = self.client.put(address, body, "application/json").json()
        self.assertEqual(saved["table"]["indoor_unit"], "coil C")
        self.assertIsNone(saved["table"]["points"][0]["cop"])
        (own,) = self.ask().json()["tables"]
        self.assertIsNone(own["spf"])
        neither = [{**p, "capacity_kw": None} for p in points]
        body["table"]["points"] = neither
        refused = self.client.put(address, body, "application/json")
        self.assertEqual(refused.status_code, 422)


class Described(TestCase):
    def test_units_and_carbon_travel_with_the_system(self) -> None:
        made = System.describe(
            replace(installation(name="Us"), units="us", carbon=Carbon(0.4, "its utility"))
        )
        shown = signed_in().get(f"/api/v1/systems/{made.pk}").json()
        self.assertEqual(shown["units"], "us")
        self.assertEqual(made.installation.carbon.source, "its utility")
