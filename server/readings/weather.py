"""Outdoor weather from a service, for times of which a site has none.

The service answers /hourly?latitude&longitude&start&stop with {"hours": [{"time", "temp" [degC],
"humidity" [%]}, …]}; EMBER_WEATHER says where it is.
"""

import json
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings

from ember.basis.channels import QUANTITIES
from ember.basis.codes import ReasonCode
from ember.messages import Reason, because
from server.jobs.running import Tell
from server.readings.record import span_of
from server.readings.store import NotThere, StoreError, trace_of
from server.systems.models import System

WEATHER_AT_ONCE = 90 * 86_400  # asked for at once [s]
PATIENCE = 20  # for an answer [s]


@dataclass(frozen=True)
class Outdoors:
    """How much of a record knows the outdoor temperature, 0 … 1; and why none can be fetched."""

    known: float
    reason: Reason | None


def outdoors(system: System) -> Outdoors:
    """What is known outdoors, and whether the service can help."""
    described = system.installation
    channel = described.outdoor.channel
    span = span_of(system)
    if span is None:
        return Outdoors(0.0, because(ReasonCode.NO_TIME_TO_FETCH))
    known = 0.0
    if system.blocks.exists():
        trace = trace_of(system, *span, channels=(channel,))
        cells = float(np.isfinite(trace[channel]).sum()) if channel in trace else 0.0
        known = min(cells * trace.step / (span[1] - span[0]), 1.0)
    if not settings.WEATHER:
        return Outdoors(known, because(ReasonCode.NO_WEATHER_SERVICE))
    if described.location is None:
        return Outdoors(known, because(ReasonCode.NO_PLACE))
    return Outdoors(known, None)


def fetch(system: System, path: Path, tell: Tell) -> list[dict[str, Any]]:
    """Fetches the hours of a system's record into a CSV file.

    Returns
    -------
    the columns as which the file is to be read. Raises StoreError.
    """
    found = outdoors(system)
    if found.reason is not None:
        raise StoreError(f"{system.name}: {found.reason}.")
    described = system.installation
    assert described.location is not None
    span = span_of(system)
    assert span is not None
    first, last = span
    count = 0
    with path.open("w") as file:
        file.write("time,outdoor temp [°C],outdoor humidity [%]\n")
        # Whole hours within the record, so that it does not grow by them.
        for begin in range(-(-first // 3600) * 3600, last - 3599, WEATHER_AT_ONCE):
            tell(0.3 * (begin - first) / (last - first), "asking for weather")
            place = described.location.latitude, described.location.longitude
            for hour in _hours(*place, begin, min(begin + WEATHER_AT_ONCE, last - 3599)):
                file.write(f"{hour[0]},{hour[1]:g},{hour[2]:g}\n")
                count += 1
    if count < 2:
        raise NotThere(f"{system.name}: the weather service knows nothing of that time.")
    return [
        {"header": "outdoor temp [°C]", "channel": described.outdoor.channel, "unit": "degC"},
        {"header": "outdoor humidity [%]", "channel": "outdoor_humidity", "unit": "percent"},
    ]


def _hours(
    latitude: float, longitude: float, start: float, stop: float
) -> Iterator[tuple[str, float, float]]:
    """Time, temperature and humidity of each hour. Raises StoreError."""
    asked = {"latitude": latitude, "longitude": longitude, "start": _iso(start), "stop": _iso(stop)}
    address = f"{settings.WEATHER}/hourly?{urllib.parse.urlencode(asked)}"
    try:
        with urllib.request.urlopen(address, timeout=PATIENCE) as answer:
            hours = json.loads(answer.read())["hours"]
    except urllib.error.HTTPError as error:
        raise StoreError(f"The weather service refused: {error.read(300).decode()}.") from error
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise StoreError(
            f"The weather service at {settings.WEATHER} does not answer as it should ({error}). "
            "Nothing was stored; try again later."
        ) from error
    low, high = QUANTITIES["outdoor_temp"].low, QUANTITIES["outdoor_temp"].high
    for hour in hours:
        try:
            when, temp = datetime.fromisoformat(hour["time"]), float(hour["temp"])
            humidity = float(hour["humidity"])
        except (KeyError, TypeError, ValueError) as error:
            raise StoreError(f"The weather service sent an hour that is none: {hour}.") from error
        if low <= temp <= high:
            yield _iso(when.timestamp()), temp, humidity


def _iso(instant: float) -> str:
    return datetime.fromtimestamp(instant, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
