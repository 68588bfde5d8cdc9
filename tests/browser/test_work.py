"""Long work in the running application: two at once, and a worker that is killed in the middle."""

import subprocess
import sys
import threading
from io import BytesIO
from pathlib import Path
from unittest import TestCase

import numpy as np
from pyarrow import csv

from stand_ins.catalogue import SCENARIOS
from stand_ins.dialects import write_log
from stand_ins.logger import over_http, play
from tests.browser.stack import DAYS, ROOT, Stack, environment
from tests.core.helpers import simulated

ALL = {"columns": None, "guess": False, "rule": "fill", "remember": None}


class Work(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.stack = Stack()
        cls.addClassCleanup(cls.stack.close)

    def log(self, first_days: int, name: str, length: int = 20) -> Path:
        """A log of the Nursery that begins some days after its record ends."""
        from datetime import timedelta

        first = SCENARIOS["as-rated"].first_day + timedelta(days=DAYS + first_days)
        path = self.stack.var / name
        write_log(simulated("as-rated", days=length, first_day=first, seed=5), path)
        return path

    def job(self, pk: int) -> dict:
        return self.stack.get(f"/api/v1/jobs/{pk}")

    def test_killed_in_the_middle_of_an_import(self) -> None:
        stack = self.stack
        pk = stack.system("Nursery")
        before = stack.get(f"/api/v1/systems/{pk}/imports")
        path = self.log(0, "long.csv", 90)
        upload = stack.post(f"/api/v1/systems/{pk}/uploads", file=path)
        self.assertIsNone(upload["problem"])
        job = stack.post(f"/api/v1/uploads/{upload['upload']}/store", ALL)["id"]
        stack.wait(lambda: self.job(job)["state"] == "running")
        stack.kill("worker")
        stuck = self.job(job)
        self.assertEqual(stuck["state"], "running")
        self.assertIsNone(stuck["stored"])
        self.assertEqual(stack.get(f"/api/v1/systems/{pk}/imports"), before)

        stack.start("worker")
        found = stack.wait(lambda: (j := self.job(job))["state"] == "interrupted" and j)
        self.assertIn("The worker stopped while it was", found["message"])
        self.assertIn("nothing was stored", found["message"])
        self.assertEqual(stack.get(f"/api/v1/systems/{pk}/imports"), before)

        stack.post(f"/api/v1/jobs/{job}/go-on")
        done = stack.wait(lambda: (j := self.job(job))["state"] in ("done", "failed") and j)
        self.assertEqual((done["state"], done["rows"]), ("done", 90 * 1440), done["message"])
        self.assertEqual(len(stack.get(f"/api/v1/systems/{pk}/imports")), len(before) + 1)
        row = next(r for r in stack.get("/api/v1/systems")["rows"] if r["id"] == pk)
        self.assertFalse(row["stale"])

    def test_two_imports_at_once_while_charts_are_read(self) -> None:
        stack = self.stack
        pk = stack.system("School house")
        one, two = self.log(90, "one.csv"), self.log(105, "two.csv")
        failures: list[str] = []
        over = threading.Event()

        def reading() -> None:
            day = "2025-10-20"
            while not over.is_set():
                for room in ("span", "rating", "money"):
                    try:
                        stack.get(f"/api/v1/systems/{pk}/{room}?start={day}&stop={day}")
                    except OSError as error:
                        failures.append(f"{room}: {error}")
                    over.wait(0.05)

        readers = [threading.Thread(target=reading) for _ in range(2)]
        for reader in readers:
            reader.start()
        upload = stack.post(f"/api/v1/systems/{pk}/uploads", file=one)["upload"]
        job = stack.post(f"/api/v1/uploads/{upload}/store", ALL)["id"]
        by_hand = subprocess.run(
            [sys.executable, "manage.py", "readings", "import", "School house", str(two)],
            cwd=ROOT,
            env=environment(stack.var),
            capture_output=True,
            text=True,
            check=False,
        )
        done = stack.wait(lambda: (j := self.job(job))["state"] in ("done", "failed") and j)
        over.set()
        for reader in readers:
            reader.join(30)
        self.assertEqual(by_hand.returncode, 0, by_hand.stderr)
        self.assertEqual(done["state"], "done", done["message"])
        self.assertEqual(failures, [])
        self.assertNotIn("locked", (stack.var / "log.txt").read_text())
        files = {batch["file"] for batch in stack.get(f"/api/v1/systems/{pk}/imports")}
        self.assertLessEqual({"one.csv", "two.csv"}, files)

    def test_a_broken_file_while_others_are_answered(self) -> None:
        stack = self.stack
        pk = stack.system("Workshop")
        before = stack.get(f"/api/v1/systems/{pk}/imports")
        broken = stack.var / "broken.csv"
        broken.write_bytes(b"time;flow\n" + b"what,is;this\n" * 200_000)
        answered: list[bool] = []
        over = threading.Event()

        def others() -> None:
            while not over.is_set():
                answered.append(bool(stack.get("/api/v1/systems")["rows"]))
                over.wait(0.02)

        reader = threading.Thread(target=others)
        reader.start()
        found = stack.post(f"/api/v1/systems/{pk}/uploads", file=broken)
        over.set()
        reader.join(30)
        self.assertIn("broken.csv", found["problem"])
        self.assertTrue(answered and all(answered))
        self.assertEqual(stack.get(f"/api/v1/systems/{pk}/imports"), before)

    def test_killed_in_the_middle_of_live_readings(self) -> None:
        stack = self.stack
        pk = stack.system("Workshop")
        made = stack.post(f"/api/v1/systems/{pk}/loggers", {"name": "cellar"})
        trace = simulated("swapped", days=2).trace()
        count = sum(int(np.isfinite(values).sum()) for values in trace.channels.values())
        begin = 1_767_225_600.0  # 2026-01-01T00:00Z, after the record
        send = over_http(f"{stack.base}/api/v1/ingest", made["token"])
        taken: list[int] = []
        sender = threading.Thread(
            target=lambda: taken.append(play(trace, send, begin, 20_000, 10)), daemon=True
        )
        sender.start()

        def readings() -> int:
            if not stack.answers():
                return 0
            return sum(
                one["readings"] for one in stack.get(f"/api/v1/systems/{pk}/loggers")["rows"]
            )

        for share, what in ((0.2, "web"), (0.5, "worker")):
            stack.wait(lambda share=share: readings() > share * count)
            stack.kill(what)
            stack.start(what)
            stack.wait(stack.answers)
        sender.join(120)
        self.assertEqual(len(taken), 1, "the sender came to its end")

        def folded() -> bool:
            rows = stack.get(f"/api/v1/systems/{pk}/loggers")["rows"]
            return all(one["waiting"] == 0 for one in rows)

        stack.wait(folded)
        address = f"/api/v1/systems/{pk}/readings?start=2026-01-01&stop=2026-01-02&form=csv"
        with stack.opener.open(f"{stack.base}{address}", timeout=60) as answer:
            stored = csv.read_csv(BytesIO(answer.read()))
        self.assertEqual(stored.num_rows, len(trace))
        for channel, values in trace.channels.items():
            column = next(n for n in stored.column_names if n.split(" [")[0] == channel)
            np.testing.assert_allclose(
                stored.column(column).to_numpy(), values, rtol=1e-6, err_msg=channel
            )
