"""make speed: measures in one run, prints, and writes docs/speed.md."""

import os
import platform
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from pyarrow import csv

from ember.assessment.assess import answer, assess, assessed, with_effects
from ember.assessment.record_analysis import analyse_record
from ember.balance.sums import figures
from ember.basis.calendar import months
from ember.basis.calendar import whole as period_of
from ember.basis.series import Trace
from ember.description.installation import Installation
from ember.diagnosis import FindingContext, find
from ember.events.defrosts import defrosts
from ember.events.runs import runs
from ember.events.starts import starts
from ember.intake import read_log
from ember.metering import meter
from ember.operation import operation
from ember.operation.cached import to_bytes
from ember.operation.record import cells_of
from ember.operation.within import Within
from ember.rated import surface
from ember.season import break_even, season_seen
from ember.states import running
from ember.views.season_summary import season_summary
from ember.views.uses import uses
from ember.what_if import Store, StoreKind, WhatIfAsked, what_if
from speed.limit import bare_checks, bare_passes, day_labels, fixed_labels
from speed.notebook import frame, notebook
from speed.serving import Place, Row, measure
from stand_ins.catalogue import SCENARIOS
from stand_ins.files import write_all
from stand_ins.scenario import rated_table, simulate

DOC = Path(__file__).resolve().parent.parent / "docs" / "speed.md"
ROUNDS = 7
CHANNELS = 12


def best(*works: Callable[[], Any]) -> list[float]:
    """The best time of each work over some rounds [s], taken in turn so that noise is shared."""
    times = [[] for _ in works]  # type: list[list[float]]
    for work in works:
        work()
    for _ in range(ROUNDS):
        for work, taken in zip(works, times, strict=True):
            begin = time.perf_counter()
            work()
            taken.append(time.perf_counter() - begin)
    return [min(taken) for taken in times]


def main() -> None:
    """Measures and reports."""
    scenario = replace(SCENARIOS["as-rated"], days=365)
    simulated = simulate(scenario)
    table = rated_table(scenario.plant)
    installation = replace(simulated.installation, rated=table)
    shape = surface(table)
    with tempfile.TemporaryDirectory() as folder:
        del simulated.columns["energy_unit"]  # twelve channels
        assert len(simulated.columns) == CHANNELS
        log = write_all(simulated, Path(folder), "plain")
        size = log.stat().st_size / 1e6
        read, bare = best(lambda: read_log(log, installation), lambda: csv.read_csv(log))
        trace, _ = read_log(log, installation)
        peak_start = _peak("start", folder)
        peak_read = _peak("read", folder)
        peak_assess = _peak("assess", folder)
        place = Place.made()
        try:
            served = measure(place, log, installation)
        finally:
            place.forget()
    month, night = fixed_labels(trace)
    day, quarter = day_labels(trace)
    df = frame(simulated.columns, simulated.start, scenario.step)
    ours, everything, passes, plain = best(
        lambda: answer(with_effects(analyse_record(installation, trace), trace)),
        lambda: assess(installation, trace),
        lambda: (bare_passes(trace, month, night, shape), bare_checks(trace, day, quarter)),
        lambda: notebook(df, shape, installation.zone),
    )
    events, whole, found = _events(installation, trace)
    result = assess(installation, trace)
    _, within = assessed(installation, trace)
    every = WhatIfAsked(
        flow_lower=3.0,
        fewer_starts=0.5,
        hot_water_lower=5.0,
        store=Store(kind=StoreKind.BUILDING, kwh_k=8.0, swing_k=1.0),
    )
    season, paid, other = best(
        lambda: season_summary(within), lambda: _money(within), lambda: what_if(within, every)
    )
    theirs = notebook(df, shape, installation.zone)
    assert result.main is not None and result.main.cop is not None
    rows = [
        ("Read and grid a site-year", f"{read * 1e3:.0f} ms", f"{size:.0f} MB CSV, 1 min, 12 ch"),
        ("Bare pyarrow read of it", f"{bare * 1e3:.0f} ms", ""),
        ("**Ratio** (≤ 2)", f"**{read / bare:.2f}**", ""),
        (
            "Sums, checks, verdict of the gridded year",
            f"{ours * 1e3:.0f} ms",
            f"{len(trace):,} cells",
        ),
        ("Bare NumPy passes", f"{passes * 1e3:.0f} ms", "`speed/limit.py`"),
        ("**Ratio** (≤ 4)", f"**{ours / passes:.2f}**", ""),
        ("Plain pandas notebook", f"{plain * 1e3:.0f} ms", "`speed/notebook.py`"),
        ("**Ratio** (≤ 1/3)", f"**{ours / plain:.3f}**", ""),
        (
            "States, runs, starts, defrosts of the year (≤ 400 ms)",
            f"{events * 1e3:.0f} ms",
            f"{events / passes:.2f} × bare passes",
        ),
        ("All tables of Running, kept", f"{whole * 1e3:.0f} ms", "hot water, hours, bytes too"),
        ("Findings from them", f"{found * 1e3:.0f} ms", "drift, shape, capacity, every rule"),
        (
            "`assess`, all of it in one call (≤ 600 ms)",
            f"{everything * 1e3:.0f} ms",
            f"{everything / passes:.2f} × bare passes",
        ),
        (
            "Season and Money of the year, after it (≤ 300 ms)",
            f"{(season + paid) * 1e3:.0f} ms",
            f"{(season + paid) / passes:.2f} × bare passes",
        ),
        ("What if, four of them and together", f"{other * 1e3:.0f} ms", "moving day by day"),
        ("Memory of the core just imported", f"{peak_start:.0f} MB", "a process of its own"),
        ("Peak memory, reading", f"{peak_read:.0f} MB", "a process of its own"),
        ("Peak memory, reading and assessing", f"{peak_assess:.0f} MB", "a process of its own"),
        ("COP, core and notebook", f"{result.main.cop.value:.3f}, {theirs['cop']:.3f}", "H4"),
    ]
    rows += served
    print(printed(rows))
    DOC.write_text(_document(rows), encoding="utf-8")
    print(f"\nWritten to {DOC.relative_to(Path.cwd()) if DOC.is_relative_to(Path.cwd()) else DOC}")


def _money(within: Within) -> None:
    """Months, uses and the weather at which a fuel is overtaken."""
    analysis, period = within.analysis, within.period
    figures(analysis, months(period.start, period.stop, analysis.zone))
    uses(analysis, period)
    break_even(season_seen(analysis, period), 3.0)


def _events(installation: Installation, trace: Trace) -> tuple[float, float, float]:
    """Time of the tables of events, of everything that Running keeps, and of the findings [s]."""
    analysis = analyse_record(installation, trace)
    streams = meter(installation, trace)
    walked = analysis.walked(analysis.like(trace), analysis.states())
    cells, _ = cells_of(analysis, walked)

    def tables() -> None:
        told = replace(cells, states=running(installation, trace, streams))
        _, _, frosting = defrosts(told)
        starts(told, runs(told, frosting))

    def kept() -> None:
        to_bytes(operation(analysis, trace, walked))

    ran = operation(analysis, trace, walked)
    over = figures(analysis, [period_of(float(analysis.start), float(analysis.stop))])[0]

    def findings() -> None:
        find(FindingContext(analysis, ran, over))

    events, whole, found = best(tables, kept, findings)
    return events, whole, found


def _peak(what: str, folder: str) -> float:
    """Peak memory of a fresh process that imports the core, reads, or reads and assesses [MB]."""
    command = [sys.executable, "-m", "speed.peak", what, folder]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    return float(done.stdout)


def printed(rows: list[Row]) -> str:
    """Rows for a terminal."""
    width = max(len(name) for name, _, _ in rows)
    return "\n".join(
        f"{name.replace('*', ''):{width}}  {value.replace('*', ''):>14}  {note}"
        for name, value, note in rows
    )


def table(rows: list[Row]) -> str:
    """Rows for a document."""
    lines = "\n".join(f"| {name} | {value} | {note} |" for name, value, note in rows)
    return f"| what | measured | note |\n|---|---|---|\n{lines}\n"


def machine() -> str:
    """On what was measured."""
    python = platform.python_version()
    return f"{platform.machine()}, {os.cpu_count()} cores, Python {python}, NumPy {np.__version__}"


def _document(rows: list[Row]) -> str:
    return f"""# Speed

Written by `make speed`; every figure of one run, best of {ROUNDS} rounds taken in turn, on
{machine()}. Times differ from
machine to machine; the ratios are what counts. The year is that of the demo's healthy system:
one-minute readings, {CHANNELS} channels, 365 days.

{table(rows)}
- *Bare pyarrow read*: `pyarrow.csv.read_csv` with its defaults, nothing else done.
- *Bare NumPy passes*: the arithmetic that sums, checks and verdict cannot do without, on the same
  arrays, with months and tariff given, no gaps, no uncertainty and no results but sums. Events and
  findings are no part of them, nor of the notebook; they have rows of their own.
- *Plain pandas notebook*: the same questions as an analyst would answer them; she gets no
  uncertainty budget, no boundary check and no proof for it.
- *Chart* and *Reckoning*: server time of what the screen asks for, kept survey in memory; the first
  request after a start reads it from the database (about 20 ms more).
- *Day flip*: from the key to the frame in which the next day's chart stands, in Debian's headless
  Chromium, after four flips that warm it up; the neighbouring days are fetched while one is looked
  at.
- *Memory*: of the process that serves, after every kind of request; of the worker, after working a
  site-year out.
"""


if __name__ == "__main__":
    main()
