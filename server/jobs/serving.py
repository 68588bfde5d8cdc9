"""Starting the web server and the worker together, and stopping them together."""

import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from django.conf import settings

from server.jobs.alone import alone, ends_with
from server.jobs.problem import CommandProblem

# ends of a process within so many seconds, after which it is given up
SERVING_OFTEN, SERVING_WITHIN = 5, 60.0
REFUSED = 2  # exit code of a command that may not begin, server.jobs.problem
# Arrays of that size and more (a year's channel has 4 MB) are given back to the system as soon as
# they are no longer used; smaller ones are kept for the next, which is faster.
GIVEN_BACK = "MALLOC_MMAP_THRESHOLD_={}"
WEB_KEEPS, WORKER_KEEPS = 4_000_000, 1_000_000  # up to [bytes]
WEATHER_STAND_IN = [sys.executable, "-m", "stand_ins.weather_service"]


def free_port(wanted: int) -> int:
    """The port, if nobody listens on it. Raises Problem."""
    with socket.socket() as probe:
        if probe.connect_ex(("127.0.0.1", wanted)) == 0:
            raise CommandProblem(
                f"Port {wanted} is in use, perhaps by a demo that still runs. Stop it, or choose "
                f"another: make demo PORT={wanted + 1}"
            )
    return wanted


def commands(port: int) -> dict[str, list[str]]:
    """How web server and worker are started."""
    return {
        # Many threads, few arenas: what one of them frees, another uses.
        "web": [
            "env",
            "MALLOC_ARENA_MAX=2",
            GIVEN_BACK.format(WEB_KEEPS),
            sys.executable,
            "-m",
            "gunicorn",
            "server.wsgi",
            "--config",
            "python:server.gunicorn",
            "--bind",
            f"127.0.0.1:{port}",
        ],
        # The worker gives way to who waits for an answer.
        "worker": [
            "env",
            GIVEN_BACK.format(WORKER_KEEPS),
            "nice",
            "-n",
            "5",
            sys.executable,
            "manage.py",
            "run_huey",
            "--quiet",
        ],
    }


def serve(port: int, demo: bool) -> None:
    """Runs both until this process is told to stop. Raises Problem where another server works on
    the data, or where one of them can't be kept running."""
    kind = "demo" if demo else "production"
    environment = {**os.environ, "DJANGO_SETTINGS_MODULE": f"server.settings.{kind}"}
    started = commands(port)
    if demo and "EMBER_WEATHER" not in environment:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            beside = probe.getsockname()[1]
        environment["EMBER_WEATHER"] = f"http://127.0.0.1:{beside}"
        started["weather service"] = [*WEATHER_STAND_IN, "--port", str(beside)]
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    with alone("server"):
        watch(started, environment)


def watch(started: dict[str, list[str]], environment: dict[str, str]) -> None:
    """Starts processes, and starts again what ends by itself, until this process is interrupted.

    Raises Problem for one that was refused, or that ends again and again.
    """
    running: dict[str, subprocess.Popen[bytes]] = {}
    ends: dict[str, list[float]] = {name: [] for name in started}
    try:
        while True:
            for name, command in started.items():
                ended = running[name].poll() if name in running else 0
                if name not in running:
                    running[name] = _begun(command, environment)
                elif ended is not None:
                    now = time.monotonic()
                    ends[name] = [t for t in ends[name] if now - t < SERVING_WITHIN] + [now]
                    if ended == REFUSED or len(ends[name]) > SERVING_OFTEN:
                        raise CommandProblem(
                            f"The {name} can't be kept running; see the lines above."
                        )
                    print(f"The {name} ended by itself and is started again.", file=sys.stderr)
                    running[name] = _begun(command, environment)
            time.sleep(0.3)
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


def _begun(command: list[str], environment: dict[str, str]) -> "subprocess.Popen[bytes]":
    """A process that ends with this one."""
    watcher = os.getpid()
    return subprocess.Popen(
        command,
        cwd=settings.BASE_DIR,
        env=environment,
        preexec_fn=lambda: ends_with(watcher, signal.SIGTERM),
    )


def memory(pid: int) -> float:
    """Memory that a process holds now [MB]."""
    status = Path(f"/proc/{pid}/status").read_text()
    line = next(line for line in status.splitlines() if line.startswith("VmRSS"))
    return int(line.split()[1]) / 1024
