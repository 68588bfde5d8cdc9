"""One file of several units: each column is given to one of them."""

from dataclasses import replace
from pathlib import Path
from tempfile import mkdtemp

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from ember.description.installation import Consumer, ElectricityMeter
from server.readings.store import store, trace_of
from server.systems.models import System
from tests.core.helpers import installation
from tests.server.helpers import signed_in

HEADER = "time,power flat 1 [W],power flat 2 [W],outdoor temp [°C]"


def shared() -> Path:
    """Two days of two units, the second taking half as much again."""
    rng = np.random.default_rng(5)
    rows = [HEADER]
    for k in range(2 * 1440):
        on = (k // 40) % 2
        one = 1200 * on + 12 + rng.normal(0, 3)
        two = 1800 * (1 - on) + 15 + rng.normal(0, 3)
        stamp = f"2026-01-{1 + k // 1440:02d}T{k % 1440 // 60:02d}:{k % 60:02d}:00Z"
        rows.append(f"{stamp},{one:.0f},{two:.0f},{4 + np.sin(k / 229):.1f}")
    path = Path(mkdtemp(prefix="ember-shared-")) / "both.csv"
    path.write_text("\n".join(rows))
    return path


def flat(name: str) -> System:
    meter = ElectricityMeter("plug", "power", (Consumer.COMPRESSOR,))
    bare = installation(name=name)
    return System.describe(
        replace(
            bare,
            electricity=(meter,),
            circuits=(),
            registers=(),
            columns=(),
            consumers=(Consumer.COMPRESSOR,),
        )
    )


class Shared(TestCase):
    def setUp(self) -> None:
        self.client, self.path = signed_in(), shared()

    def drop(self, system: System) -> dict:
        file = SimpleUploadedFile("both.csv", self.path.read_bytes())
        return self.client.post(f"/api/v1/systems/{system.pk}/uploads", {"file": file}).json()

    def test_the_second_unit_gets_what_is_left_and_the_weather(self) -> None:
        first, second = flat("Flat 1"), flat("Flat 2")
        before = self.drop(first)
        self.assertEqual(before["given"], [])
        used = {c["header"]: c["channel"] for c in before["report"]["columns"]}
        self.assertEqual(used["power flat 1 [W]"], "power")
        store(first, self.path)
        after = self.drop(second)
        self.assertEqual(after["given"], [{"header": "power flat 1 [W]", "system": "Flat 1"}])
        used = {c["header"]: c["channel"] for c in after["report"]["columns"]}
        self.assertEqual(used["power flat 2 [W]"], "power")
        self.assertEqual(used["outdoor temp [°C]"], "outdoor_temp")
        self.assertNotIn("power flat 1 [W]", used)
        choice = {"columns": None, "rule": "fill", "remember": None, "guess": False}
        address = f"/api/v1/uploads/{after['upload']}/store"
        self.assertEqual(self.client.post(address, choice, "application/json").status_code, 200)

    def test_what_a_person_chooses_stands(self) -> None:
        first, second = flat("Flat 1"), flat("Flat 2")
        store(first, self.path)
        upload = self.drop(second)["upload"]
        mine = [
            {
                "header": "power flat 1 [W]",
                "channel": "power",
                "unit": None,
                "counts": None,
                "each_row": False,
                "modes": [],
            }
        ]
        look = self.client.post(
            f"/api/v1/uploads/{upload}/preview",
            {"columns": mine, "guess": False},
            "application/json",
        ).json()
        self.assertEqual([c["header"] for c in look["report"]["columns"]], ["power flat 1 [W]"])

    def test_another_file_is_not_shared(self) -> None:
        first, second = flat("Flat 1"), flat("Flat 2")
        store(first, self.path)
        text = self.path.read_text().replace("2026-01", "2025-02")
        self.path.write_text(text)
        self.assertEqual(self.drop(second)["given"], [])
        self.assertGreater(float(trace_of(first)["power"].max()), 1000)
