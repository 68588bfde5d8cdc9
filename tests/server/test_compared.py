"""Systems side by side in the days that they have in common, against sums by hand."""

from dataclasses import replace

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

    def test_one_alone_is_refused(self) -> None:
        refused = self.side_by_side(self.system.pk, self.system.pk)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("name 2 to 12", refused.json()["detail"])
