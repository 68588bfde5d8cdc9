"""A full disk, on a small one of its own: what is refused; and all goes on once there is room."""

import json
import os
import subprocess
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from fuzz.stack import Stack

SIZE = "192m"
PATIENCE = 150  # [s]: what is left behind is taken up within two minutes


@contextmanager
def small_disk() -> Iterator[Path | None]:
    """A small disk in memory; None where this machine lets nobody mount one."""
    with tempfile.TemporaryDirectory(prefix="ember-disk-") as folder:
        mount = ["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "tmpfs", folder]
        if os.geteuid() or subprocess.run(mount, capture_output=True, check=False).returncode:
            yield None
            return
        try:
            yield Path(folder)
        finally:
            subprocess.run(["umount", "-l", folder], check=False)


def filled(folder: Path) -> Path:
    """A file that takes all the room that is left."""
    path = folder / "filler"
    with path.open("wb", buffering=0) as file:
        for size in (1 << 20, 4096, 1):
            try:
                while True:
                    file.write(b"\0" * size)
            except OSError:
                continue
    return path


def fill_up(name: str, log: Path) -> list[str] | None:
    """What went wrong while the disk was full and after it; None where none could be mounted."""
    with small_disk() as folder:
        if folder is None:
            return None
        stack = Stack(folder / "var")
        try:
            return _filled(stack, folder, name, log)
        finally:
            stack.close()


def _filled(stack: Stack, folder: Path, name: str, log: Path) -> list[str]:
    failures: list[str] = []
    pk = stack.system(name)
    made = stack.post(f"/api/v1/systems/{pk}/loggers", {"name": "logger"})
    batch(stack, made["token"], 0)
    filler = filled(folder)
    acknowledged = 1
    for k in range(1, 40):
        status, said = batch(stack, made["token"], k)
        acknowledged += status == 200
        if status not in (200, 507):
            failures.append(f"batch {k}: {status} {said}")
    note = {"id": None, "time": "", "kind": "noise", "note": "x" * 2000, "photo": ""}
    note |= {"cost": None, "done_by": ""}
    refused = 0
    for _ in range(60):
        said = stack.post(f"/api/v1/systems/{pk}/observations", note)
        refused += "disk is full" in said.get("detail", "")
        if "detail" in said and "disk is full" not in said["detail"]:
            failures.append(f"a note: {said}")
    sent = stack.post(f"/api/v1/systems/{pk}/uploads", file=log)
    if "disk is full" not in sent.get("detail", ""):
        failures.append(f"an upload: {json.dumps(sent)[:300]}")
    left = [p for p in (folder / "var" / "uploads").rglob("*") if p.is_file()]
    if left:
        failures.append(f"parts of files stay: {left}")
    if not refused:
        failures.append("no note was ever refused; was the disk full?")
    visitor = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    try:
        visitor.open(f"{stack.base}/api/v1/systems", timeout=20)
    except urllib.error.HTTPError as error:
        if error.code not in (401, 507):
            failures.append(f"a visitor: {error.code}")
    filler.unlink()
    for k in range(40):  # those that were not taken come again
        status, said = batch(stack, made["token"], k)
        if status != 200:
            failures.append(f"batch {k} after it: {status} {said}")
    until = time.monotonic() + PATIENCE
    row: dict[str, Any] = {}
    while time.monotonic() < until:
        row = next(
            r for r in stack.get(f"/api/v1/systems/{pk}/loggers")["rows"] if r["name"] == "logger"
        )
        if not row["waiting"]:
            break
        time.sleep(0.5)
    if row["waiting"] or row["readings"] != 40:
        failures.append(
            f"after it: {row['waiting']} batches wait, {row['readings']} of 40 readings"
        )
    sent = stack.post(f"/api/v1/systems/{pk}/uploads", file=log)
    if not sent.get("upload"):
        failures.append(f"an upload after it: {json.dumps(sent)[:300]}")
    return failures


def batch(stack: Stack, token: str, k: int) -> tuple[int, str]:
    """What one reading is answered with."""
    reading = {"time": 1_769_904_000 + 60 * k, "power:live": 1000 + k}
    body = json.dumps({"batch": f"b{k}", "readings": [reading]}).encode()
    head = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
    try:
        with urllib.request.urlopen(
            urllib.request.Request(f"{stack.base}/api/v1/ingest", body, head), timeout=60
        ) as answer:
            return answer.status, ""
    except urllib.error.HTTPError as error:
        return error.code, error.read(300).decode()
