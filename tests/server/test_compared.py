"""Systems side by side in the days that they have in common, against sums by hand."""

import json
from dataclasses import replace
from io import StringIO

import numpy as np
from django.core.management import CommandError, call_command

from ember.description.house import House
from server.assessments.cache import cache_results
from server.readings.store import store
from server.systems.models import System
from tests.server.helpers import described, log
from tests.server.test_api import WithRecord


class Compared(WithRecord):
    def setUp(self) -> None:
        super().setUp()
        other = replace(described(), name="The other house", house=House(floor_area_m2=200.0))
        self.other = System.describe(other)
        store(self.other, log())
        cache_results(self.other)

    def side_by_side(self, *systems: int):
        query = "&".join(f"systems={pk}" for pk in systems)
        return self.client.get(f"/api/v1/compared?{query}")

    def test_by_the_floor_and_by_the_weather(self) -> None:
        found = self.side_by_side(self.system.pk, self.other.pk).json()
        self.assertIsNone(found["reason"])
        mine, other = found["rows"]
        self.assertEqual(other["name"], "The other house")
        self.assertEqual(mine["heat"]["value"], other["heat"]["value"])  # the same log
        heat, days = other["heat"], other["degree_days"]["heating"]
        self.assertAlmostEqual(other["heat_per_area"]["value"], heat["value"] / 200)
        self.assertAlmostEqual(other["heat_per_area"]["U"], heat["U"] / 200)
        by_hand = heat["value"] * 1000 / 200 / (days * other["covered"])
        self.assertAlmostEqual(other["heat_by_weather"]["value"], by_hand)
        self.assertAlmostEqual(other["cost_per_area"]["value"], other["cost"]["value"] / 200)

    def test_without_a_floor_area_there_is_nothing_by_it(self) -> None:
        self.other.put(replace(self.other.installation, house=House()), None)
        cache_results(self.other)
        _, other = self.side_by_side(self.system.pk, self.other.pk).json()["rows"]
        self.assertIsNotNone(other["heat"])
        for field in ("heat_per_area", "electricity_by_weather", "cost_per_area"):
            self.assertIsNone(other[field])

    def bill(self, system: System, carrier: str, first: str, last: str, **more) -> None:
        body = {"id": None, "first": first, "last": last, "carrier": carrier, "amount": 100.0,
                "unit": "kWh", "kwh_per_unit": 1.0, "cost": None, "estimated": False,
                "before": False, "note": "", "meter": None} | more  # fmt: skip
        done = self.client.post(f"/api/v1/systems/{system.pk}/bills", body, "application/json")
        self.assertEqual(done.status_code, 200, done.content)

    def test_all_fuels_of_each_house_by_their_bills(self) -> None:
        """Twelve days of record: gas for them and twelve more, wood for eleven of them."""
        self.bill(self.other, "Gas", "2025-10-01", "2025-10-24", amount=48.0, unit="m³",
                  kwh_per_unit=11.0, cost=60.0)  # fmt: skip
        self.bill(self.other, "wood", "2025-10-02", "2025-10-12", amount=330.0)
        self.bill(self.other, "wood", "2024-10-02", "2024-10-12", amount=999.0)  # not of these days
        self.bill(self.other, "oil", "2025-10-01", "2025-10-12", before=True)
        cache_results(self.other)
        mine, other = self.side_by_side(self.system.pk, self.other.pk).json()["rows"]
        self.assertEqual(mine["bought"], [])
        gas, wood, every = other["bought"]
        self.assertEqual((gas["carrier"], gas["covered"]), ("gas", 1.0))
        self.assertAlmostEqual(gas["energy"]["value"], 48 * 11 / 2)
        self.assertAlmostEqual(gas["cost"]["value"], 30.0)
        self.assertAlmostEqual(gas["energy_per_area"]["value"], 264 / 200)
        # Half of the bill lies outside: as much may be wrong, besides 3 % of meter and content.
        limits = np.hypot(264.0, 0.03 * 264.0)
        self.assertAlmostEqual(gas["energy"]["U"], 2 * limits / np.sqrt(3))
        self.assertAlmostEqual(gas["cost"]["U"], 2 * 30.0 / np.sqrt(3))
        self.assertAlmostEqual(wood["covered"], 11 / 12)
        self.assertIsNone(wood["cost"])
        days = other["degree_days"]["heating"] * 11 / 12
        self.assertAlmostEqual(wood["energy_by_weather"]["value"], 330e3 / 200 / days)
        self.assertEqual(every["carrier"], "gas + wood + electricity as measured")
        total = 264 + 330 + other["electricity"]["value"]
        self.assertAlmostEqual(every["energy"]["value"], total)
        self.assertIsNone(every["cost"])  # that of the wood is not known

    def test_the_bill_of_the_whole_house_holds_what_is_measured(self) -> None:
        self.bill(self.other, "electricity", "2025-10-01", "2025-10-12", amount=900.0)
        self.bill(self.other, "gas", "2025-10-01", "2025-10-12", amount=200.0)
        _, other = self.side_by_side(self.system.pk, self.other.pk).json()["rows"]
        self.assertEqual(other["bought"][-1]["carrier"], "electricity + gas")
        self.assertAlmostEqual(other["bought"][-1]["energy"]["value"], 1100.0)

    def test_an_estimate_is_settled_by_a_later_bill(self) -> None:
        """120 kWh guessed for twelve days, 360 read after twelve more: 240 a twelve days."""
        self.bill(self.other, "gas", "2025-10-01", "2025-10-12", amount=120.0, estimated=True)
        self.bill(self.other, "gas", "2025-10-13", "2025-10-24", amount=360.0)
        _, other = self.side_by_side(self.system.pk, self.other.pk).json()["rows"]
        self.assertAlmostEqual(other["bought"][0]["energy"]["value"], 240.0)
        self.assertEqual(other["bought"][0]["covered"], 1.0)

    def test_bills_of_the_same_days_say_nothing(self) -> None:
        for last in ("2025-10-12", "2025-10-20"):
            self.bill(self.other, "gas", "2025-10-01", last)
        _, other = self.side_by_side(self.system.pk, self.other.pk).json()["rows"]
        (gas,) = other["bought"]
        self.assertIsNone(gas["energy"])
        self.assertIn("two bills of gas hold the same days", gas["reason"]["sentence"])

    def test_one_alone_is_refused(self) -> None:
        refused = self.side_by_side(self.system.pk, self.system.pk)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("name 2 to 12", refused.json()["detail"])

    def test_by_command(self) -> None:
        """The same as on the screen, in JSON and set for reading."""
        self.bill(self.other, "gas", "2025-10-01", "2025-10-12", amount=200.0)
        shown = self.side_by_side(self.system.pk, self.other.pk).json()
        names = [row["name"] for row in shown["rows"]]

        def said(*more: str) -> str:
            out = StringIO()
            call_command("readings", "compare", *more, stdout=out)
            return out.getvalue()

        found = json.loads(said(*names, "--json", "-"))
        self.assertEqual(found["in_common"], shown["local"])
        for mine, row in zip(found["systems"], shown["rows"], strict=True):
            for field in ("heat", "electricity", "cop", "heat_by_weather"):
                theirs = row[field]
                self.assertEqual(mine[field] and mine[field]["value"], theirs and theirs["value"])
            self.assertEqual(len(mine["bought"]), len(row["bought"]))
        text = said(*names)
        self.assertIn("IN COMMON: ", text)
        self.assertRegex(text, r"bought: gas +– +200 ± \d+ kWh")
        for wrong, why in (((names[0],), "name 2 to 12"), ((names[0], "Nobody"), "No system is")):
            with self.assertRaisesRegex(CommandError, why):
                said(*wrong)
