"""python -m validation.field DIR: what the core makes of logs of systems that nobody here drew.

DIR holds one folder a system: log.csv.gz, installation.json (the description, columns not named),
rated.csv, rated_map.csv, about.json (the columns and their meaning) and truth.json. The form is
described in docs/formats.md.
"""

import argparse
import gc
import json
import sys
import time
import traceback
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from datetime import datetime
from os import cpu_count
from pathlib import Path
from typing import Any

import numpy as np

from ember.assessment.assess import answer, with_effects
from ember.assessment.record_analysis import RecordAnalysis, analyse_record
from ember.assessment.results import Assessment
from ember.balance.sums import FORBIDS
from ember.basis.quantity import Estimate
from ember.basis.series import Trace
from ember.boundary.combinations import widest
from ember.comparison.performance_ratio import VerdictKind
from ember.description.as_json import read_installation
from ember.diagnosis import Weight
from ember.intake import read_log
from ember.intake.report import IntakeReport
from ember.operation import operation
from ember.rated import read_table
from ember.reckoning import reckon
from ember.states import State
from validation import document
from validation.rates import rates

# What about.json calls a column, and the channel it is. Longest beginnings first.
QUANTITIES = {
    "electrical power": "power",
    "flow temperature": "flow_temp",
    "return temperature": "return_temp",
    "volume flow": "flow_rate",
    "outdoor air temperature": "outdoor_temp",
    "outdoor relative humidity": "outdoor_humidity",
    "electricity meter reading": "energy",
    "heat meter reading": "heat_energy",
    "heat meter volume": "water_volume",
    "heat output shown by": "heat_power",
    "room air": "room_temp",
    "hot-water tank": "tank_temp",
    "operating mode": "mode",
}

# The findings of which one must stand first or second, by the kind of fault.
KINDS: dict[str, tuple[str, ...]] = {
    "underperformance": ("below rated",),
    "underperformance_from_date": ("below rated since",),
    "excess_backup": ("heater overused",),
    "temperature_pair_offset": ("metering: pair offset",),
    "boundary_mismatch": ("metering: consumers", "COP too good"),
    "no_weather_compensation": ("fixed flow temperature",),
    "ineffective_defrost": ("ineffective defrosts", "below rated in frost"),
    "gap_and_stuck_sensor": ("metering: stuck readings", "metering: gaps"),
    "over_pumping": ("ΔT too narrow",),
    "undersized": ("capacity short", "room not held"),
    "short_cycling": ("short cycling",),
    "oversized": ("oversized", "short cycling"),
    "steep_curve": ("heating curve too steep",),
    "glycol": ("metering: glycol", "metering: register against flow × ΔT"),
    "standby": ("high standby",),
    "swapped_sensors": ("metering: swapped sensors",),
    "air_in_water": ("metering: flow reading",),
    "clock_shift": ("metering: clocks",),
}

# What a system must not be said to be, and what would say it.
SAYS = {
    "underperformance": ("below rated", "below rated since", "below rated in frost",
                         "below rated at part load", "below rated at high flow"),
    "very good heat pump": (),
}  # fmt: skip

WITHIN = 120.0  # of a defrost or start in the truth [s]
MEASUREMENT = ("measurement",)  # faults whose sums cannot be right


@dataclass(frozen=True)
class Columns:
    """How the columns were recognised: right, taken for something else, left open."""

    right: int
    wrong: tuple[str, ...]
    open: tuple[str, ...]
    questions: int = 0

    @property
    def unaided(self) -> bool:
        """Whether nothing was wrong, and nothing left open."""
        return not self.wrong and not self.open


@dataclass
class Row:
    """One system's score. Estimates against the truth: value, U, truth."""

    name: str
    fault: str = ""
    category: str = ""
    kind: tuple[str, ...] = ()
    error: str = ""
    seconds: float = 0.0
    columns: Columns | None = None
    sums: dict[str, tuple[float, float, float]] = field(default_factory=dict)
    ratio: dict[str, tuple[float, float, float] | None] = field(default_factory=dict)
    level: str = ""
    verdict: str = ""
    doubts: tuple[str, ...] = ()
    starts: tuple[int, int] = (0, 0)
    defrosts: tuple[int, int, int] = (0, 0, 0)  # true, found, false
    running: tuple[float, float] = (0.0, 0.0)  # share of the time, truth
    hot_water: tuple[float, float] = (0.0, 0.0)  # heat [kWh], truth
    noisy: bool = False
    unsound: tuple[str, ...] = ()
    findings: tuple[str, ...] = ()
    acting: tuple[str, ...] = ()
    place: int | None = None
    forbidden: tuple[str, ...] = ()

    @property
    def healthy(self) -> bool:
        """Whether nothing is wrong with it."""
        return self.category == "healthy"

    @property
    def actions(self) -> tuple[str, ...]:
        """What it is told to act on."""
        return tuple(f for f in self.findings if f.endswith("(act)"))


def scored(folder: Path) -> Row:
    """One system; a failure is a row too."""
    row = Row(folder.name)
    begin = time.monotonic()
    try:
        _score(folder, row)
    except Exception as error:
        row.error = f"{type(error).__name__}: {error}"
        print(f"{folder.name}:\n{traceback.format_exc()}", file=sys.stderr, flush=True)
    row.seconds = time.monotonic() - begin
    gc.collect()
    return row


def _score(folder: Path, row: Row) -> None:
    truth = json.loads((folder / "truth.json").read_text())
    about = json.loads((folder / "about.json").read_text())
    row.fault, row.category = truth["fault"]["kind"], truth["fault"]["category"]
    row.kind = KINDS.get(row.fault, ())
    row.noisy = "noisy" in (truth["fault"].get("quirk") or "")
    described = read_installation(folder / "installation.json")
    trace, report = read_log(folder / "log.csv.gz", described)
    row.columns = recognised(report, about)
    for name in ("rated_map", "rated"):
        if not (folder / f"{name}.csv").exists():
            continue
        installation = replace(described, rated=read_table(folder / f"{name}.csv"))
        analysis = with_effects(analyse_record(installation, trace), trace)
        assessed = answer(analysis, ran=operation(analysis, trace))
        compared = assessed.comparison
        wanted = truth["stats"]["performance_vs_map"]["steady_as_metered"]
        row.ratio[name] = _against(compared.ratio, wanted) if compared else None
        if compared is not None and name == "rated":
            row.level = compared.measured.level.value
    _sums(row, assessed, truth)
    _running(row, analysis, trace, truth)
    _said(row, assessed, truth)


def recognised(report: IntakeReport, about: Mapping[str, Any]) -> Columns:
    """How the columns of a log were recognised."""
    said = {c.header: c.channel.partition(":")[0] for c in report.columns if c.valid}
    right, wrong, open_ = 0, [], []
    for header, column in about["log"]["columns"].items():
        wanted = next(c for q, c in QUANTITIES.items() if column["quantity"].startswith(q))
        found = said.get(header)
        if found == wanted:
            right += 1
        elif found is None:
            open_.append(header)
        else:
            wrong.append(f"{header}: {found} for {wanted}")
    return Columns(right, tuple(wrong), tuple(open_), len(report.questions))


def _against(found: Estimate, truth: float) -> tuple[float, float, float]:
    return found.value, found.U, truth


def _sums(row: Row, assessed: Assessment, truth: Mapping[str, Any]) -> None:
    season = truth["totals"]["season"]
    main = assessed.main
    if main is None:
        return
    # A gap of the log is no error of the sum: the truth is of all days, the sum of those covered.
    whole = main.coverage > 0.995
    if main.heat is not None and whole:
        row.sums["heat"] = _against(main.heat, season["heat_kWh"]["total"])
    if whole:
        row.sums["electricity"] = _against(main.electricity, season["elec_kWh"]["total"])
    if main.cop is not None:
        row.sums["COP"] = _against(main.cop, season["spf"]["system"])


def _epoch(text: str) -> float:
    return datetime.fromisoformat(text).timestamp()


def _running(row: Row, analysis: RecordAnalysis, trace: Trace, truth: Mapping[str, Any]) -> None:
    runs = analysis.runs
    unseen = _gaps(truth)

    def seen(times: Sequence[float]) -> list[float]:
        return [t for t in times if not any(a <= t < b for a, b in unseen)]

    wanted = seen([_epoch(s["time"]) for s in truth["compressor_starts"]])
    first = trace.start + 120
    wanted = [t for t in wanted if t >= first]
    mine = runs[runs[:, 0] > 2] if len(runs) else runs
    row.starts = (len(wanted), len(mine))
    true = [
        (_epoch(d["start"]), _epoch(d["end"]))
        for d in truth["defrosts"]
        if seen([_epoch(d["start"])])
    ]
    found = analysis.defrosts * trace.step + trace.start
    hit = sum(any(b > s - WITHIN and a < e + WITHIN for a, b in found) for s, e in true)
    false = sum(not any(b > s - WITHIN and a < e + WITHIN for s, e in true) for a, b in found)
    row.defrosts = (len(true), hit, false)
    modes = truth["totals"]["season"]["by_mode"]
    water = sum(modes[m]["heat_kWh"] for m in ("hot_water", "legionella") if m in modes)
    combination = widest(analysis.facts.combinations)
    if combination is not None:
        segments = analysis.segments
        groups = np.where(segments.state == State.HOT_WATER, 0, -1)
        got = reckon(
            segments, combination, groups, [(analysis.start, analysis.stop)], analysis.cop_reason
        )[0]
        row.hot_water = (got.heat.value if got.heat is not None else 0.0, water)
    cells = np.bincount(analysis.segments.state, analysis.segments.cells, minlength=len(State))
    on = sum(int(cells[s]) for s in State if State.START_UP <= s <= State.COOLING)
    row.running = (
        on / max(int(cells[State.OFF :].sum()), 1),
        truth["stats"]["compressor"]["on_fraction"],
    )


def _gaps(truth: Mapping[str, Any]) -> list[tuple[float, float]]:
    """Stretches without a log."""
    return [(_epoch(a), _epoch(b)) for a, b in truth.get("log_gaps", [])]


def _said(row: Row, assessed: Assessment, truth: Mapping[str, Any]) -> None:
    row.verdict = assessed.verdict.kind.value
    row.doubts = tuple(
        c.name for c in assessed.checks if c.unsound and (FORBIDS & set(c.affects) or not c.affects)
    )
    row.unsound = tuple(c.name for c in assessed.checks if c.unsound)
    row.acting = tuple(f.name for f in assessed.findings if f.weight == Weight.ACTION)
    row.findings = tuple(f"{f.name} ({f.weight.value})" for f in assessed.findings)
    row.place = next((k for k, f in enumerate(assessed.findings, 1) if f.name in row.kind), None)
    forbidden = []
    for said in truth["fault"].get("must_not_conclude") or ():
        kinds = SAYS.get(said, ())
        forbidden += [
            f.name for f in assessed.findings if f.name in kinds and f.weight == Weight.ACTION
        ]
        if said == "underperformance" and assessed.verdict.kind == VerdictKind.BELOW_RATED:
            forbidden.append("verdict below rated")
        if said == "very good heat pump" and assessed.verdict.kind == VerdictKind.AS_RATED:
            forbidden.append("verdict as rated")
    row.forbidden = tuple(forbidden)


def all_scored(folders: Sequence[Path]) -> list[Row]:
    """Every system, on all cores."""
    with ProcessPoolExecutor(cpu_count() or 1) as pool:
        return list(pool.map(scored, folders))


# --- What is shown


def _off(found: tuple[float, float, float] | None) -> str:
    """How far from the truth, in percent, and whether within U."""
    if found is None:
        return "–"
    value, U, truth = found
    return f"{value / truth - 1:+.1%}{'' if abs(value - truth) <= U else ' !'}"


def table(rows: Sequence[Row]) -> list[str]:
    """A row a system."""
    lines = [
        "| system | fault | columns | heat | electricity | COP | ratio | of rated_map | truth |"
        " verdict | running | starts | defrosts found, false | hot water | findings |",
        "|---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|",
    ]
    for r in rows:
        if r.error:
            lines.append(f"| {r.name} | {r.fault} | {r.error[:200]} |" + " – |" * 12)
            continue
        c = r.columns
        assert c is not None
        columns = f"{c.right} right" + (f", {len(c.open)} open" if c.open else "")
        columns += f", {len(c.wrong)} WRONG" if c.wrong else ""
        rated = r.ratio.get("rated")
        ratio = f"{rated[0]:.3f} ± {rated[1]:.3f} at {r.level} {_off(rated)}" if rated else "–"
        truth = f"{rated[2]:.3f}" if rated else "–"
        n, hit, false = r.defrosts
        water = f"{r.hot_water[0] / r.hot_water[1] - 1:+.0%}" if r.hot_water[1] else "–"
        doubts = f" ({', '.join(r.doubts)})" if r.doubts else ""
        place = f" → {r.place}" if r.kind else ""
        lines.append(
            f"| {r.name} | {r.fault}{place} | {columns} | {_off(r.sums.get('heat'))} | "
            f"{_off(r.sums.get('electricity'))} | {_off(r.sums.get('COP'))} | {ratio} | "
            f"{_off(r.ratio.get('rated_map'))} | {truth} | {r.verdict}{doubts} | "
            f"{r.running[0] - r.running[1]:+.1%} | {r.starts[1]} of {r.starts[0]} | "
            f"{hit} of {n}, {false} | {water} | "
            f"{'; '.join(r.findings[:5])} |"
        )
    return lines


def totals(rows: Sequence[Row]) -> list[str]:
    """The totals, each against what is asked for."""
    ok = [r for r in rows if not r.error]
    healthy = [r for r in ok if r.healthy]
    ill = [r for r in ok if not r.healthy]
    columns = [r.columns for r in ok if r.columns is not None]
    ratios = [one for r in ok if (one := r.ratio.get("rated")) is not None]
    errors = [abs(v / t - 1) for v, _, t in ratios if t]
    inside = [abs(v - t) <= u for v, u, t in ratios]
    sound = [r for r in ok if r.category not in MEASUREMENT]
    sums = [abs(v - t) <= u for r in sound for v, u, t in r.sums.values()]
    over = [abs(v - t) / u for r in sound for v, u, t in r.sums.values() if u]
    named = [r for r in ill if r.kind]
    many = [r for r in ok if r.defrosts[0]]

    def good(r: Row) -> bool:
        n, hit, false = r.defrosts
        least, most = (0.95, 0.05) if r.noisy else (0.98, 0.02)
        return hit >= least * n and false <= most * n

    return [
        "| | |",
        "|---|---|",
        f"| systems that failed | {len(rows) - len(ok)} of {len(rows)} |",
        f"| columns: right unaided / sure and wrong | {sum(c.unaided for c in columns)} of "
        f"{len(columns)} / {sum(bool(c.wrong) for c in columns)} |",
        f"| compared with the table | {len(ratios)} of {len(ok)} |",
        f"| performance ratio: median error, within U | "
        f"{np.median(errors) if errors else np.nan:.1%}, {sum(inside)} of {len(inside)} |",
        f"| faults named first or second | "
        f"{sum(r.place is not None and r.place <= 2 for r in named)} of {len(named)} |",
        f"| must not be concluded, and was | {sum(bool(r.forbidden) for r in ok)} "
        f"{[f'{r.name}: {r.forbidden}' for r in ok if r.forbidden] or ''} |",
        f"| healthy told to act | {sum(bool(r.actions) for r in healthy)} of {len(healthy)} |",
        f"| healthy without a verdict | "
        f"{sum(r.verdict == 'no verdict' for r in healthy)} of {len(healthy)} |",
        f"| healthy doubted | {sum(bool(r.doubts) for r in healthy)} of {len(healthy)} |",
        f"| running time within 2 % of all | "
        f"{sum(abs(a - b) <= 0.02 for a, b in (r.running for r in ok))} of {len(ok)} |",
        f"| starts within 2 % or 2 | "
        f"{sum(abs(a - b) <= max(2, 0.02 * a) for a, b in (r.starts for r in ok))} of {len(ok)} |",
        f"| defrosts as asked for | {sum(good(r) for r in many)} of {len(many)} |",
        f"| hot-water heat within 10 % | "
        f"{sum(abs(a / b - 1) <= 0.1 for a, b in (r.hot_water for r in ok) if b)} of "
        f"{sum(r.hot_water[1] > 0 for r in ok)} |",
        f"| heat, electricity, COP within U (sound metering) | {sum(sums)} of {len(sums)}; median "
        f"error ÷ U {np.median(over) if over else np.nan:.2f} |",
    ]


HEAD = """## Field: {count} logs that were not drawn by these stand-ins

Written by `make field DIR=…`, the columns found by the core, the description that of the folder
(docs/formats.md). `!`: the truth lies outside U. A number after → is the place of the fault among
the findings.
"""


def main() -> None:
    """Scores a folder of systems."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--only", nargs="*", help="names of systems")
    parser.add_argument("--write", action="store_true", help="into docs/validation.md")
    asked = parser.parse_args()
    folders = sorted(p.parent for p in asked.folder.glob("*/truth.json"))
    if asked.only:
        folders = [f for f in folders if f.name in asked.only]
    if not folders:
        parser.error(f"{asked.folder} holds no folder with a truth.json.")
    rows = all_scored(folders)
    well = [r for r in rows if r.healthy and not r.error]
    said = rates([r.unsound for r in well], [r.acting for r in well]) if well else []
    text = "\n".join(
        [
            HEAD.format(count=len(rows)),
            *table(rows),
            "",
            *totals(rows),
            "",
            "False alarms on the healthy ones:",
            "",
            *said,
            "",
        ]
    )
    print(text)
    for r in rows:
        if r.columns and (r.columns.wrong or r.columns.open):
            print(r.name, "wrong:", r.columns.wrong, "open:", r.columns.open)
    if asked.write:
        document.write(document.own(), text)


if __name__ == "__main__":
    main()
