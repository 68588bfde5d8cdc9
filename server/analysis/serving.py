"""Starting the web server and the worker together, and stopping them together."""

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from django.conf import settings

from server.analysis.problem import Problem

THREADS = 16
# Arrays of that size and more (a year's channel has 4 MB) are given back to the system as soon as
# they are no longer used; smaller ones are kept for the next, which is faster.
GIVEN_BACK = "MALLOC_MMAP_THRESHOLD_={}"
WEB_KEEPS, WORKER_KEEPS = 4_000_000, 1_000_000  # up to [bytes]
WEATHER_STAND_IN = [sys.executable, "-m", "stand_ins.weather_service"]


def free_port(wanted: int) -> int:
    """The port, if nobody listens on it. Raises Problem."""
    with socket.socket() as probe:
        if probe.connect_ex(("127.0.0.1", wanted)) == 0:
            raise Problem(
                f"Port {wanted} is in use, perhaps by a demo that still runs. Stop it, or choose "
                f"another: make demo PORT={wanted + 1}"
            )
    return wanted


def commands(port: int) -> dict[str, list[str]]:
    """How web server and worker are started."""
    return {
        # Many threads, few arenas: what one of them frees, another uses.
        "web": [
            "env", "MALLOC_ARENA_MAX=2", GIVEN_BACK.format(WEB_KEEPS),
            sys.executable, "-m", "gunicorn", "server.wsgi", "--bind", f"127.0.0.1:{port}",
            "--threads", str(THREADS), "--worker-tmp-dir", "/dev/shm", "--no-control-socket",
            "--timeout", "120", "--log-level", "warning",
        ],
        # The worker gives way to who waits for an answer.
        "worker": [
            "env", GIVEN_BACK.format(WORKER_KEEPS), "nice", "-n", "5", sys.executable, "manage.py",
            "run_huey", "--no-periodic", "--quiet",
        ],
    }  # fmt: skip


def serve(port: int, demo: bool) -> None:
    """Runs both until one ends or this process is told to stop."""
    environment = {**os.environ, "EMBER_DEMO": "1" if demo else "0"}
    started = commands(port)
    if demo and "EMBER_WEATHER" not in environment:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            beside = probe.getsockname()[1]
        environment["EMBER_WEATHER"] = f"http://127.0.0.1:{beside}"
        started["weather service"] = [*WEATHER_STAND_IN, "--port", str(beside)]
    running = {
        name: subprocess.Popen(command, cwd=settings.BASE_DIR, env=environment)
        for name, command in started.items()
    }
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        while all(process.poll() is None for process in running.values()):
            time.sleep(0.3)
        ended = next(name for name, process in running.items() if process.poll() is not None)
        raise Problem(f"The {ended} ended by itself; its last lines are above.")
    except KeyboardInterrupt:
        print()
    finally:
        for process in running.values():
            if process.poll() is None:
                process.send_signal(signal.SIGINT if "run_huey" in process.args else signal.SIGTERM)  # type: ignore[operator]
        for process in running.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()


def memory(pid: int) -> float:
    """Memory that a process holds now [MB]."""
    status = Path(f"/proc/{pid}/status").read_text()
    line = next(line for line in status.splitlines() if line.startswith("VmRSS"))
    return int(line.split()[1]) / 1024
