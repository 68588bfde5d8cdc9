"""An owner's notebook: registers read once a week by eye, what she saw, and her bills. Invented."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import zone_named
from ember.basis.series import Trace
from ember.description.installation import Installation
from ember.description.logged import HandKind, HandSeries, Keeps
from ember.readings.bills import Bill
from stand_ins.scenario import Simulated

BACKUP_BEGAN = 31.2  # readings of the registers when the record begins [kWh]
PUMP_BEGAN = 402.7
UNIT_BEGAN = 1240.0
WEEKS = 20
KWH = 3.6e6
BEGAN = 2000.0  # registers of a sheet when the record begins [kWh]
USED = ("compressor", "source", "controls", "backup_heater", "pump")


@dataclass(frozen=True)
class Line:
    """A line of the notebook: a local time, what the displays showed, a remark."""

    local: str
    cells: dict[str, str]
    note: str


def series(installation: Installation) -> tuple[HandSeries, ...]:
    """The columns of her notebook."""
    heat = installation.registers[0].name
    return (
        HandSeries("heat", HandKind.HEAT, "kWh", meter=heat, resolution=1.0),
        *(
            HandSeries(m.name.split()[0], HandKind.ELECTRICITY, "kWh", meter=m.name, resolution=0.1)
            for m in installation.electricity
        ),
        HandSeries("outdoor", HandKind.OTHER, "degC", channel="outdoor_temp", resolution=0.5),
    )


def lines(trace: Trace, zone: ZoneInfo) -> list[Line]:
    """Once a week, about eight in the morning."""
    began = {"unit": UNIT_BEGAN, "pump": PUMP_BEGAN, "backup": BACKUP_BEGAN}
    used = {
        name: start + np.nancumsum(trace[f"power:{name}"]) * trace.step / KWH
        for name, start in began.items()
        if f"power:{name}" in trace
    }
    found = []
    first = datetime.fromtimestamp(trace.start, zone).date() + timedelta(days=3)
    for week in range(WEEKS):
        when = datetime(first.year, first.month, first.day, 8, 5 + week * 7 % 20, tzinfo=zone)
        when += timedelta(days=7 * week)
        cell = trace.cell(when.timestamp())
        if cell >= len(trace):
            break
        heat = trace["heat_energy"][max(0, cell - 5) : cell + 1]
        cells = {name: f"{values[max(0, cell - 1)]:.1f}" for name, values in used.items()}
        cells["heat"] = f"{np.nanmax(heat) / KWH:.0f}"
        cells["outdoor"] = f"{round(trace['outdoor_temp'][cell] * 2) / 2:g}"
        note = {4: "radiators bled", 9: "away over the holidays"}.get(week, "")
        found.append(Line(f"{when:%Y-%m-%d %H:%M}", cells, note))
    return found


def seen(trace: Trace, zone: ZoneInfo) -> list[tuple[str, str, str]]:
    """Local time, kind and note of what she saw: the first defrost by daylight, and some more."""
    first = datetime.fromtimestamp(trace.start, zone).date()
    found = [
        (f"{first + timedelta(days=25)} 18:20", "setting changed", "weather curve two steps lower"),
        (f"{first + timedelta(days=40)} 21:10", "noise", "hum in the wall of the bedroom"),
    ]
    taken_back = trace["flow_temp"] - trace["return_temp"] < -1.5
    for cell in np.flatnonzero(taken_back & (trace["outdoor_temp"] < 4.0)).tolist():
        when = datetime.fromtimestamp(trace.instant(cell), zone)
        if 8 <= when.hour < 20:
            ends = when + timedelta(minutes=5)
            found += [
                (f"{when:%Y-%m-%d %H:%M}", "defrost begins", ""),
                (f"{ends:%Y-%m-%d %H:%M}", "defrost ends", "much vapour, coil clear"),
            ]
            break
    return found


def bills(installation: Installation, zone: ZoneInfo, first: date) -> list[Bill]:
    """Her bills since before the unit came: gas, then electricity, one of them estimated."""

    def bill(start: int, days: int, carrier: str, amount: float, **more: object) -> Bill:
        begin = datetime(first.year, first.month, first.day, tzinfo=zone) + timedelta(days=start)
        end = begin + timedelta(days=days)
        return Bill(begin.timestamp(), end.timestamp(), carrier, amount, **more)  # type: ignore[arg-type]

    gas = {"unit": "m³", "kwh_per_unit": 10.5, "before": True}
    return [
        bill(-365, 181, "gas", 980.0, cost=1121.0, **gas),
        bill(-184, 170, "gas", 310.0, cost=402.0, **gas),
        bill(0, 61, "electricity", 935.0, cost=274.0),
        bill(61, 62, "electricity", 1400.0, cost=401.0, estimated=True),
        bill(123, 59, "electricity", 820.0, cost=245.0),
    ]


REPORTS = 1.08  # what a display shows of the heat that there is


def sheet(done: Simulated) -> list[dict[str, str]]:
    """Rows of a sheet by hand as they would be typed: the time, then each series by its name."""
    described, zone = done.installation, zone_named(done.installation.zone)
    used = BEGAN + np.cumsum(sum(done.run.sums[name] for name in USED)) / KWH
    heat = BEGAN + np.cumsum(done.run.sums["counted"]) / KWH
    monthly = any(series.keeps == Keeps.MONTH for series in described.by_hand)

    def at(when: datetime) -> int:
        return int((when.timestamp() - done.start) // done.scenario.step)

    first = datetime.fromtimestamp(done.start, zone).date()
    rows = []
    if monthly:
        edges = [
            date(first.year + (first.month - 1 + k) // 12, (first.month - 1 + k) % 12 + 1, 1)
            for k in range(13)
        ]
        for begin, end in pairwise(edges):
            a, b = (at(datetime(d.year, d.month, d.day, tzinfo=zone)) for d in (begin, end))
            if b > len(used):
                break
            a = max(a, 0)
            rows.append(
                {
                    "time": f"{begin:%Y-%m}",
                    "electricity": f"{used[b - 1] - used[a]:.0f}",
                    "heat": f"{REPORTS * (heat[b - 1] - heat[a]):.0f}",
                }
            )
        return rows
    for week in range(200):
        day = first + timedelta(days=1 + 7 * week)
        when = datetime(day.year, day.month, day.day, 8, 5 + week * 7 % 20, tzinfo=zone)
        k = at(when)
        if k >= len(used):
            break
        rows.append(
            {
                "time": f"{when:%Y-%m-%d %H:%M}",
                "electricity": f"{used[k - 1]:.1f}",
                "heat": f"{heat[k - 1]:.0f}",
            }
        )
    return rows
