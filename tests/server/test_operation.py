"""Running in tables over the API: the same numbers as the core's, pages, filters, CSV, units of one
property, a state set by hand, and lanes by choice."""

import csv
import json
from dataclasses import replace
from datetime import date
from io import StringIO

from ember.basis.clock import instant_of, iso_local
from ember.basis.periods import Period
from ember.operation import operation
from ember.operation.within import Within
from ember.views.runs import runs_seen
from server.api.events import _cell
from server.assessments.asis import as_shown, shape_of
from server.assessments.cache import cache_results, find, operation_of
from server.assessments.models import CachedResults
from server.assessments.shown import FigureShown
from server.readings.store import store, trace_of
from server.systems.models import System
from tests.server.helpers import described, log
from tests.server.test_trust import SPAN, WithRecord

DAY = {"start": "2025-10-05", "stop": "2025-10-05"}


class Tables(WithRecord):
    key = "as-rated"

    def test_runs_are_those_of_the_core(self) -> None:
        found = self.get("/runs", **SPAN).json()
        analysis = find(self.system).analysis
        mine = runs_seen(
            Within(
                analysis,
                operation(analysis, trace_of(self.system)),
                Period("all", float(analysis.start), float(analysis.stop)),
            )
        )
        self.assertEqual(found["count"], mine.count)
        self.assertEqual(found["rows"][0]["start"], mine.rows[0].start)
        self.assertAlmostEqual(found["rows"][0]["cop"]["value"], mine.rows[0].cop.value)
        self.assertGreater(found["rows"][0]["cop"]["U"], 0)
        self.assertEqual(found["level"], "H2")

    def test_pages_and_orders(self) -> None:
        first = self.get("/runs", **SPAN, order="length", descending="true", count="5").json()
        second = self.get(
            "/runs", **SPAN, order="length", descending="true", count="5", first="5"
        ).json()
        lengths = [r["stop"] - r["start"] for r in first["rows"] + second["rows"]]
        self.assertEqual(lengths, sorted(lengths, reverse=True))
        self.assertEqual(len(lengths), 10)
        refused = self.get("/runs", **SPAN, order="colour")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("order", refused.json()["detail"])

    def test_a_part_of_the_runs(self) -> None:
        every = self.get("/runs", **SPAN).json()
        some = self.get("/runs", **SPAN, by="cop", most="3", mode="hot water").json()
        self.assertTrue(0 < some["fit"] < every["fit"])
        self.assertTrue(all(row["mode"] == "hot water" for row in some["rows"]))
        self.assertTrue(all(row["cop"]["value"] < 3.1 for row in some["rows"]))
        self.assertEqual(self.get("/runs", **SPAN, by="time").status_code, 422)

    def test_a_day_s_sums_equal_those_of_the_panel(self) -> None:
        span = self.get("/span", **DAY).json()
        level = next(x for x in span["levels"] if x["level"] == "H2")["reckoning"]
        lines = {line["name"]: line["energy"]["value"] for line in level["heat_lines"]}
        water = self.get("/hot-water", **DAY).json()
        self.assertAlmostEqual(water["total"]["heat"]["value"], lines["hot water"], 6)
        self.assertEqual(self.get("/defrosts", **DAY).json()["count"], span["defrosts"])
        self.assertEqual(self.get("/runs", **DAY).json()["count"], span["runs"])

    def test_starts_after_a_filter(self) -> None:
        every = self.get("/starts", **SPAN).json()
        some = self.get("/starts", **SPAN, mode="hot water", outdoor_low="5").json()
        self.assertTrue(0 < some["count"] < every["count"])
        self.assertEqual(len(every["since_start"]), 3)
        self.assertEqual(len(every["since_start"][1]), len(every["minutes"]))

    def test_control_inside_and_units(self) -> None:
        self.assertTrue(self.get("/control", **SPAN).json()["points"])
        self.assertIn(
            "refrigerant channels", self.get("/inside", **SPAN).json()["reason"]["sentence"]
        )
        alone = self.get("/units", **SPAN).json()
        self.assertEqual([unit["here"] for unit in alone["units"]], [True])

    def test_units_of_one_property_on_one_axis(self) -> None:
        for name in ("Left", "Right"):
            one = System.describe(replace(described("as-rated", 12, name), property="Twins"))
            store(one, log("as-rated"))
            found = self.client.get(f"/api/v1/systems/{one.pk}/units", SPAN)
            if name == "Left":
                self.assertEqual(found.status_code, 404, "not worked out yet")
            cache_results(one)
        left = System.objects.get(name="Left")
        both = self.client.get(f"/api/v1/systems/{left.pk}/units", SPAN).json()
        self.assertEqual([u["name"] for u in both["units"]], ["Left", "Right"])
        bars = [next(m for m in u["meters"] if m["name"] == "unit meter") for u in both["units"]]
        self.assertEqual(bars[0]["bars"], bars[1]["bars"])
        self.assertEqual(len(bars[0]["bars"]), len(both["edges"]) - 1)

    def test_tables_as_csv(self) -> None:
        for what, least in (("runs", 20), ("hot-water", 20), ("defrosts", 1)):
            answer = self.get("/events.csv", **SPAN, what=what)
            rows = list(csv.reader(StringIO(answer.content.decode())))
            self.assertGreaterEqual(len(rows), least)
            self.assertEqual({len(row) for row in rows}, {len(rows[0])})
        runs = list(
            csv.DictReader(StringIO(self.get("/events.csv", **SPAN, what="runs").content.decode()))
        )
        self.assertEqual(len(runs), self.get("/runs", **SPAN).json()["count"])
        first = runs[1]
        ratio = float(first["heat"]) / float(first["electricity"])
        self.assertAlmostEqual(ratio, float(first["cop"]), 3)
        self.assertGreater(float(first["U of cop"]), 0)

    def test_a_unit_without_readings_in_the_span_is_named_and_hides_no_other(self) -> None:
        here = System.objects.get(pk=self.system.pk)
        description = json.loads(here.description) | {"property": "Apart"}
        System.objects.filter(pk=here.pk).update(description=json.dumps(description))
        cache_results(System.objects.get(pk=here.pk))
        System.describe(replace(described("as-rated", 12, "Empty"), property="Apart"))
        found = self.get("/units", **SPAN).json()["units"]
        self.assertEqual([unit["name"] for unit in found], [here.name, "Empty"])
        self.assertTrue(found[0]["meters"])
        self.assertIn("no figures yet", found[1]["reason"]["sentence"])

    def test_numbers_below_zero_stay_numbers(self) -> None:
        self.assertEqual(_cell("outdoor", -3.2, find(self.system).analysis.zone), -3.2)
        self.assertEqual(_cell("ended", "=1+1", find(self.system).analysis.zone), "'=1+1")

    def test_without_a_kept_operation_it_says_what_to_do(self) -> None:
        CachedResults.objects.filter(system=self.system).update(
            operation=b"", made_from="of before"
        )
        answer = self.get("/runs", **SPAN)
        self.assertEqual(answer.status_code, 404)
        self.assertIn("not worked out yet", answer.json()["detail"])


class ByHand(WithRecord):
    key = "as-rated"

    def test_a_state_set_by_hand_changes_every_table(self) -> None:
        before = self.get("/runs", **DAY).json()
        run = max(before["rows"], key=lambda r: r["stop"] - r["start"])
        third = (run["stop"] - run["start"]) // 180 * 60
        zone = find(self.system).analysis.zone
        begin, end = (iso_local(run["start"] + s, zone) for s in (third, 2 * third))
        said = {
            "kind": "state",
            "start": begin.replace(" ", "T"),
            "end": end.replace(" ", "T"),
            "state": "standby",
            "reason": "engineer on site",
        }
        self.assertEqual(self.post("/corrections", {"corrections": [said]}).status_code, 200)
        self.work()
        after = self.get("/runs", **DAY).json()
        self.assertEqual(after["count"], before["count"] + 1, "the run is now two")
        self.assertEqual(operation_of(self.system, find(self.system)).step, 60)
        self.assertIn("state is standby", self.get("/span", **DAY).json()["corrections"][0])
        self.post("/corrections/withdraw", {"corrections": [said]})
        self.work()
        self.assertEqual(self.get("/runs", **DAY).json()["count"], before["count"])
        wrong = self.post("/corrections", {"corrections": [{**said, "state": "asleep"}]})
        self.assertEqual(wrong.status_code, 422)


class Lanes(WithRecord):
    key = "as-rated"

    def head(self, **query: str) -> dict[str, object]:
        content = self.get("/window", **query).content
        length = int.from_bytes(content[:4], "little")
        return json.loads(content[4 : 4 + length])

    def test_further_channels_when_asked(self) -> None:
        usual = self.head(**DAY)
        self.assertIn("room_temp", usual["further"])
        self.assertNotIn("room_temp", [lane["channel"] for lane in usual["lanes"]])
        more = self.head(**DAY, further="room_temp,nothing")
        self.assertIn("room_temp", [lane["channel"] for lane in more["lanes"]])
        runs = self.get("/runs", **DAY).json()["count"]
        self.assertGreaterEqual(len(usual["run_starts"]), runs)

    def test_what_is_left_out_is_marked(self) -> None:
        out = {
            "kind": "exclude",
            "start": "2025-10-05T03:00",
            "end": "2025-10-05T05:00",
            "reason": "pump mode test",
        }
        self.post("/corrections", {"corrections": [out]})
        self.work()
        left = self.head(**DAY)["left_out"]
        self.assertEqual([one["reason"] for one in left], ["pump mode test"])
        self.assertEqual(left[0]["stop"] - left[0]["start"], 7200.0)

    def test_what_is_seen_as_csv(self) -> None:
        answer = self.get("/window.csv", **DAY, further="room_temp")
        rows = list(csv.DictReader(StringIO(answer.content.decode())))
        self.assertEqual(len(rows), 1440)
        self.assertEqual(rows[0]["local time"], "2025-10-05 00:00")
        self.assertTrue({"state", "flow_temp", "heat", "cop", "room_temp"} <= set(rows[0]))
        logged = trace_of(self.system)
        midnight = instant_of(date(2025, 10, 5), find(self.system).analysis.zone)
        at = (midnight - logged.start) // 60
        self.assertAlmostEqual(float(rows[0]["flow_temp"]), logged["flow_temp"][at], 3)


class AsItIs(WithRecord):
    key = "as-rated"

    def test_estimates_become_figures_all_the_way_down(self) -> None:
        analysis = find(self.system).analysis
        period = Period("all", float(analysis.start), float(analysis.stop))
        seen = runs_seen(Within(analysis, operation_of(self.system, find(self.system)), period))
        shown = as_shown(seen)
        self.assertIsInstance(shown, shape_of(type(seen)))
        self.assertIsInstance(shown.rows[0].cop, FigureShown)
        self.assertEqual(shown.count, seen.count)
