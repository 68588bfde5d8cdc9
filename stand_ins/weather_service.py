"""A weather service over HTTP that makes its weather up. The same place always has the same.

python -m stand_ins.weather_service --port 8001
GET /hourly?latitude=54.1&longitude=-3.2&start=2026-01-01T00:00:00Z&stop=2026-01-02T00:00:00Z
"""

import json
from argparse import ArgumentParser
from datetime import UTC, datetime
from functools import lru_cache
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

import numpy as np

from stand_ins.weather import Weather, weather

FIRST = datetime(2020, 1, 1, tzinfo=UTC).timestamp()
DAYS = 3650
MOST_HOURS = 24 * 400


@lru_cache(8)
def _course(latitude: float, longitude: float) -> Weather:
    rng = np.random.default_rng([round(latitude * 10) + 900, round(longitude * 10) + 1800])
    return weather(rng, 1, DAYS, mean=8.5 + (54.0 - latitude) * 0.6)


def hourly(latitude: float, longitude: float, start: float, stop: float) -> list[dict[str, object]]:
    """Each whole hour between two instants: time, temp [degC], humidity [%]."""
    course = _course(round(latitude, 1), round(longitude, 1))
    found: list[dict[str, object]] = []
    for hour in range(int(-(-(start - FIRST) // 3600)), int(-(-(stop - FIRST) // 3600))):
        if 0 <= hour < len(course.temp):
            when = datetime.fromtimestamp(FIRST + hour * 3600, UTC)
            found.append(
                {
                    "time": f"{when:%Y-%m-%dT%H:%M:%SZ}",
                    "temp": round(float(course.temp[hour]), 2),
                    "humidity": round(float(course.humidity[hour]) * 100, 1),
                }
            )
    return found


class Service(BaseHTTPRequestHandler):
    """Answers /hourly."""

    def do_GET(self) -> None:
        """The hours asked for, or a sentence."""
        asked = urlsplit(self.path)
        query = {name: values[0] for name, values in parse_qs(asked.query).items()}
        try:
            if asked.path != "/hourly":
                raise ValueError("ask for /hourly")
            start, stop = (
                datetime.fromisoformat(query[name]).timestamp() for name in ("start", "stop")
            )
            if stop - start > MOST_HOURS * 3600:
                raise ValueError(f"at most {MOST_HOURS} hours at once")
            hours = hourly(float(query["latitude"]), float(query["longitude"]), start, stop)
            self._answer(200, {"source": "made-up weather", "hours": hours})
        except (KeyError, ValueError) as error:
            self._answer(400, {"detail": str(error)})

    def _answer(self, status: int, content: object) -> None:
        body = json.dumps(content).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        """Says nothing."""


def main() -> None:
    """The command line."""
    parser = ArgumentParser(description="A weather service that makes its weather up.")
    parser.add_argument("--port", type=int, default=8001)
    ThreadingHTTPServer(("127.0.0.1", parser.parse_args().port), Service).serve_forever()


if __name__ == "__main__":
    main()
