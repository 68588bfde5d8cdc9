"""Long work in the running application: two at once, and a worker that is killed in the middle."""

import subprocess
import sys
import threading
from pathlib import Path
from unittest import TestCase

from stand_ins.catalogue import SCENARIOS
from stand_ins.dialects import write_log
from tests.browser.stack import DAYS, ROOT, Stack, environment
from tests.core.helpers import simulated

ALL = {"columns": None, "guess": False, "rule": "fill", "remember": None}


class Work(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.stack = Stack()
        cls.addClassCleanup(cls.stack.close)

    def log(self, first_days: int, name: str, length: int = 40) -> Path:
        """A log of the Nursery that begins some days after its record ends."""
        from datetime import timedelta

        first = SCENARIOS["as-rated"].first_day + timedelta(days=DAYS + first_days)
        path = self.stack.var / name
        write_log(simulated("as-rated", days=length, first_day=first, seed=5), path)
        return path

    def job(self, pk: int) -> dict:
        return self.stack.get(f"/api/jobs/{pk}")

    def test_killed_in_the_middle_of_an_import(self) -> None:
        stack = self.stack
        pk = stack.system("Nursery")
        before = stack.get(f"/api/systems/{pk}/imports")
        path = self.log(0, "long.csv", 150)
        upload = stack.post(f"/api/systems/{pk}/uploads", file=path)
        self.assertIsNone(upload["problem"])
        job = stack.post(f"/api/uploads/{upload['upload']}/store", ALL)["id"]
        stack.wait(lambda: self.job(job)["state"] == "running")
        stack.kill("worker")
        stuck = self.job(job)
        self.assertEqual(stuck["state"], "running")
        self.assertIsNone(stuck["stored"])
        self.assertEqual(stack.get(f"/api/systems/{pk}/imports"), before)

        stack.start("worker")
        found = stack.wait(lambda: (j := self.job(job))["state"] == "interrupted" and j)
        self.assertIn("The worker stopped while it was", found["message"])
        self.assertIn("nothing was stored", found["message"])
        self.assertEqual(stack.get(f"/api/systems/{pk}/imports"), before)

        stack.post(f"/api/jobs/{job}/go-on")
        done = stack.wait(lambda: (j := self.job(job))["state"] in ("done", "failed") and j)
        self.assertEqual((done["state"], done["rows"]), ("done", 150 * 1440), done["message"])
        self.assertEqual(len(stack.get(f"/api/systems/{pk}/imports")), len(before) + 1)
        row = next(r for r in stack.get("/api/systems")["rows"] if r["id"] == pk)
        self.assertFalse(row["stale"])

    def test_two_imports_at_once_while_charts_are_read(self) -> None:
        stack = self.stack
        pk = stack.system("School house")
        one, two = self.log(200, "one.csv"), self.log(230, "two.csv")
        failures: list[str] = []
        over = threading.Event()

        def reading() -> None:
            day = "2025-10-20"
            while not over.is_set():
                for room in ("span", "rating", "money"):
                    try:
                        stack.get(f"/api/systems/{pk}/{room}?start={day}&stop={day}")
                    except OSError as error:
                        failures.append(f"{room}: {error}")

        readers = [threading.Thread(target=reading) for _ in range(2)]
        for reader in readers:
            reader.start()
        upload = stack.post(f"/api/systems/{pk}/uploads", file=one)["upload"]
        job = stack.post(f"/api/uploads/{upload}/store", ALL)["id"]
        by_hand = subprocess.run(
            [sys.executable, "manage.py", "logbook", "import", "School house", str(two)],
            cwd=ROOT, env=environment(stack.var), capture_output=True, text=True, check=False,
        )  # fmt: skip
        done = stack.wait(lambda: (j := self.job(job))["state"] in ("done", "failed") and j)
        over.set()
        for reader in readers:
            reader.join(30)
        self.assertEqual(by_hand.returncode, 0, by_hand.stderr)
        self.assertEqual(done["state"], "done", done["message"])
        self.assertEqual(failures, [])
        self.assertNotIn("locked", (stack.var / "log.txt").read_text())
        files = {batch["file"] for batch in stack.get(f"/api/systems/{pk}/imports")}
        self.assertLessEqual({"one.csv", "two.csv"}, files)

    def test_a_broken_file_while_others_are_answered(self) -> None:
        stack = self.stack
        pk = stack.system("Workshop")
        before = stack.get(f"/api/systems/{pk}/imports")
        broken = stack.var / "broken.csv"
        broken.write_bytes(b"time;flow\n" + b"what,is;this\n" * 200_000)
        answered: list[bool] = []
        over = threading.Event()

        def others() -> None:
            while not over.is_set():
                answered.append(bool(stack.get("/api/systems")["rows"]))

        reader = threading.Thread(target=others)
        reader.start()
        found = stack.post(f"/api/systems/{pk}/uploads", file=broken)
        over.set()
        reader.join(30)
        self.assertIn("broken.csv", found["problem"])
        self.assertTrue(answered and all(answered))
        self.assertEqual(stack.get(f"/api/systems/{pk}/imports"), before)
