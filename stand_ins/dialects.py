"""How loggers write their files: the same readings in several dialects."""

import gzip
from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import IO, cast
from zoneinfo import ZoneInfo

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray
from pyarrow import csv

from ember.basis.clock import local_from_utc
from ember.basis.quantity import conversion
from stand_ins.scenario import CHANNELS, Simulated

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Dialect:
    """How a log is written.

    headers : column → (header, unit). stamp : strftime for UTC or local time, or "s" and "ms"
    for epochs.
    """

    name: str
    separator: str
    decimal: str
    time_header: str
    stamp: str
    local: bool
    headers: dict[str, tuple[str, str]]
    preamble: tuple[str, ...] = ()


def _named(pattern: Callable[[str, str], str], units: dict[str, str]) -> dict[str, tuple[str, str]]:
    return {
        name: (pattern(name, units.get(unit, unit)), units.get(unit, unit))
        for name, (_, unit) in CHANNELS.items()
    }


_SUFFIX = {"degC": "c", "degF": "f", "L_per_min": "lpm", "gpm": "gpm", "watt": "w", "kW": "kw",
           "kWh": "kwh", "percent": "pct", "m3_per_h": "m3_h", "bar": "bar",
           "watt_per_m2": "w_m2"}  # fmt: skip
_SIGN = {"degC": "°C", "L_per_min": "L/min", "watt": "W", "kW": "kW", "kWh": "kWh",
         "percent": "%", "m3_per_h": "m³/h", "bar": "bar", "watt_per_m2": "W/m²"}  # fmt: skip


def _snake(name: str, unit: str) -> str:
    return f"{name}_{_SUFFIX[unit]}" if unit in _SUFFIX else name


def _bracketed(name: str, unit: str) -> str:
    words = name.replace("_", " ").capitalize()
    return f"{words} [{_SIGN[unit]}]" if unit in _SIGN else words


DIALECTS = {
    d.name: d
    for d in (
        Dialect("plain", ",", ".", "time", "%Y-%m-%dT%H:%M:%SZ", False, _named(_snake, {})),
        Dialect(
            "continental", ";", ",", "Datum", "%d.%m.%Y %H:%M:%S", True,
            _named(_bracketed, {"watt": "kW", "L_per_min": "m3_per_h"}),
            ("Logger 7;;", "Export;;"),
        ),
        Dialect(
            "american", ",", ".", "Date Time", "%m/%d/%Y %H:%M", True,
            _named(_snake, {"degC": "degF", "L_per_min": "gpm", "watt": "kW"}),
        ),
        Dialect("telemetry", "\t", ".", "ts", "ms", False, _named(_snake, {})),
    )
}  # fmt: skip


def write_log(
    simulated: Simulated, path: Path, dialect: str = "plain", order: list[str] | None = None
) -> None:
    """Writes a simulated log; gzipped where the path ends in .gz.

    order : the columns to write, in that order; None: all.
    """
    written = DIALECTS[dialect]
    zone = ZoneInfo(simulated.installation.zone)
    arrays = [_stamps(simulated.stamps, written, zone)]
    names = [written.time_header]
    for name in order or list(simulated.columns):
        header, unit = written.headers[name]
        arrays.append(_text(simulated.columns[name], CHANNELS[name][1], unit, written.decimal))
        names.append(header)
    table = pa.table(dict(zip(names, arrays, strict=True)))
    with ExitStack() as stack:
        file: IO[bytes] = stack.enter_context(path.open("wb"))
        if path.suffix == ".gz":
            zipped = gzip.GzipFile(fileobj=file, mode="wb", compresslevel=4)
            file = cast(IO[bytes], stack.enter_context(zipped))
        header = written.separator.join(names)
        file.write("\n".join([*written.preamble, header, ""]).encode())
        options = csv.WriteOptions(
            include_header=False, delimiter=written.separator, quoting_style="none"
        )
        csv.write_csv(table, file, options)


def _stamps(instants: NDArray[np.int64], dialect: Dialect, zone: ZoneInfo) -> pa.Array:
    if dialect.stamp == "ms":
        return pa.array(instants * 1000).cast(pa.string())
    shown = local_from_utc(instants, zone) if dialect.local else instants
    return pc.strftime(pa.array(shown.astype("datetime64[s]")), format=dialect.stamp)


def _text(values: Floats, unit: str, target: str, decimal: str) -> pa.Array:
    linear = conversion(unit, target)
    assert linear is not None
    converted = values * linear[0] + linear[1]
    digits = {"gpm": 3, "m3_per_h": 4, "kW": 4, "degF": 2, "fraction": 0}.get(target, 3)
    text = pa.array(np.round(converted, digits), from_pandas=True).cast(pa.string())
    text = pc.replace_substring_regex(text, r"\.0$", "")
    return pc.replace_substring(text, ".", ",") if decimal == "," else text
