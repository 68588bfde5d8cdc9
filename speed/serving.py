"""What the store and the server cost: measured over a database of its own, and in Chromium."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from contextlib import contextmanager
from dataclasses import asdict, dataclass, replace
from http.cookiejar import CookieJar
from pathlib import Path
from statistics import median
from typing import TYPE_CHECKING, Any

from pyarrow import csv

if TYPE_CHECKING:
    from collections.abc import Iterator

    from server.systems.models import System


def entrance(base: str) -> str:
    """An address that signs a client in."""
    from server.accounts import demo

    return demo.entrance(base)


Row = tuple[str, str, str]
LIMIT_IMPORT = 4
FLIPS = 20
WARM = 4  # flips before the browser has compiled what it runs


@dataclass(frozen=True)
class Size:
    """How much is asked of the application.

    Attributes
    ----------
    fleet : int
        systems in the list.
    sheet_rows : int
        rows of a spreadsheet.
    sending : int
        for which loggers send [s].
    loggers : int
        that send side by side.
    sites : int
        site-years sent one after the other.
    """

    fleet: int = 1000
    sheet_rows: int = 100_000
    sending: int = 60
    loggers: int = 40
    sites: int = 10


USUAL = Size()
LARGE = Size(fleet=5000, sheet_rows=500_000, sending=300, loggers=200, sites=40)


@dataclass(frozen=True)
class Place:
    """A folder with a database of its own, in which Django is set up."""

    folder: Path

    @classmethod
    def made(cls) -> "Place":
        """Sets Django up over a new folder; once a process."""
        folder = Path(tempfile.mkdtemp(prefix="ember-speed-"))
        os.environ["EMBER_VAR"] = str(folder)
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings.demo")
        import django

        django.setup()
        from django.core.management import call_command

        call_command("migrate", verbosity=0)
        call_command("collectstatic", interactive=False, verbosity=0)
        return cls(folder)

    def forget(self) -> None:
        """Removes it."""
        shutil.rmtree(self.folder, ignore_errors=True)


def fastest(work: Callable[[], Any], rounds: int = 7) -> float:
    """The best time over some rounds [s]."""
    work()
    taken = []
    for _ in range(rounds):
        begin = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begin)
    return min(taken)


def measure(place: Place, log: Path, installation: Any, size: Size = USUAL) -> list[Row]:
    """Rows about the store, the API and the screens. log : a site-year as CSV."""
    from server.assessments.cache import cache_results
    from server.readings.models import Block, Journal
    from server.readings.store import store
    from server.systems.models import System

    shutil.copy(log, place.folder / "log.csv")
    copies = iter([System.describe(replace(installation, name=f"copy {k}")) for k in range(6)])
    stored, bare = [], []
    for copy in copies:  # taken in turn, so that noise is shared
        begin = time.perf_counter()
        store(copy, log)
        middle = time.perf_counter()
        csv.read_csv(log)
        stored.append(middle - begin)
        bare.append(time.perf_counter() - middle)
    system = System.objects.get(name="copy 5")
    System.objects.exclude(pk=system.pk).delete()
    cache_results(system)
    blocks = sum(
        len(p) + len(o) for p, o in Block.objects.values_list("payload", "overview")
    ) + sum(len(p) for p in Journal.objects.values_list("payload", flat=True))
    samples = system.imports.get().rows * (len(csv.read_csv(log).column_names) - 1)
    ours, limit = min(stored), min(bare)
    rows = [
        ("Import of a site-year into the store", f"{ours * 1e3:.0f} ms", "without HTTP, queue"),
        ("Bare pyarrow read of it", f"{limit * 1e3:.0f} ms", "same rounds"),
        (f"**Ratio** (≤ {LIMIT_IMPORT})", f"**{ours / limit:.2f}**", ""),
        (
            "**Bytes a sample on disk** (≤ 3)",
            f"**{blocks / samples:.2f}**",
            "journal, blocks, overview",
        ),
    ]
    rows += [("Two channels of a year back (≤ 60 ms)", _two_channels(system), "through the ORM")]
    rows += _windows(system)
    rows += _spans(system)
    rows += _fleet(system, size)
    rows += _running(place, system, size)
    rows += _spreadsheet(place, system, size)
    return rows


def _two_channels(system: "System") -> str:
    from server.readings.store import trace_of

    wanted = ("flow_temp", "power:unit")
    return f"{fastest(lambda: trace_of(system, channels=wanted)) * 1e3:.0f} ms"


def _spreadsheet(place: Place, system: "System", size: Size) -> list[Row]:
    """Reading an XLSX against the reader library alone."""
    from python_calamine import CalamineWorkbook

    from ember.intake import read_log
    from server.readings.export import as_xlsx
    from server.readings.store import trace_of

    path = place.folder / "readings.xlsx"
    start = trace_of(system, channels=("flow_temp",)).start
    as_xlsx(system, start, start + size.sheet_rows * 60, path)

    def bare() -> None:
        book = CalamineWorkbook.from_path(str(path))
        book.get_sheet_by_index(0).to_python(skip_empty_area=False)

    limit = fastest(bare, 2)

    def whole() -> None:
        path.touch()  # another file: what was unpacked a moment ago does not count
        read_log(path, system.installation)

    ours = fastest(whole, 2)
    return [
        (f"XLSX of {size.sheet_rows:,} rows", f"{ours * 1e3:.0f} ms", "read and gridded"),
        ("Reader library alone", f"{limit * 1e3:.0f} ms", "calamine"),
        ("**Ratio** (≤ 2)", f"**{ours / limit:.2f}**", ""),
    ]


def _windows(system: "System") -> list[Row]:
    from server.api.figures import span_of
    from server.assessments.cache import find
    from server.assessments.draw import window

    found = find(system)
    rows = []
    for name, start, stop in (
        ("an hour", "2026-01-22T05:00", "2026-01-22T06:00"),
        ("a day", "2026-01-22", "2026-01-22"),
        ("two weeks", "2026-01-12", "2026-01-25"),
        ("a month", "2026-01-01", "2026-01-31"),
        ("the year", "2025-10-01", "2026-09-30"),
    ):
        period = span_of(found.analysis, start, stop)
        taken = fastest(lambda p=period: window(system, found.analysis, p, 800))  # type: ignore[misc]
        rows.append((f"Chart of {name} (≤ 60 ms)", f"{taken * 1e3:.0f} ms", "9 lanes, states"))
    return rows


def _spans(system: "System") -> list[Row]:
    from server.api.figures import cut_to, span_figures

    rows = []
    for name, start, stop in (
        ("an evening", "2026-01-22T17:03", "2026-01-22T22:41"),
        ("ten months, cut at minutes", "2025-11-03T05:13", "2026-08-22T09:41"),
        ("the year", "2025-10-01", "2026-09-30"),
    ):

        def reckoning(start: str = start, stop: str = stop) -> Any:
            cut = cut_to(system, start, stop)
            return asdict(span_figures(cut.analysis, cut.period, cut.stale))

        rows.append((f"Reckoning of {name} (≤ 80 ms)", f"{fastest(reckoning) * 1e3:.0f} ms", ""))
    return rows


def _fleet(system: "System", size: Size) -> list[Row]:
    from django.contrib.auth.models import User
    from django.test import Client

    from server.assessments.models import CachedResults
    from server.systems.models import System

    kept = CachedResults.objects.get(system=system)
    others = System.objects.bulk_create(
        System(name=f"system {k}", description=system.description) for k in range(size.fleet - 1)
    )
    CachedResults.objects.bulk_create(
        CachedResults(
            system=other,
            made_from=kept.made_from,
            lost=float(k),
            row=kept.row,
            days="[]",
            analysis=b"",
            overview=b"",
        )
        for k, other in enumerate(others)
    )
    client = Client()
    client.force_login(User.objects.create_user("speed"))

    def asked() -> Any:
        return client.get("/api/v1/systems", headers={"host": "localhost"})

    taken = fastest(asked)
    assert len(asked().json()["rows"]) == size.fleet
    System.objects.exclude(pk=system.pk).delete()
    return [
        (f"Fleet of {size.fleet:,} systems (≤ 200 ms)", f"{taken * 1e3:.0f} ms", "whole request")
    ]


def _running(place: Place, system: "System", size: Size) -> list[Row]:
    """Memory of each process, and a day flip in Chromium, over the running application."""
    from server.accounts.demo import demo_password
    from server.jobs.serving import memory

    demo_password()
    with _served(place) as (base, processes):
        opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
        opener.open(entrance(base)).read()
        for room in ("span", "rating", "money", "window"):
            for days in (("2026-01-22", "2026-01-22"), ("2025-10-01", "2026-09-30")):
                opener.open(
                    f"{base}/api/v1/systems/{system.pk}/{room}?start={days[0]}&stop={days[1]}"
                ).read()
        flips = _flips(base, system.pk)
        lively = _live(base, system, size)
        lively += _years(place, base, system, size)
        rows = [
            (
                "Day flip to painted chart (≤ 100 ms)",
                f"{median(flips):.0f} ms",
                f"Chromium, median of {len(flips)}; slowest {max(flips):.0f} ms",
            ),
        ]
        rows += lively
        for name, pid in processes.items():
            rows.append((f"Memory of the {name} (≤ 400 MB)", f"{memory(pid):.0f} MB", "after it"))
    return rows


def _years(place: Place, base: str, system: "System", size: Size) -> list[Row]:
    """Site-years sent and imported through the running application, while others ask."""
    import json
    import threading

    import numpy as np

    from server.jobs.models import Job
    from server.systems.models import System

    cookies = CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(cookies))
    opener.open(entrance(base)).read()
    opener.open(f"{base}/api/v1/me").read()
    token = next(cookie.value or "" for cookie in cookies if cookie.name == "csrftoken")
    log = (place.folder / "log.csv").read_bytes()

    def post(path: str, body: bytes, kind: str) -> Any:
        headers = {"X-CSRFToken": token, "Content-Type": kind}
        request = urllib.request.Request(f"{base}{path}", body, headers)
        return json.loads(opener.open(request, timeout=120).read())

    others = [
        System.describe(replace(system.installation, name=f"site {k}")) for k in range(size.sites)
    ]
    over, waits = threading.Event(), list[float]()
    asking = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    asking.open(entrance(base)).read()

    def ask() -> None:
        while not over.wait(0.05):
            began = time.perf_counter()
            asking.open(f"{base}/api/v1/systems").read()
            waits.append(time.perf_counter() - began)

    asker = threading.Thread(target=ask)
    asker.start()
    begin = time.perf_counter()
    edge = b'--ember\r\nContent-Disposition: form-data; name="file"; filename="log.csv"\r\n\r\n'
    choice = json.dumps({"columns": None, "guess": False, "remember": None, "rule": "fill"})
    for other in others:
        path = f"/api/v1/systems/{other.pk}/uploads"
        body = edge + log + b"\r\n--ember--\r\n"
        sent = post(path, body, "multipart/form-data; boundary=ember")
        post(f"/api/v1/uploads/{sent['upload']}/store", choice.encode(), "application/json")
    while Job.objects.filter(state__in=(Job.State.WAITING, Job.State.RUNNING)).exists():
        time.sleep(0.1)
    taken = time.perf_counter() - begin
    over.set()
    asker.join()
    done = Job.objects.filter(kind="import", state=Job.State.DONE).count()
    return [
        (
            f"{done} site-years sent, imported, worked out",
            f"{taken:.0f} s",
            f"{len(log) / 1e6 * size.sites:.0f} MB CSV over HTTP",
        ),
        (
            "Fleet meanwhile, p99",
            f"{np.percentile(waits, 99) * 1e3:.0f} ms",
            f"median {np.percentile(waits, 50) * 1e3:.0f} ms, {len(waits)} times asked",
        ),
    ]


def _live(base: str, system: "System", size: Size) -> list[Row]:
    """Loggers send while charts are read and the worker works figures out."""
    import json
    import threading

    import numpy as np

    from server.jobs.queueing import start
    from server.readings.live import register
    from server.readings.models import Batch
    from speed.live import RATE, READINGS

    tokens = [register(system, f"logger {k}")[1] for k in range(size.loggers)]
    over, read = threading.Event(), [0]
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    opener.open(entrance(base)).read()

    def charts() -> None:
        while not over.wait(0.5):
            day = f"2026-01-{10 + read[0] % 20:02d}"
            for room in ("window", "span"):
                opener.open(
                    f"{base}/api/v1/systems/{system.pk}/{room}?start={day}&stop={day}"
                ).read()
            read[0] += 1

    reader = threading.Thread(target=charts)
    reader.start()
    jobs = [start("figures", f"Working out {k}", system, None, anew=True) for k in range(6)]
    command = [
        sys.executable,
        "-m",
        "speed.live",
        base,
        str(size.sending),
        str(int(time.time()) - 3600),
    ]
    done = subprocess.run(
        command, input="\n".join(tokens), capture_output=True, text=True, check=True
    )
    over.set()
    reader.join()
    found = json.loads(done.stdout)
    sent = Batch.objects.filter(logger__system=system)
    kept = sum(sent.values_list("count", flat=True))
    for job in jobs:
        job.refresh_from_db()
    worked = sum(job.state == job.State.DONE for job in jobs)
    lost = round(size.sending * RATE) * READINGS - kept
    p50, p99 = np.percentile(found["waits"], [50, 99]) * 1e3
    a_second = len(found["waits"]) / size.sending
    return [
        (
            "Live batches a second (≥ 200)",
            f"{a_second:.0f}",
            f"{size.sending} s, {size.loggers} loggers",
        ),
        ("Live readings a second (≥ 5,000)", f"{found['taken'] / size.sending:,.0f}", ""),
        (
            "Answer to a batch, p99 (≤ 150 ms)",
            f"{p99:.0f} ms",
            f"median {p50:.0f} ms, from when it was due; meanwhile {read[0]} charts read, "
            f"{worked} site-years worked out",
        ),
        ("Live readings lost (0)", f"{lost:,}", f"{found['refused']} batches refused"),
    ]


@contextmanager
def _served(place: Place) -> "Iterator[tuple[str, dict[str, int]]]":
    """The running application: its address, and the processes that do the work."""
    import socket

    from server.jobs.models import Job
    from server.jobs.queueing import start
    from server.jobs.serving import commands

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    root = Path(__file__).resolve().parent.parent
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    running = {
        name: subprocess.Popen(command, cwd=root, env={**os.environ}, **quiet)  # type: ignore[call-overload]
        for name, command in commands(port).items()
    }
    base = f"http://127.0.0.1:{port}"
    try:
        job = start("figures", "Working out", _first_system(), None, anew=True)
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{base}/api/v1/me").read()
                if Job.objects.get(pk=job.pk).state == Job.State.DONE:
                    break
            except OSError:
                pass
            time.sleep(0.1)
        children = Path(f"/proc/{running['web'].pid}/task/{running['web'].pid}/children")
        served = int(children.read_text().split()[0])
        yield base, {"web server": served, "worker": running["worker"].pid}
    finally:
        for process in running.values():
            process.terminate()
        for process in running.values():
            process.wait(10)


def _first_system() -> "System":
    from server.systems.models import System

    found = System.objects.first()
    assert found is not None
    return found


_FLIP = """() => new Promise((done, lost) => {
  setTimeout(() => lost(new Error("no chart was painted")), 10000);
  const begin = performance.now();
  const seen = new PerformanceObserver(() => {
    seen.disconnect();
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - begin), 0));
  });
  seen.observe({ entryTypes: ["mark"] });
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "]", bubbles: true }));
})"""


def _flips(base: str, system: int) -> list[float]:
    """From the key to the frame that shows the next day's chart [ms]."""
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    from playwright.sync_api import sync_playwright

    from server.testing import CHROMIUM, CHROMIUM_ARGUMENTS

    taken = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(entrance(base))
        page.goto(f"{base}/systems/{system}/running?from=2026-01-05&to=2026-01-05")
        page.get_by_test_id("cop").wait_for()
        for _ in range(WARM + FLIPS):
            page.wait_for_timeout(300)  # a person looks before she goes on
            taken.append(float(page.evaluate(_FLIP)))
        browser.close()
    return taken[WARM:]


if __name__ == "__main__":
    sys.exit("Part of `make speed`; see speed/run.py.")
