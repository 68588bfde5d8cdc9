"""The whole application as `make demo` starts it, with its own data, for the tests to drive."""

import atexit
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

from server.accounts.demo import entrance
from server.jobs.serving import commands

ROOT = Path(__file__).resolve().parents[2]
DAYS = 45
SHOWN: tuple[str, ...] = (
    "as-rated", "below-rated", "air", "swapped", "offset", "electricity-only", "other-loads",
    "gauges", "heads", "one-meter", "by-hand", "display", "table", "tank",
)  # fmt: skip


def prepared() -> Path:
    """A folder with the demo's data of some weeks, made once a process and copied from then on; or
    once for all of them, where EMBER_STACK says where that lies."""
    given = os.environ.get("EMBER_STACK")
    base = Path(given or f"{tempfile.gettempdir()}/ember-stack-{os.getppid()}-{os.getpid()}")
    if not (base / "ready").exists():
        if not given:
            atexit.register(shutil.rmtree, base, ignore_errors=True)
        make(base)
    copy = Path(tempfile.mkdtemp(prefix="ember-stack-"))
    shutil.copytree(base, copy, dirs_exist_ok=True)
    return copy


def make(base: Path) -> None:
    """Makes the demo's data of some weeks."""
    shutil.rmtree(base, ignore_errors=True)
    base.mkdir(parents=True)
    run(base, "demo", "--prepare", "--days", str(DAYS), "--only", *SHOWN)
    run(base, "collectstatic", "--noinput", "-v0")
    (base / "ready").touch()


def environment(var: Path) -> dict[str, str]:
    """Variables of a process that works on a folder's data."""
    return {
        **os.environ,
        "EMBER_VAR": str(var),
        "DJANGO_SETTINGS_MODULE": "server.settings.demo",
        "PYTHONHASHSEED": "0",
    }


def run(var: Path, *command: str) -> str:
    """A management command on a folder's data; its output."""
    done = subprocess.run(
        [sys.executable, "manage.py", *command],
        cwd=ROOT,
        env=environment(var),
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise AssertionError(f"{command}: {done.stderr}")
    return done.stdout


class Stack:
    """Web server and worker over a copy of the demo's data."""

    def __init__(self, folder: Path | None = None) -> None:
        """folder : where the data is to lie; None: somewhere temporary."""
        self.var = prepared()
        if folder is not None:
            shutil.copytree(self.var, folder, dirs_exist_ok=True)
            shutil.rmtree(self.var)
            self.var = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.base = f"http://127.0.0.1:{self.port}"
        self.log = (self.var / "log.txt").open("w")
        self.running: dict[str, subprocess.Popen[bytes]] = {}
        for what in ("web", "worker"):
            self.start(what)
        jar = urllib.request.HTTPCookieProcessor(CookieJar())
        self.opener = urllib.request.build_opener(jar)
        self.jar = jar.cookiejar
        self.wait(lambda: self.answers())
        self.opener.open(self.entrance(), timeout=30).read()

    def entrance(self) -> str:
        """An address that signs a browser in."""
        return entrance(self.base, self.var)

    def start(self, what: str) -> None:
        """Starts the web server or the worker."""
        self.running[what] = subprocess.Popen(
            commands(self.port)[what],
            cwd=ROOT,
            env=environment(self.var),
            stdout=self.log,
            stderr=self.log,
        )

    def kill(self, what: str) -> None:
        """kill −9, its children with it: a web server's would go on answering."""
        process = self.running[what]
        children = Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
        process.kill()
        process.wait()
        for child in children:
            os.kill(int(child), signal.SIGKILL)
        self.wait(lambda: not any(Path(f"/proc/{child}").exists() for child in children))

    def close(self) -> None:
        """Ends what was started, and forgets its data."""
        for process in self.running.values():
            if process.poll() is None:
                process.terminate()
        for process in self.running.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
        self.log.close()
        shutil.rmtree(self.var, ignore_errors=True)

    def answers(self) -> bool:
        """Whether somebody answers."""
        try:
            self.get("/api/v1/me")
        except OSError:
            return False
        return True

    def wait(self, done: Any, seconds: float = 60.0) -> Any:
        """Waits for something to be true; what it is then."""
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            found = done()
            if found:
                return found
            time.sleep(0.05)
        raise AssertionError(f"waited {seconds} s in vain; {(self.var / 'log.txt').read_text()}")

    def get(self, path: str) -> Any:
        """The JSON of an address."""
        with self.opener.open(f"{self.base}{path}", timeout=30) as answer:
            return json.loads(answer.read())

    def post(
        self,
        path: str,
        body: Any = None,
        file: Path | None = None,
        field: str = "file",
        method: str = "POST",
    ) -> Any:
        """The JSON that comes of a request; of a refusal, too."""
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        headers = {"X-CSRFToken": token or ""}
        if file is not None:
            edge = "ember-edge"
            head = (
                f'--{edge}\r\nContent-Disposition: form-data; name="{field}"; '
                f'filename="{file.name}"\r\n\r\n'
            )
            data = head.encode() + file.read_bytes() + f"\r\n--{edge}--\r\n".encode()
            headers["Content-Type"] = f"multipart/form-data; boundary={edge}"
        else:
            data = json.dumps(body or {}).encode()
            headers["Content-Type"] = "application/json"
        request = urllib.request.Request(f"{self.base}{path}", data, headers, method=method)
        try:
            with self.opener.open(request, timeout=60) as answer:
                return json.loads(answer.read())
        except urllib.error.HTTPError as refusal:
            return json.loads(refusal.read())

    def system(self, name: str) -> int:
        """The key of a system."""
        rows = self.get("/api/v1/systems")["rows"]
        return int(next(row["id"] for row in rows if row["system"]["name"] == name))


if __name__ == "__main__":
    make(Path(sys.argv[1]))
