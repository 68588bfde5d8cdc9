"""Small traces and descriptions, written by hand. Invented data."""

import csv
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ember.assessment.assess import assess
from ember.assessment.results import Assessment
from ember.balance.sums import PeriodFigures
from ember.basis.periods import Period
from ember.basis.series import Floats, Trace
from ember.description.installation import (
    Consumer,
    ElectricityMeter,
    Installation,
    WaterCircuit,
)
from ember.season import signature
from ember.season.daily import Daily
from ember.season.season import MonthSeen, SeasonSeen
from stand_ins.catalogue import SCENARIOS
from stand_ins.scenario import Simulated, rated_table, simulate
from stand_ins.usual import usual

UNIT = (Consumer.COMPRESSOR, Consumer.SOURCE, Consumer.CONTROLS)
START = 1_767_225_600  # 2026-01-01T00:00Z
LITRE_PER_MIN = 1e-3 / 60


def installation(**changes: Any) -> Installation:
    """The simplest description: one power meter for the unit, flow × ΔT."""
    base = Installation(
        name="Test house",
        zone="UTC",
        electricity=(ElectricityMeter("unit meter", "power:unit", UNIT),),
        circuits=(WaterCircuit("circuit"),),
    )
    return replace(base, **changes)


def trace(step: int = 60, **channels: Any) -> Trace:
    """A trace from channels; `power_unit` means power:unit."""
    named = {
        name.replace("power_", "power:").replace("energy_u", "energy:u"): np.array(values, float)
        for name, values in channels.items()
    }
    return Trace(START, step, named)


def steady(hours: float = 3.0, step: int = 60, **changes: float) -> Trace:
    """A unit that runs steadily: 20 L/min at 35/30 °C, 2 kW, outdoors 2 °C."""
    n = round(hours * 3600 / step)
    values = {
        "flow_rate": 20 * LITRE_PER_MIN,
        "flow_temp": 35.0,
        "return_temp": 30.0,
        "power_unit": 2000.0,
        "outdoor_temp": 2.0,
        **changes,
    }
    return trace(step, **{name: np.full(n, value) for name, value in values.items()})


@cache
def simulated(key: str, days: int = 60, step: int = 60, **changes: Any) -> Simulated:
    """A named scenario over a winter's weeks."""
    scenario = SCENARIOS[key]
    return simulate(replace(scenario, days=days, step=step, **changes))


def assessed(key: str, days: int = 60, step: int = 60, **changes: Any) -> Assessment:
    """Its assessment with its own rated table."""
    done = simulated(key, days, step)
    described = replace(done.installation, rated=rated_table(done.scenario.plant), **changes)
    return assess(described, done.trace())


Bools = NDArray[np.bool_]


# Headers as someone might have written them, for columns of the stand-in.
HEADERS = {
    "power:unit": ("Leistung (W)", 1.0), "flow_temp": ("Vorlauf (°C)", 1.0),
    "return_temp": ("Rücklauf (°C)", 1.0), "flow_rate": ("Durchfluss (l/h)", 3.6e6),
    "outdoor_temp": ("Aussen (°C)", 1.0), "heat_energy": ("WMZ (kWh)", 1 / 3.6e6),
}  # fmt: skip


def foreign_log(path: Path, days: int = 21) -> Simulated:
    """A log that nobody has described, of a plant with one meter for all; its truth."""
    seed = next(k for k in range(12, 24) if usual(k)[0] == "one meter for all")
    done = simulate(usual(seed, days)[1])
    readings = done.trace()
    with path.open("w", encoding="utf-8", newline="") as out:
        writer = csv.writer(out)
        writer.writerow(["Zeitstempel (UTC)", *(header for header, _ in HEADERS.values())])
        for k in range(len(readings)):
            cells = [f"{readings[c][k] * scale:.3f}" for c, (_, scale) in HEADERS.items()]
            writer.writerow([readings.instant(k), *cells])
    return done


def season_of_days(start: Floats, outdoor: Floats, energy: Floats) -> SeasonSeen:
    """Invented whole days without meters, as heat and as electricity [kWh/d]."""
    days = len(outdoor)
    none = PeriodFigures(Period("all", 0, days * 86_400.0), (), None)
    ones, fit = np.ones(days), signature(outdoor, energy)
    return SeasonSeen(
        level=None,
        daily=Daily(start, outdoor, energy, energy, ones, ones, 55.0),
        used=np.ones(days, np.bool_),
        heat=fit,
        electricity=fit,
        loss=None,
        described_loss=None,
        heat_per_area=None,
        electricity_per_area=None,
        degree_days=None,
        months=(),
        whole=MonthSeen(none, None, None, None),
    )
