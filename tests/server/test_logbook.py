"""The store: what goes in comes out, an import can be taken back, nothing is half-stored."""

import threading
from unittest.mock import patch

import numpy as np
import pyarrow as pa
from django.db import connection
from django.test import TestCase, TransactionTestCase

from ember.basis.channels import Kind, quantity_of
from ember.intake import laid_over, read_log
from server.readings.codec import WEEK, decode, encode, week_of, week_start, weeks_of
from server.readings.lanes import decimated, long_lanes
from server.readings.models import Block, Import, Journal
from server.readings.store import StoreError, redo, store, trace_of, undo
from tests.core.helpers import simulated, steady
from tests.server.helpers import log, part, system


class RoundTrip(TestCase):
    def test_what_is_read_comes_back(self) -> None:
        mine = system()
        store(mine, log())
        trace, _ = read_log(log(), mine.installation)
        back = trace_of(mine)
        self.assertEqual((back.start, back.step, len(back)), (trace.start, 60, len(trace)))
        for channel, values in trace.channels.items():
            exact = quantity_of(channel).kind == Kind.COUNTER
            kept = values if exact else values.astype(np.float32).astype(np.float64)
            np.testing.assert_array_equal(back[channel], kept, channel)
            self.assertEqual(back.native_of(channel), trace.native_of(channel))

    def test_a_part_and_some_channels(self) -> None:
        mine = system()
        store(mine, log())
        whole = trace_of(mine)
        start = whole.start + 3 * 86_400
        some = trace_of(mine, start, start + 86_400, ("flow_temp",))
        self.assertEqual(list(some.channels), ["flow_temp"])
        np.testing.assert_array_equal(
            some["flow_temp"], whole.between(start, start + 86_400)["flow_temp"]
        )

    def test_a_block_is_an_open_format(self) -> None:
        mine = system()
        store(mine, log())
        batch = pa.ipc.open_stream(bytes(Block.objects.first().payload)).read_next_batch()
        self.assertIn("flow_temp", batch.schema.names)
        self.assertEqual(batch.schema.metadata[b"step"], b"60")

    def test_weeks_begin_on_monday(self) -> None:
        for instant in (0, 345_599, 345_600, 1_767_225_600):
            week = week_of(instant)
            self.assertLessEqual(week_start(week), instant)
            self.assertLess(instant, week_start(week) + WEEK)
        self.assertEqual(
            np.datetime64(week_start(0), "s").astype("datetime64[D]").item().weekday(), 0
        )

    def test_bytes_of_a_week_round_trip(self) -> None:
        trace = steady(30)
        for week in weeks_of(trace).values():
            back = decode(encode(week))
            np.testing.assert_array_equal(back["power:unit"], week["power:unit"])

    def test_nothing_stored_says_so(self) -> None:
        with self.assertRaisesMessage(StoreError, "no readings are stored"):
            trace_of(system())


class Imports(TestCase):
    def setUp(self) -> None:
        self.system = system()
        self.rows = len(simulated("as-rated", days=12).columns["flow_temp"])

    def test_the_same_file_again_adds_nothing(self) -> None:
        first = store(self.system, log())
        blocks = list(Block.objects.values_list("pk", flat=True))
        self.system.refresh_from_db()
        revision = self.system.revision
        again = store(self.system, log())
        self.assertTrue(again.already)
        self.assertEqual(again.batch.pk, first.batch.pk)
        self.assertEqual(list(Block.objects.values_list("pk", flat=True)), blocks)
        self.system.refresh_from_db()
        self.assertEqual(self.system.revision, revision)

    def test_two_halves_are_the_whole(self) -> None:
        half = self.rows // 2 + 77
        for name, first, last in (("later.csv", half, self.rows), ("earlier.csv", 0, half)):
            store(self.system, part(log(), first, last, name))
        other = system(name="whole")
        store(other, log())
        one, two = trace_of(self.system), trace_of(other)
        for channel in two.channels:
            np.testing.assert_array_equal(one[channel], two[channel], channel)

    def test_an_overlap_fills_only_what_is_unknown(self) -> None:
        text = part(log(), 0, 2000, "first.csv").read_text().splitlines()
        head = text[0].split(",")
        at = head.index("flow_temp_c")
        changed = [text[0]]
        for line in text[1:]:
            cells = line.split(",")
            cells[at] = "99"
            changed.append(",".join(cells))
        store(self.system, part(log(), 0, 1000, "stored.csv"))
        path = part(log(), 0, 10, "changed.csv")
        path.write_text("\n".join(changed) + "\n")
        store(self.system, path)
        found = trace_of(self.system)["flow_temp"]
        self.assertTrue((found[:1000] < 90).all())
        self.assertTrue((found[1000:2000] == 99).all())

    def altered(self, first: int, last: int, name: str, flow: str = "", power: str = ""):
        """Some rows of the log with another flow temperature and power."""
        path = part(log(), first, last, name)
        lines = path.read_text().splitlines()
        head = lines[0].split(",")
        for k, line in enumerate(lines[1:], 1):
            cells = line.split(",")
            cells[head.index("flow_temp_c")], cells[head.index("power_unit_w")] = flow, power
            lines[k] = ",".join(cells)
        path.write_text("\n".join(lines) + "\n")
        return path

    def test_an_overlap_by_each_rule_and_its_undo(self) -> None:
        holed = self.altered(0, 1000, "holed.csv", flow="", power="500")
        for rule, flow, power in (
            (Import.Rule.FILL, 77.0, 500.0),
            (Import.Rule.REPLACE, 77.0, 900.0),
            (Import.Rule.KEEP, np.nan, 500.0),
        ):
            mine = system(name=f"by {rule}")
            store(mine, holed)
            second = store(mine, self.altered(500, 1500, "more.csv", "77", "900"), rule=rule).batch
            found = trace_of(mine)
            np.testing.assert_array_equal(found["flow_temp"][500:1000], np.full(500, flow), rule)
            np.testing.assert_array_equal(found["power:unit"][500:1000], np.full(500, power), rule)
            self.assertTrue((found["flow_temp"][1000:1500] == 77).all(), rule)
            undo(second)
            self.assertTrue((trace_of(mine)["power:unit"] == 500).all(), rule)
            redo(second)
            np.testing.assert_array_equal(trace_of(mine)["power:unit"], found["power:unit"])

    def test_undo_and_redo(self) -> None:
        first = store(self.system, part(log(), 0, 6000, "one.csv")).batch
        before = trace_of(self.system)
        second = store(self.system, part(log(), 5000, self.rows, "two.csv")).batch
        both = trace_of(self.system)
        undo(second)
        back = trace_of(self.system)
        self.assertEqual(len(back), len(before))
        np.testing.assert_array_equal(back["power:unit"], before["power:unit"])
        with self.assertRaisesMessage(StoreError, "undone already"):
            undo(second)
        redo(second)
        np.testing.assert_array_equal(trace_of(self.system)["power:unit"], both["power:unit"])
        undo(first)
        self.assertEqual(trace_of(self.system).start, first.start + 5000 * 60)
        undo(second)
        self.assertFalse(Block.objects.exists())

    def test_every_change_raises_the_revision(self) -> None:
        batch = store(self.system, log()).batch
        undo(batch)
        redo(batch)
        self.system.refresh_from_db()
        self.assertEqual(self.system.revision, 3)

    def test_a_fault_while_storing_leaves_nothing(self) -> None:
        with (
            patch("server.readings.store._write", side_effect=RuntimeError("power cut")),
            self.assertRaises(RuntimeError),
        ):
            store(self.system, log())
        for model in (Import, Journal, Block):
            self.assertFalse(model.objects.exists())

    def test_stopping_before_it_is_stored_leaves_nothing(self) -> None:
        class Stop(Exception):
            pass

        def tell(progress: float, doing: str) -> None:
            if doing == "storing":
                raise Stop

        with self.assertRaises(Stop):
            store(self.system, log(), tell)
        self.assertFalse(Block.objects.exists())


class Lanes(TestCase):
    def test_a_three_minute_defrost_is_seen_in_a_year(self) -> None:
        n = 365 * 1440
        values = np.full(n, 35.0)
        values[200_000:200_003] = 12.0
        lane = decimated("flow_temp", 0.0, 60.0, values, values, 800)
        self.assertLessEqual(len(lane.low), 800)
        self.assertEqual(lane.low.min(), 12.0)
        self.assertEqual(int((lane.low < 35).sum()), 1)

    def test_the_overview_keeps_least_and_greatest(self) -> None:
        mine = system()
        store(mine, log())
        whole = trace_of(mine)
        (lane,) = long_lanes(mine, ("flow_temp",), whole.start, whole.stop, 300)
        self.assertAlmostEqual(np.nanmin(lane.low), whole["flow_temp"].min(), 4)
        self.assertAlmostEqual(np.nanmax(lane.high), whole["flow_temp"].max(), 4)
        self.assertAlmostEqual(np.nanmean(lane.mean), whole["flow_temp"].mean(), delta=0.2)

    def test_a_coarser_week_is_held_and_its_register_is_not(self) -> None:
        fine, coarse = steady(2), steady(2, step=300)
        register = np.arange(len(coarse), dtype=float)
        coarse = coarse.with_channels({"energy:unit": register})
        laid = laid_over([fine, coarse])
        self.assertEqual(laid.step, 60)
        known = np.isfinite(laid["energy:unit"])
        self.assertEqual(int(known.sum()), len(coarse))
        np.testing.assert_array_equal(laid["energy:unit"][::5], register)


class AtOnce(TransactionTestCase):
    """Two imports at once, and one while charts are read: no lock error, nothing lost."""

    def test_two_imports_into_the_same_weeks(self) -> None:
        mine = system()
        rows = len(simulated("as-rated", days=12).columns["flow_temp"])
        files = [part(log(), k * rows // 4, (k + 1) * rows // 4, f"{k}.csv") for k in range(4)]
        failures: list[BaseException] = []
        over = threading.Event()

        def importing(k: int) -> None:
            try:
                store(mine, files[k])
                store(mine, files[k + 2])
            except BaseException as error:
                failures.append(error)
            finally:
                connection.close()

        def reading() -> None:
            try:
                while not over.is_set():
                    if Block.objects.exists():
                        trace_of(mine)
            except BaseException as error:
                failures.append(error)
            finally:
                connection.close()

        threads = [threading.Thread(target=importing, args=(k,)) for k in range(2)]
        reader = threading.Thread(target=reading)
        for thread in [*threads, reader]:
            thread.start()
        for thread in threads:
            thread.join(60)
        over.set()
        reader.join(60)
        self.assertEqual(failures, [])
        other = system(name="whole")
        store(other, log())
        np.testing.assert_array_equal(trace_of(mine)["power:unit"], trace_of(other)["power:unit"])
        self.assertEqual(Import.objects.filter(system=mine).count(), 4)
