"""Readings as they come: taken once, late and out of order, and what they are in the blocks."""

import json
import random
import time
from datetime import UTC, datetime
from unittest import mock

import numpy as np
from django.db import OperationalError, connection
from django.test import Client, TransactionTestCase

from ember.intake.live import LIVE_MOST_READINGS, on_grid, read_batch
from server.readings import folding, live
from server.readings.codec import week_of
from server.readings.folding import fold, standing
from server.readings.live import gaps, register, renew_token, revoke
from server.readings.models import Batch, Import, Logger
from server.readings.store import StoreError, redo, store, trace_of, undo
from server.systems.models import System
from tests.core.helpers import simulated
from tests.server.helpers import log, signed_in, system

BEGIN = datetime(2026, 1, 12, tzinfo=UTC).timestamp()  # a Monday


def batch(minutes: list[int], **values: float) -> list[dict[str, float]]:
    return [{"time": BEGIN + 60 * m, **{k: v + m for k, v in values.items()}} for m in minutes]


class Live(TransactionTestCase):
    def setUp(self) -> None:
        self.system = system(days=3)
        self.logger, self.token = register(self.system, "boiler room")
        soon = mock.patch("server.readings.tasks.fold_soon")  # there is no worker here
        self.asked = soon.start()
        live._asked = -1e9
        self.addCleanup(soon.stop)

    def send(self, readings: object, token: str | None = None, **more: object):
        return Client().post(
            "/api/v1/ingest",
            json.dumps({"readings": readings, **more}),
            "application/json",
            headers={"Authorization": f"Bearer {token or self.token}"},
        )

    def lines(self, text: str):
        return Client().post(
            "/api/v1/ingest", text, "text/plain", headers={"Authorization": f"Bearer {self.token}"}
        )

    def fold(self) -> int:
        return fold(Logger.objects.get(pk=self.logger.pk))

    # --- taking -------------------------------------------------------------------------

    def test_a_batch_is_taken_once_however_often_it_comes(self) -> None:
        rows = batch([0, 1, 2], flow_temp=30)
        for already in (False, True, True):
            answer = self.send(rows, batch="7").json()
            self.assertEqual(answer["already"], already)
        self.assertEqual(Batch.objects.count(), 1)
        self.assertEqual(standing(self.logger).readings, 3)
        self.asked.assert_called_once()
        other = self.send(batch([0], flow_temp=50), batch="7")
        self.assertEqual(other.status_code, 409)
        self.assertIn("other readings", other.json()["detail"])
        # Without a key a batch is known by what it holds.
        self.assertEqual(self.send(rows).json()["accepted"], 3)
        self.assertTrue(self.send(rows).json()["already"])

    def test_the_same_readings_written_another_way_are_the_same_batch(self) -> None:
        rows = [{"time": BEGIN, "flow_temp": 35, "return_temp": 30}, {"time": BEGIN + 60, "x": 1}]
        self.send(rows, batch="7", sent=BEGIN + 61)
        turned = [
            {"x": 1.0, "time": BEGIN + 60},
            {"return_temp": 30, "time": BEGIN, "flow_temp": 35},
        ]
        for other in ({"sent": BEGIN + 99}, {}, {"sent": BEGIN + 61, "note": "again"}):
            answer = self.send(turned, batch="7", **other)
            self.assertEqual((answer.status_code, answer.json()["already"]), (200, True))
        # Of one name at one time the later reading holds, so their order is of account.
        twice = [{"time": BEGIN, "flow_temp": 35}, {"time": BEGIN, "flow_temp": 36}]
        self.send(twice, batch="8")
        self.assertEqual(self.send(twice[::-1], batch="8").status_code, 409)

    def test_long_keys_and_names_are_refused_and_not_cut(self) -> None:
        for key in ("k" * 65, " ", "", 1.5, ["k"], {"k": 1}):
            answer = self.send(batch([0], flow_temp=30), batch=key)
            self.assertEqual(answer.status_code, 400, key)
            self.assertIn("64 characters", answer.json()["detail"])
        self.assertEqual(self.send(batch([0], flow_temp=30), batch="k" * 64).status_code, 200)
        long = "n" * 80
        answer = self.send([{"time": BEGIN, long + "a": 1, long + "b": 2, long: 3}]).json()
        self.assertEqual((answer["accepted"], answer["refused"]), (1, 2))
        answer = self.lines(f"{BEGIN} {long}a 1\n{BEGIN} {long} 2").json()
        self.assertEqual((answer["accepted"], answer["refused"]), (1, 1))
        self.assertIn("80 characters", answer["first_refused"][0]["why"])

    def test_what_is_acknowledged_is_on_the_disk(self) -> None:
        # SQLite, "PRAGMA synchronous": 2 is FULL, which syncs the log of changes at each commit.
        with connection.cursor() as cursor:
            self.assertEqual(cursor.execute("PRAGMA synchronous").fetchone()[0], 2)

    def test_only_a_token_that_holds_opens_it(self) -> None:
        self.assertEqual(Client().post("/api/v1/ingest", "{}", "application/json").status_code, 401)
        self.assertEqual(self.send([], token="nonsense").status_code, 401)
        revoke(self.logger)
        answer = self.send(batch([0], flow_temp=30))
        self.assertEqual(answer.status_code, 401)
        self.assertIn("revoked", answer.json()["detail"])
        fresh = renew_token(self.logger)
        self.assertEqual(self.send(batch([0], flow_temp=30), token=fresh).status_code, 200)
        self.assertEqual(
            self.send(batch([1], flow_temp=30)).status_code, 401, "the old one is gone"
        )
        self.assertNotIn(fresh, str(Logger.objects.values()), "kept as a hash only")
        self.assertEqual(Client().get("/api/v1/ingest").status_code, 405)

    def test_what_cannot_be_is_refused_by_itself_and_named(self) -> None:
        rows = [
            {"time": BEGIN, "flow_temp": 30.0},
            {"time": "yesterday", "flow_temp": 30.0},
            {"time": time.time() + 10 * 86_400, "flow_temp": 30.0},
            {"time": 0, "flow_temp": 30.0},
            {"time": BEGIN, "flow_temp": "warm"},
            {"flow_temp": 3},
            5,
        ]
        answer = self.send(rows).json()
        self.assertEqual((answer["accepted"], answer["refused"]), (1, 6))
        said = {one["row"]: one["why"] for one in answer["first_refused"]}
        self.assertIn("no time", said[2])
        self.assertIn("future", said[3])
        self.assertIn("before the year 2000", said[4])
        self.assertIn("no number", said[5])
        self.assertIn("no object", said[7])
        self.assertIn("row 2", standing(self.logger).problem)

    def test_bodies_that_are_no_batch(self) -> None:
        for body, kind, status in (
            ("{", "application/json", 400),
            ("[]", "application/json", 400),
            ('{"readings": [{"time": 1, "flow_temp": NaN}]}', "application/json", 400),
            (b"\xff\xfe", "text/plain", 400),
            ("x" * (1 << 20) + "y", "text/plain", 413),
        ):
            answer = Client().post(
                "/api/v1/ingest", body, kind, headers={"Authorization": f"Bearer {self.token}"}
            )
            self.assertEqual(answer.status_code, status, body[:20])
            self.assertTrue(answer.json()["detail"])
        many = self.lines(
            "\n".join(f"{BEGIN + k} flow_temp 30" for k in range(LIVE_MOST_READINGS + 1))
        )
        self.assertEqual(many.status_code, 413)
        self.assertEqual(Batch.objects.count(), 0)

    def test_lines_of_text(self) -> None:
        text = (
            "2026-01-12T00:00:00Z flow_temp 35.5\n\n1768176060 flow_temp 36\nbad\n1768176060 x nan"
        )
        answer = self.lines(text).json()
        self.assertEqual((answer["accepted"], answer["refused"]), (2, 2))
        self.fold()
        trace = trace_of(self.system)
        at = trace.cell(BEGIN)
        np.testing.assert_allclose(trace["flow_temp"][at : at + 2], [35.5, 36.0])

    def test_it_asks_to_wait_when_too_much_waits(self) -> None:
        at_once = mock.patch.object(live, "LIVE_REMEMBERED", -1.0)
        with mock.patch.object(live, "WAITING", 2), at_once:
            for k in range(2):
                self.assertEqual(self.send(batch([k], flow_temp=30)).status_code, 200)
            answer = self.send(batch([9], flow_temp=30))
            self.assertEqual(answer.status_code, 429)
            self.assertEqual(answer.headers["Retry-After"], "30")
            self.assertIn("wait", answer.json()["detail"])
            self.fold()
            self.assertEqual(self.send(batch([9], flow_temp=30)).status_code, 200)

    # --- folding ------------------------------------------------------------------------

    def test_late_and_out_of_order_batches_make_the_same_record(self) -> None:
        trace = simulated("as-rated", days=3).trace()
        rows = [
            {"time": BEGIN + k * trace.step, **{c: float(v[k]) for c, v in trace.channels.items()}}
            for k in range(600)
        ]
        pieces = [rows[k : k + 7] for k in range(0, len(rows), 7)]
        random.Random(4).shuffle(pieces)
        for k, piece in enumerate(pieces):
            self.assertEqual(self.send(piece).status_code, 200)
            if k % 20 == 0:
                self.fold()
        self.fold()
        stored = trace_of(self.system)
        self.assertEqual(stored.step, trace.step)
        for channel, values in trace.channels.items():
            np.testing.assert_allclose(
                stored[channel][:600], values[:600], rtol=1e-6, err_msg=channel
            )
        self.assertEqual(self.system.imports.count(), 1, "one import a logger and week")
        self.assertFalse(Batch.objects.filter(folded=False).exists())
        self.logger.refresh_from_db()
        self.assertEqual(self.logger.readings, 600 * len(trace.channels))

    def test_a_week_is_undone_and_put_back_and_takes_its_place_beside_files(self) -> None:
        path = log("as-rated", 3)
        store(self.system, path)
        before = trace_of(self.system)
        self.send(batch(list(range(30)), flow_temp=30))
        self.fold()
        both = trace_of(self.system)
        one = self.system.imports.get(logger=self.logger)
        self.assertIn("boiler room", one.file)
        undo(one)
        np.testing.assert_array_equal(trace_of(self.system)["flow_temp"], before["flow_temp"])
        redo(Import.objects.get(pk=one.pk))
        np.testing.assert_array_equal(trace_of(self.system)["flow_temp"], both["flow_temp"])
        # What comes after an undo begins an import of its own.
        undo(Import.objects.get(pk=one.pk))
        self.send([{"time": BEGIN + 12_000, "flow_temp": 20.0}])
        self.fold()
        self.assertEqual(self.system.imports.filter(logger=self.logger).count(), 2)
        here = trace_of(self.system).between(BEGIN, BEGIN + 60 * 30)
        self.assertFalse(np.isfinite(here["flow_temp"]).any(), "what was undone stays out")

    def test_a_batch_over_the_turn_of_the_week_is_in_both(self) -> None:
        end = BEGIN + 7 * 86_400
        rows = [{"time": end + 60 * k, "flow_temp": 30.0} for k in range(-5, 5)]
        self.send(rows)
        self.fold()
        weeks = set(self.system.blocks.values_list("week", flat=True))
        self.assertEqual(weeks, {week_of(BEGIN), week_of(end)})
        self.assertEqual(np.isfinite(trace_of(self.system)["flow_temp"]).sum(), 10)

    def test_two_readings_of_one_minute_are_averaged_even_when_they_come_apart(self) -> None:
        self.send([{"time": BEGIN + 60 * k, "flow_temp": 30.0} for k in range(5)])
        self.fold()
        self.send([{"time": BEGIN + 90, "flow_temp": 40.0}])
        self.fold()
        self.assertEqual(trace_of(self.system)["flow_temp"][:3].tolist(), [30.0, 35.0, 30.0])

    def test_names_of_its_own_are_read_as_described_from_the_raw_batches(self) -> None:
        client = signed_in()
        self.send(batch([0, 1, 2], T1=86.0, flow_temp=30))
        self.fold()
        self.assertNotIn("return_temp", trace_of(self.system))
        shown = client.get(f"/api/v1/systems/{self.system.pk}/loggers").json()["rows"][0]
        self.assertEqual(
            [(n["name"], n["channel"]) for n in shown["names"]],
            [("T1", None), ("flow_temp", "flow_temp")],
        )
        columns = [{"header": "T1", "channel": "return_temp", "unit": "degF"}]
        answer = client.put(
            f"/api/v1/loggers/{self.logger.pk}/names", {"columns": columns}, "application/json"
        )
        self.assertEqual(answer.status_code, 200)
        self.send(batch([3], T1=86.0))
        self.fold()
        found = trace_of(self.system)["return_temp"]
        np.testing.assert_allclose(found[:4], (np.array([86, 87, 88, 89]) - 32) / 1.8, rtol=1e-6)
        twice = [*columns, {"header": "T2", "channel": "return_temp", "unit": None}]
        refused = client.put(
            f"/api/v1/loggers/{self.logger.pk}/names", {"columns": twice}, "application/json"
        )
        self.assertIn("two names", refused.json()["detail"])

    def test_a_fold_that_dies_half_way_leaves_nothing_and_is_done_again(self) -> None:
        self.send(batch([0, 1, 2], flow_temp=30))
        with (
            mock.patch("server.readings.store._write", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            self.fold()
        self.assertEqual((self.system.blocks.count(), self.system.imports.count()), (0, 0))
        self.assertEqual(self.fold(), 1)
        self.assertEqual(np.isfinite(trace_of(self.system)["flow_temp"]).sum(), 3)

    def test_what_comes_while_it_folds_is_counted_once(self) -> None:
        self.send(batch([0, 1], flow_temp=30))
        laid_in = folding._laid_in

        def meanwhile(*given: object) -> None:
            self.send(batch([5, 6, 7], flow_temp=30))
            laid_in(*given)

        with mock.patch.object(folding, "_laid_in", side_effect=meanwhile):
            self.assertEqual(self.fold(), 1)
        self.logger.refresh_from_db()
        self.assertEqual(self.logger.readings, 2)
        self.assertEqual(standing(self.logger).readings, 5)
        self.assertEqual(self.fold(), 1)
        self.logger.refresh_from_db()
        self.assertEqual(self.logger.readings, 5)

    def test_a_backlog_is_folded_in_parts_that_fit_into_memory(self) -> None:
        for k in range(7):
            self.send(batch([3 * k, 3 * k + 1, 3 * k + 2], flow_temp=30))
        folded = mock.patch.object(folding, "_folded", wraps=folding._folded)
        with mock.patch.object(folding, "FOLDED_READINGS", 7), folded as parts:
            self.assertEqual(self.fold(), 7)
        self.assertEqual([len(call.args[1]) for call in parts.call_args_list], [2, 2, 2, 1])
        self.assertEqual(np.isfinite(trace_of(self.system)["flow_temp"]).sum(), 21)

    def test_a_busy_store_asks_to_send_again(self) -> None:
        with mock.patch.object(live, "_written", side_effect=OperationalError("locked")):
            answer = self.send(batch([0], flow_temp=30))
        self.assertEqual((answer.status_code, answer.headers["Retry-After"]), (503, "2"))
        self.assertEqual(self.send(batch([0], flow_temp=30)).status_code, 200)

    # --- its state ----------------------------------------------------------------------

    def test_the_state_of_a_logger(self) -> None:
        client = signed_in()

        def state() -> tuple[str, str]:
            row = client.get(f"/api/v1/systems/{self.system.pk}/loggers").json()["rows"][0]
            return row["state"], row["said"]

        self.assertEqual(state()[0], "waiting")
        now = time.time()
        self.send([{"time": now, "flow_temp": 30.0}], sent=now)
        self.assertEqual(state(), ("sending", "All well."))
        self.send([{"time": now + 300, "flow_temp": 30.0}], sent=now + 300)
        self.assertEqual(state(), ("sending", "Its clock is 5 min ahead."))
        Batch.objects.update(received=now - 7200, sent=None, folded=True)
        Logger.objects.update(seen=now - 7200, drift=0)
        self.assertEqual(state(), ("silent", "Nothing for 2 h."))
        revoke(self.logger)
        self.assertEqual(state()[0], "revoked")

    def test_gaps_are_seen(self) -> None:
        for hour in (0, 1, 2, 6, 7):
            self.send(
                [{"time": BEGIN + 3600 * hour + 60 * k, "flow_temp": 30.0} for k in range(58)]
            )
        # One batch that holds both sides of a silence.
        rows = [{"time": BEGIN + 3600 * h, "flow_temp": 30.0} for h in (10, 13)]
        self.send(rows)
        self.fold()
        found = gaps(self.logger, BEGIN)
        hours = [((g.start - BEGIN) / 3600, (g.stop - BEGIN) / 3600) for g in found]
        ends = [(2 + 58 / 60, 6), (7 + 58 / 60, 10), (10 + 1 / 60, 13)]
        np.testing.assert_allclose(hours, ends)

    def test_loggers_are_added_by_name_and_their_token_is_shown_once(self) -> None:
        client = signed_in()
        address = f"/api/v1/systems/{self.system.pk}/loggers"
        made = client.post(address, {"name": "roof"}, "application/json").json()
        self.assertTrue(made["token"])
        self.assertIsNone(client.get(address).json()["token"])
        again = client.post(address, {"name": "roof"}, "application/json")
        self.assertIn("already", again.json()["detail"])
        with self.assertRaisesRegex(StoreError, "give the logger one"):
            register(System.objects.get(pk=self.system.pk), "  ")
        self.assertEqual(self.send(batch([0], flow_temp=1), token=made["token"]).status_code, 200)


class Grid(TransactionTestCase):
    def test_impossible_values_are_unknown_and_registers_stand_at_the_nearest_beginning(
        self,
    ) -> None:
        readings = [
            (BEGIN + 1.0, "flow_temp", 30.0),
            (BEGIN + 61.0, "flow_temp", 400.0),
            (BEGIN + 58.0, "energy", 3.6e6),
            (BEGIN + 119.0, "energy", 7.2e6),
            (BEGIN + 2.0, "nothing", 1.0),
        ]
        trace = on_grid(readings, [], int(BEGIN), int(BEGIN) + 240, 60)
        self.assertEqual(set(trace.channels), {"flow_temp", "energy"})
        np.testing.assert_array_equal(trace["flow_temp"], [30.0, np.nan, np.nan, np.nan])
        np.testing.assert_array_equal(trace["energy"], [np.nan, 3.6e6, 7.2e6, np.nan])

    def test_a_time_without_offset_is_utc_and_milliseconds_are_seen(self) -> None:
        body = b"2026-01-12T00:00:00 flow_temp 1\n1768176000000 flow_temp 2\n1768176000 flow_temp 3"
        sent = read_batch(body, False, BEGIN + 1)
        self.assertEqual({when for when, _, _ in sent.readings}, {BEGIN})
