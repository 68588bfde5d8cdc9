"""Outdoor weather from the service: what is lacking is filled, what is measured stays."""

import json
import threading
from dataclasses import replace
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from unittest import mock

import numpy as np
from django.conf import settings
from django.test import TransactionTestCase

from ember.description.installation import Location
from server.jobs.models import Job
from server.jobs.running import perform
from server.readings.models import Import, Upload
from server.readings.store import store, trace_of
from stand_ins.weather_service import Service, hourly
from tests.server.helpers import described, log, part, signed_in, system

PLACE = Location(54.1, -3.2)


class Odd(BaseHTTPRequestHandler):
    """Answers what it should not."""

    said = b"{}"

    def do_GET(self) -> None:
        self.send_response(200)
        self.end_headers()
        self.wfile.write(self.said)

    def log_message(self, format: str, *args: object) -> None:
        pass


class WeatherService(TransactionTestCase):
    def setUp(self) -> None:
        self.client = signed_in()
        self.system = system(days=12)
        self.system.put(replace(described(days=12), location=PLACE), None)
        self.path = f"/api/v1/systems/{self.system.pk}/weather"
        enqueue = mock.patch("server.jobs.queueing.queue")
        enqueue.start()
        self.addCleanup(enqueue.stop)

    def serve(self, handler: type[BaseHTTPRequestHandler]) -> None:
        service = ThreadingHTTPServer(("127.0.0.1", 0), handler)
        threading.Thread(target=service.serve_forever, daemon=True).start()
        self.addCleanup(service.server_close)
        self.addCleanup(service.shutdown)
        address = mock.patch.object(settings, "WEATHER", f"http://127.0.0.1:{service.server_port}")
        address.start()
        self.addCleanup(address.stop)

    def without_outdoors(self) -> Path:
        """A log whose second half has no outdoor temperature."""
        path = part(log("as-rated", 12), 0, 8000, "half.csv")
        lines = path.read_text().splitlines()
        at = lines[0].split(",").index("outdoor_temp_c")
        for k in range(4000, len(lines)):
            cells = lines[k].split(",")
            cells[at] = ""
            lines[k] = ",".join(cells)
        path.write_text("\n".join(lines) + "\n")
        return path

    def fetch(self) -> Job:
        answer = self.client.post(self.path).json()
        perform(answer["id"])
        return Job.objects.get(pk=answer["id"])

    def test_what_is_lacking_is_filled_and_what_is_measured_stays(self) -> None:
        self.serve(Service)
        store(self.system, self.without_outdoors())
        before = trace_of(self.system)
        said = self.client.get(self.path).json()
        self.assertAlmostEqual(said["known"], 0.5, places=2)
        self.assertIsNone(said["reason"])
        job = self.fetch()
        self.assertEqual(job.state, Job.State.DONE, job.message)
        after = trace_of(self.system)
        known = np.isfinite(before["outdoor_temp"])
        shift = (before.start - after.start) // after.step
        now = after["outdoor_temp"][shift : shift + len(before)]
        np.testing.assert_array_equal(now[known], before["outdoor_temp"][known])
        self.assertGreater(np.isfinite(now).mean(), 0.99)
        # Each hour as the service gave it.
        hours = hourly(54.1, -3.2, before.start + 5500 * 60, before.start + 6500 * 60)
        from datetime import datetime

        for hour in hours:
            cell = after.cell(datetime.fromisoformat(str(hour["time"])).timestamp())
            self.assertAlmostEqual(after["outdoor_temp"][cell], hour["temp"], places=4)
        self.assertEqual(Upload.objects.count(), 0, "the file is forgotten")
        batch = Import.objects.latest("pk")
        self.assertIn("weather of", batch.file)
        again = self.fetch()
        self.assertEqual(again.state, Job.State.DONE)
        self.assertEqual(again.result["already"], batch.pk)

    def test_why_none_can_be_fetched(self) -> None:
        self.assertIn(
            "no readings are stored", self.client.get(self.path).json()["reason"]["sentence"]
        )
        store(self.system, self.without_outdoors())
        self.assertIn("no weather service", self.client.get(self.path).json()["reason"]["sentence"])
        self.serve(Service)
        self.system.put(replace(described(days=12), location=None), None)
        self.assertIn("no place", self.client.get(self.path).json()["reason"]["sentence"])
        self.assertEqual(self.client.post(self.path).status_code, 422)

    def test_a_service_that_fails_leaves_nothing(self) -> None:
        self.serve(Odd)
        store(self.system, self.without_outdoors())
        hour = {"time": "2025-10-01T00:00:00Z", "temp": "mild", "humidity": 50}
        for said, words in (
            (b"{}", "does not answer as it should"),
            (b"nonsense", "does not answer as it should"),
            (json.dumps({"hours": [hour]}).encode(), "an hour that is none"),
            (json.dumps({"hours": []}).encode(), "knows nothing of that time"),
        ):
            with mock.patch.object(Odd, "said", said):
                job = self.fetch()
            self.assertEqual(job.state, Job.State.FAILED)
            self.assertIn(words, job.message)
        with mock.patch.object(settings, "WEATHER", "http://127.0.0.1:9"):
            self.assertIn("does not answer", self.fetch().message)
        self.assertEqual((Import.objects.count(), Upload.objects.count()), (1, 0))
