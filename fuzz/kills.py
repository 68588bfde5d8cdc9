"""Processes that are killed (−9) in the middle of their work: nothing acknowledged is lost, nothing
is stored twice, and what was begun can be gone on with."""

import hashlib
import json
import random
import threading
import time
import urllib.error
import urllib.request
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from fuzz.stack import Stack

BEGIN = 1_769_904_000  # 2026-02-01, behind what is stored [s]
LARGE = 66 << 20  # of a log that is staged [bytes]
PATIENCE = 180  # [s]
CHOICE = {"columns": None, "guess": True, "rule": "fill", "remember": None}


@dataclass
class Result:
    """What came of it."""

    killed: int = 0
    in_work: int = 0
    acknowledged: int = 0
    failures: list[str] = field(default_factory=list)


def large_log(path: Path) -> Path:
    """A log of some weeks, every five seconds, large enough to be staged."""
    with path.open("w") as file:
        file.write("time,flow_temp [°C],return_temp [°C],flow_rate [l/min],power:unit [W]\n")
        k = 0
        while file.tell() < LARGE:
            rows = [
                f"{_stamp(BEGIN + 5 * j)},{35 + j % 7 / 2},{30 + j % 5 / 2},18.5,{1500 + j % 900}"
                for j in range(k, k + 5000)
            ]
            file.write("\n".join(rows) + "\n")
            k += 5000
    return path


def _stamp(instant: int) -> str:
    return time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime(instant))


class Jobs:
    """Kills the worker while it does jobs of each kind."""

    def __init__(self, stack: Stack, chance: int) -> None:
        self.stack, self.draw, self.found = stack, random.Random(chance), Result()

    def run(self, name: str, log: Path, rounds: int) -> Result:
        """As many rounds: a log in, out and back in, figures, an archive, a proposal."""
        stack = self.stack
        whole = self.reference(name, log)
        for k in range(rounds):
            pk = self.again(name, f"{name}, {log.stem} {k}")
            sent = stack.post(f"/api/v1/systems/{pk}/uploads", file=log)
            if sent.get("opening"):
                self.killed(sent["opening"])
            job = self.killed(stack.post(f"/api/v1/uploads/{sent['upload']}/store", CHOICE))
            self.same(pk, whole, "imported")
            self.killed(stack.post(f"/api/v1/imports/{job['stored']}/undo"))
            self.killed(stack.post(f"/api/v1/imports/{job['stored']}/redo"))
            self.same(pk, whole, "put back")
            self.killed(stack.post(f"/api/v1/systems/{pk}/figures", method="PUT"), pk)
            self.archived(pk, f"{name}, {log.stem} {k}", whole)
            proposal = stack.post("/api/v1/proposal", file=log)
            found = self.killed(proposal)
            if not stack.get(f"/api/v1/jobs/{found['id']}/proposal")["columns"]:
                self.found.failures.append(f"proposal {found['id']}: without columns")
        return self.found

    def archived(self, pk: int, called: str, whole: str) -> None:
        """A system out as an archive, away, and in again while the worker is killed."""
        stack = self.stack
        path = stack.var / "one.zip"
        with stack.opener.open(
            f"{stack.base}/api/v1/systems/{pk}/archive", timeout=PATIENCE
        ) as out:
            path.write_bytes(out.read())
        for one in stack.get(f"/api/v1/systems/{pk}/imports"):
            if one["state"] == "stored":
                self.over(stack.post(f"/api/v1/imports/{one['id']}/undo")["id"])
        stack.post(f"/api/v1/systems/{pk}", method="DELETE")
        self.killed(stack.post("/api/v1/archive", file=path, field="archive"))
        self.same(stack.system(called), whole, "brought in")

    def reference(self, name: str, log: Path) -> str:
        """The readings of a log that nobody disturbs."""
        pk = self.again(name, f"{name}, {log.stem} undisturbed")
        sent = self.stack.post(f"/api/v1/systems/{pk}/uploads", file=log)
        if sent.get("opening"):
            self.over(sent["opening"]["id"])
        self.over(self.stack.post(f"/api/v1/uploads/{sent['upload']}/store", CHOICE)["id"])
        return self.digest(pk)

    def again(self, name: str, called: str) -> int:
        """An empty system described as another is."""
        described = self.stack.get(f"/api/v1/systems/{self.stack.system(name)}/setup")[
            "description"
        ]
        made = self.stack.post("/api/v1/systems/begun", {"name": called, "zone": described["zone"]})
        if "id" not in made:
            raise AssertionError(made)
        draft = {"description": {**described, "name": called, "columns": []}, "based_on": None}
        self.stack.post(f"/api/v1/systems/{made['id']}/setup", draft, method="PUT")
        return int(made["id"])

    def killed(self, job: dict[str, Any], pk: int | None = None) -> dict[str, Any]:
        """A job during which the worker is killed, mostly in the middle of it; gone on with."""
        key = self.stack.get(f"/api/v1/systems/{pk}/jobs")[0]["id"] if pk else job["id"]
        until = time.monotonic() + self.draw.choice((0.0, 10.0, 10.0, 10.0))
        while time.monotonic() < until:
            if self.stack.get(f"/api/v1/jobs/{key}")["state"] != "waiting":
                break
            time.sleep(0.02)
        time.sleep(self.draw.choice((0.0, self.draw.uniform(0, 0.4), self.draw.uniform(0, 4))))
        self.found.in_work += self.stack.get(f"/api/v1/jobs/{key}")["state"] == "running"
        self.stack.kill("worker")
        self.stack.start("worker")
        self.found.killed += 1
        return self.over(key)

    def over(self, key: int) -> dict[str, Any]:
        """A job when it is done, gone on with where it was interrupted."""
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            job = self.stack.get(f"/api/v1/jobs/{key}")
            if job["state"] == "interrupted":
                self.stack.post(f"/api/v1/jobs/{key}/go-on")
            elif job["state"] == "done":
                return dict(job)
            elif job["state"] in ("failed", "cancelled"):
                self.found.failures.append(f"{job['title']}: {job['message']}")
                return dict(job)
            time.sleep(0.1)
        self.found.failures.append(f"job {key}: not over after {PATIENCE} s: {job}")
        return dict(job)

    def digest(self, pk: int) -> str:
        """Of all readings of a system, and how many rows they are."""
        path = f"/api/v1/systems/{pk}/readings?start=2025-01-01&stop=2027-01-01&form=csv"
        with self.stack.opener.open(f"{self.stack.base}{path}", timeout=PATIENCE) as answer:
            content = answer.read()
        rows = len(content.splitlines())
        return f"{rows} rows, {hashlib.sha256(content).hexdigest()[:12]}"

    def same(self, pk: int, whole: str, what: str) -> None:
        """Notes where the readings are others than those of the undisturbed log."""
        now = self.digest(pk)
        if now != whole:
            self.found.failures.append(f"system {pk}, {what}: {now} instead of {whole}")


def senders(stack: Stack, name: str, loggers: int, batches: int, chance: int) -> Result:
    """Kills web server and worker while loggers send; each sends until it is acknowledged."""
    found, draw = Result(), random.Random(chance)
    pk = stack.system(name)
    tokens = [
        stack.post(f"/api/v1/systems/{pk}/loggers", {"name": f"logger {k}"})["token"]
        for k in range(loggers)
    ]
    threads = [
        threading.Thread(target=_send, args=(stack, token, k, batches, found))
        for k, token in enumerate(tokens)
    ]
    for thread in threads:
        thread.start()
    while any(thread.is_alive() for thread in threads):
        time.sleep(draw.uniform(2.0, 6.0))
        what = draw.choice(("web", "worker"))
        stack.kill(what)
        stack.start(what)
        found.killed += 1
    for thread in threads:
        thread.join()
    stack.wait(stack.answers)
    rows = stack.wait(lambda: _folded(stack, pk), PATIENCE)
    for row in rows:
        if row["readings"] != batches:
            found.failures.append(f"{row['name']}: {row['readings']} readings of {batches}")
    found.acknowledged = loggers * batches
    return found


def _folded(stack: Stack, pk: int) -> list[dict[str, Any]]:
    """The loggers, once none of their batches waits; else nothing."""
    rows = stack.get(f"/api/v1/systems/{pk}/loggers")["rows"]
    return [] if any(row["waiting"] for row in rows) else list(rows)


def _send(stack: Stack, token: str, logger: int, batches: int, found: Result) -> None:
    for k in range(batches):
        reading = {"time": BEGIN + 60 * k, f"power:l{logger}": 1000 + k}
        body = json.dumps({"batch": f"b{k}", "readings": [reading]}).encode()
        head = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            request = urllib.request.Request(f"{stack.base}/api/v1/ingest", body, head)
            try:
                urllib.request.urlopen(request, timeout=20).read()
                break
            except urllib.error.HTTPError as error:
                if error.code not in (429, 503, 507):
                    found.failures.append(f"batch {k}: {error.code} {error.read(200)!r}")
                    return
            except OSError:  # the server is being killed
                time.sleep(0.05)
        else:
            found.failures.append(f"batch {k}: never acknowledged")
            return
