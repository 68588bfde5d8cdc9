"""An owner's notebook: registers read once a week by eye, what she saw, and her bills. Invented."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from ember.byhand.bills import Bill
from ember.installation import Installation
from ember.logged import HandKind, HandSeries
from ember.trace import Trace

BACKUP_BEGAN = 31.2  # readings of the registers when the record begins [kWh]
PUMP_BEGAN = 402.7
UNIT_BEGAN = 1240.0
WEEKS = 20
KWH = 3.6e6


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
