"""Weather files: EPW and TMY3, read by pvlib.

A file of a real year is a log of outdoor readings like any other. A typical year is put together of
months of several years: no weather of any real time, and never a reading.
"""

import re
from datetime import timedelta
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from ember.basis.errors import IntakeError
from ember.basis.series import Trace

if TYPE_CHECKING:
    import pandas as pd

WEATHER_HOURS = 8760
WEATHER_YEAR = 978_307_200  # 2001-01-01T00:00Z, a year without a 29 February
_TMY3 = re.compile(rb"^[^\r\n]*\r?\n\"?Date \(MM/DD/YYYY\)")


def is_weather(head: bytes) -> bool:
    """Whether a file begins like EPW or TMY3."""
    return head.startswith(b"LOCATION,") or _TMY3.match(head) is not None


def weather_csv(path: Path) -> tuple[str, str]:
    """A weather file of real time as CSV text, UTC; and what it is, in words.

    Raises IntakeError for a typical year, and where the file is damaged.
    """
    import pandas as pd

    table, what = _read(path)
    hours = pd.DatetimeIndex(table.index)
    if not hours.is_monotonic_increasing:
        years = f"{hours.year.min()} to {hours.year.max()}"
        raise IntakeError(
            f"{path.name}: this is a typical year, put together of months of {years}: no "
            "weather of any real time, so it is not stored as readings. For the record take one of "
            "the real year, or fetch the weather of this place."
        )
    stamps = hours.tz_convert("UTC").strftime("%Y-%m-%dT%H:%M:%SZ")
    lines = ["time,outdoor temp [°C],outdoor humidity [%],global radiation [W/m2]"]
    for stamp, temp, humidity, sun in zip(
        stamps, table["temp_air"], table["relative_humidity"], table["ghi"], strict=True
    ):
        lines.append(f"{stamp},{temp},{humidity},{sun}")
    return "\n".join(lines) + "\n", what


def typical_year(path: Path) -> Trace:
    """The 8760 hours of a weather file, whatever years its months are of.

    Returns
    -------
    Trace from 2001-01-01T00:00 by the file's own standard time, hourly: outdoor_temp [degC],
    outdoor_humidity [%], solar_radiation [W/m2]. Raises IntakeError.
    """
    table, _ = _read(path)
    if len(table) != WEATHER_HOURS:
        raise IntakeError(
            f"{path.name}: {len(table):,} hours; a year of weather has {WEATHER_HOURS:,}."
        )
    columns = {
        "outdoor_temp": "temp_air",
        "outdoor_humidity": "relative_humidity",
        "solar_radiation": "ghi",
    }
    channels = {name: table[column].to_numpy(np.float64) for name, column in columns.items()}
    return Trace(WEATHER_YEAR, 3600, channels)


def _read(path: Path) -> tuple["pd.DataFrame", str]:
    """Hours stamped with the instant at which they were read: both formats give the air at the end
    of the hour that they name."""
    from pvlib import iotools

    with path.open("rb") as file:
        epw = file.read(16).startswith(b"LOCATION,")
    try:
        if epw:
            table, _ = iotools.read_epw(str(path))
            table.index = table.index + timedelta(hours=1)  # it stamps their beginning
        else:
            table, _ = iotools.read_tmy3(str(path), map_variables=True)
    except (ValueError, KeyError, IndexError, TypeError, UnicodeDecodeError) as error:
        kind = "EPW" if epw else "TMY3"
        raise IntakeError(
            f"{path.name}: it begins like a weather file ({kind}) and cannot be read as one "
            f"({error}). Download it again."
        ) from error
    return table, f"{'EPW' if epw else 'TMY3'} weather file"
