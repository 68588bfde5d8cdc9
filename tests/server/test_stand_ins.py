"""The stand-ins do what they stand in for: a logger waits and repeats, a service has weather."""

import json
import threading
import urllib.error
import urllib.request
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import ClassVar
from unittest import TestCase, mock

import numpy as np

from ember.basis.series import Trace
from stand_ins.logger import over_http, play, rows
from stand_ins.weather_service import Service
from tests.core.helpers import simulated


class Endpoint(BaseHTTPRequestHandler):
    """Takes batches; first it is asked to wait, then it hangs up."""

    said: ClassVar[list[int]] = []
    taken: ClassVar[list[dict]] = []

    def do_POST(self) -> None:
        body = self.rfile.read(int(self.headers["Content-Length"]))
        status = self.said.pop(0) if self.said else 200
        if status == 0:
            self.connection.close()
            return
        self.send_response(status)
        if status == 429:
            self.send_header("Retry-After", "0")
        self.end_headers()
        if status == 200:
            batch = json.loads(body)
            self.taken.append(batch)
            self.wfile.write(json.dumps({"accepted": len(batch["readings"])}).encode())
        else:
            self.wfile.write(b'{"detail": "no"}')

    def log_message(self, format: str, *args: object) -> None:
        pass


class StandIns(TestCase):
    def serve(self, handler: type[BaseHTTPRequestHandler]) -> str:
        service = ThreadingHTTPServer(("127.0.0.1", 0), handler)
        threading.Thread(target=service.serve_forever, daemon=True).start()
        self.addCleanup(service.server_close)
        self.addCleanup(service.shutdown)
        return f"http://127.0.0.1:{service.server_port}"

    def test_a_logger_sends_again_until_it_is_taken_under_the_same_key(self) -> None:
        address = self.serve(Endpoint)
        Endpoint.said[:], Endpoint.taken[:] = [429, 0, 429], []
        whole = simulated("as-rated", days=2).trace()
        trace = Trace(whole.start, whole.step, {c: v[:12] for c, v in whole.channels.items()})
        with mock.patch("stand_ins.logger.time.sleep"):
            taken = play(trace, over_http(address, "token"), 1000.0, 1e9, 5)
        self.assertEqual(taken, 12)
        keys = [batch["batch"] for batch in Endpoint.taken]
        self.assertEqual(len(keys), len(set(keys)))
        times = [row["time"] for batch in Endpoint.taken for row in batch["readings"]]
        self.assertEqual(times, [1000.0 + 60 * k for k in range(12)])

    def test_a_logger_that_is_refused_stops_and_says_why(self) -> None:
        address = self.serve(Endpoint)
        Endpoint.said[:] = [401]
        with self.assertRaisesRegex(SystemExit, "refused"):
            over_http(address, "token")([{"time": 0.0, "flow_temp": 1.0}])

    def test_rows_leave_out_what_is_not_known(self) -> None:
        trace = Trace(0, 60, {"flow_temp": np.array([30.0, np.nan]), "power": np.array([1.0, 2.0])})
        self.assertEqual(
            list(rows(trace, 100.0)),
            [{"time": 100.0, "flow_temp": 30.0, "power": 1.0}, {"time": 160.0, "power": 2.0}],
        )

    def ask(self, base: str, query: str) -> dict:
        with urllib.request.urlopen(f"{base}/hourly?{query}") as answer:
            return json.loads(answer.read())

    def test_the_weather_service_has_the_same_weather_each_time(self) -> None:
        base = self.serve(Service)
        span = "start=2026-01-01T00:30:00Z&stop=2026-01-02T00:00:00Z"
        one = self.ask(base, f"latitude=52&longitude=-20&{span}")["hours"]
        self.assertEqual(one, self.ask(base, f"latitude=52&longitude=-20&{span}")["hours"])
        self.assertNotEqual(one, self.ask(base, f"latitude=58&longitude=-20&{span}")["hours"])
        self.assertEqual((one[0]["time"], len(one)), ("2026-01-01T01:00:00Z", 23))
        for hour in one:
            self.assertTrue(-30 < hour["temp"] < 40 and 0 <= hour["humidity"] <= 100)
        years = "start=2020-01-01T00:00:00Z&stop=2026-01-01T00:00:00Z"
        for wrong in (
            "latitude=52",
            f"latitude=x&longitude=0&{span}",
            f"latitude=1&longitude=1&{years}",
        ):
            with self.assertRaises(urllib.error.HTTPError) as refused:
                self.ask(base, wrong)
            self.assertIn("detail", json.loads(refused.exception.read()))
