"""A tariff of dated and half-hourly prices, from the description and a file to the money shown."""

from dataclasses import replace
from datetime import UTC, datetime, time
from pathlib import Path
from tempfile import mkdtemp

import numpy as np
from django.test import TransactionTestCase

from ember.basis.clock import wall_clock, zone_named
from ember.description.tariff import Band, ByTheHour, PricesFrom, Tariff
from server.assessments.cache import cache_results
from server.readings.store import store, trace_of
from tests.server.helpers import described, log, send, signed_in, system


class HalfHourly(TransactionTestCase):
    def setUp(self) -> None:
        self.client = signed_in()
        self.system = system(days=12)
        store(self.system, log("as-rated", 12))

    def prices(self, start: int, stop: int) -> Path:
        """Prices in ct/kWh by the half hour: 10 by night, 30 by day, 5 at noon."""
        rows = ["time;price [ct/kWh]"]
        zone = zone_named(self.system.installation.zone)
        for instant in range(start // 1800 * 1800, stop, 1800):
            wall = wall_clock(instant, zone)
            price = 10 if wall.hour < 6 else 5 if wall.hour == 12 else 30
            stamp = datetime.fromtimestamp(instant, UTC)
            rows.append(f"{stamp:%Y-%m-%dT%H:%M:%SZ};{price}")
        path = Path(mkdtemp(prefix="ember-prices-")) / "prices.csv"
        path.write_text("\n".join(rows) + "\n")
        return path

    def money(self) -> dict:
        cache_results(self.system)
        trace = trace_of(self.system)
        zone = zone_named(self.system.installation.zone)
        at = [f"{wall_clock(t, zone):%Y-%m-%dT%H:%M}" for t in (trace.start, trace.stop)]
        answer = self.client.get(
            f"/api/v1/systems/{self.system.pk}/money", {"start": at[0], "stop": at[1]}
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_a_file_of_prices_prices_every_half_hour(self) -> None:
        before = trace_of(self.system)
        # Of some days more: they make the record no longer.
        store(self.system, self.prices(before.start - 3 * 86_400, before.stop + 5 * 86_400))
        trace = trace_of(self.system)
        self.assertEqual((trace.start, trace.stop), (before.start, before.stop))
        self.assertIn("electricity_price", trace)
        described_ = replace(
            self.system.installation, tariff=Tariff(0.0, vat=0.1, by_the_hour=ByTheHour(0.05))
        )
        self.system.put(described_, None)
        found = self.money()
        # By hand from the readings: power of every cell × the price of its half hour.
        zone = zone_named(described_.zone)
        hours = np.array(
            [wall_clock(t, zone).hour for t in trace.start + 60 * np.arange(len(trace))]
        )
        price = np.where(hours < 6, 0.10, np.where(hours == 12, 0.05, 0.30))
        power = sum(
            np.nan_to_num(trace[m.channel]) for m in described_.electricity if m.channel in trace
        )
        by_hand = float((power * (price + 0.05) * 1.1).sum()) * 60 / 3.6e6
        self.assertAlmostEqual(found["total"]["cost"]["total"]["value"] / by_hand, 1, 3)
        self.assertEqual(
            found["prices"], [{"name": "day", "price": None, "since": None, "vat": 0.1}]
        )
        self.assertGreater(found["total"]["cost"]["covered"], 0.99)

    def test_dated_prices_stand_beside_each_other(self) -> None:
        zone = zone_named(self.system.installation.zone)
        trace = trace_of(self.system)
        middle = wall_clock((trace.start + trace.stop) / 2, zone).date()
        night = Band("night", 0.1, time(23), time(7))
        tariff = Tariff(
            0.3, bands=(night,), changes=(PricesFrom(price=0.4, start=middle, bands=(night,)),)
        )
        self.system.put(replace(described(days=12), tariff=tariff), None)
        found = self.money()
        rows = found["total"]["cost"]["bands"]
        self.assertEqual(
            [(row["band"], row["price"], row["since"]) for row in rows],
            [("day", 0.3, None), ("night", 0.1, None), ("day", 0.4, str(middle)),
             ("night", 0.1, str(middle))],
        )  # fmt: skip
        self.assertEqual(found["bands"], ["day", "night"])  # each once, over both its prices
        by_band = found["total"]["by_band"]
        for k, name in enumerate(found["bands"]):
            mine = [row["electricity"]["value"] for row in rows if row["band"] == name]
            self.assertEqual(len(mine), 2)
            self.assertAlmostEqual(by_band[k], sum(mine), 9)
        uses = {use["name"]: use for use in found["uses"]}
        paid = sum(use["paid"]["value"] for use in uses.values())
        self.assertAlmostEqual(paid, found["total"]["cost"]["total"]["value"], 6)
        self.assertIn("hot water", uses)

    def test_what_is_wrong_is_said_at_its_place(self) -> None:
        path = f"/api/v1/systems/{self.system.pk}/setup"
        draft = self.client.get(path).json()["description"]
        draft["tariff"] |= {
            "bands": [
                {"name": "night", "price": 0.1, "start": "23:00", "end": "07:00"},
                {"name": "early", "price": 0.2, "start": "06:00", "end": "08:00"},
            ]
        }
        body = {"description": draft, "based_on": None}
        found = send(self.client, "post", f"{path}/check", body).json()
        self.assertEqual(
            found["problems"], [{"where": "tariff", "what": "bands: 'night' and 'early' overlap."}]
        )
        draft["tariff"]["bands"][1] |= {"start": "07:00", "months": [6, 7]}
        found = send(self.client, "post", f"{path}/check", body).json()
        self.assertEqual(found["problems"], [])
        (edition,) = found["clock"]
        self.assertEqual([s["months"] for s in edition["seasons"]][1], [6, 7])
        self.assertEqual(edition["seasons"][1]["days"][0][:2], [[0, 420, 0], [420, 480, 1]])
