"""A logger that plays a simulated system into the endpoint, or over MQTT.

    python -m stand_ins.logger --token … --scenario below-rated --days 1 --speed 600

The readings are stamped so that the last of them is of now; at speed 1 it goes on in real time.
"""

import json
import time
import urllib.error
import urllib.request
from argparse import ArgumentParser
from collections.abc import Callable, Iterator
from dataclasses import replace
from http.client import HTTPException
from typing import Any

import numpy as np

from ember.basis.series import Trace
from stand_ins.catalogue import SCENARIOS
from stand_ins.scenario import simulate

Row = dict[str, Any]  # time [s] and a value for each channel, as the endpoint takes it


def rows(trace: Trace, begin: float) -> Iterator[Row]:
    """The readings row by row, stamped from `begin` on [s]."""
    channels = {name: values.tolist() for name, values in trace.channels.items()}
    for k in range(len(trace)):
        row: Row = {"time": begin + k * trace.step}
        for name, values in channels.items():
            if not np.isnan(values[k]):
                row[name] = round(values[k], 12)
        yield row


def over_http(address: str, token: str) -> Callable[[list[Row]], int]:
    """Sends batches to the endpoint; again where it is asked to wait, or nobody answers."""

    def send(batch: list[Row]) -> int:
        key = f"{batch[0]['time']:.0f}-{batch[-1]['time']:.0f}"
        body = json.dumps({"batch": key, "sent": time.time(), "readings": batch}).encode()
        headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
        request = urllib.request.Request(address, body, headers)
        while True:
            try:
                with urllib.request.urlopen(request, timeout=30) as answer:
                    return int(json.loads(answer.read())["accepted"])
            except urllib.error.HTTPError as refusal:
                if refusal.code not in (429, 503):
                    raise SystemExit(f"refused: {refusal.read().decode()}") from refusal
                time.sleep(float(refusal.headers.get("Retry-After", 5)))
            except (OSError, HTTPException):  # nobody answers, or stopped half-way through it
                time.sleep(0.5)

    return send


def over_mqtt(host: str, port: int, logger: int) -> Callable[[list[Row]], int]:
    """Publishes every reading by itself, at least once."""
    import paho.mqtt.client as paho
    from paho.mqtt.enums import CallbackAPIVersion

    client = paho.Client(CallbackAPIVersion.VERSION2)
    client.connect(host, port)
    client.loop_start()

    def send(batch: list[Row]) -> int:
        sent = []
        for row in batch:
            for name, value in row.items():
                if name != "time":
                    topic = f"honest-ember/{logger}/{name}"
                    sent.append(client.publish(topic, f"{row['time']} {value}", qos=1))
        for one in sent:
            one.wait_for_publish(30)
        return len(sent)

    return send


def play(
    trace: Trace, send: Callable[[list[Row]], int], begin: float, speed: float, per_batch: int
) -> int:
    """Plays a record at a multiple of real time; how many readings were taken."""
    started, taken = time.monotonic(), 0
    batch: list[Row] = []
    for k, row in enumerate(rows(trace, begin), 1):
        batch.append(row)
        if len(batch) < per_batch and k < len(trace):
            continue
        due = started + k * trace.step / speed
        time.sleep(max(0.0, due - time.monotonic()))
        taken += send(batch)
        batch = []
    return taken


def main() -> None:
    """The command line."""
    parser = ArgumentParser(description="Plays a simulated system as a logger would send it.")
    parser.add_argument("--scenario", choices=sorted(SCENARIOS), default="as-rated")
    parser.add_argument("--days", type=int, default=1)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--speed", type=float, default=600.0, help="times real time")
    parser.add_argument("--per-batch", type=int, default=5, help="rows sent at once")
    parser.add_argument("--address", default="http://127.0.0.1:8000/api/v1/ingest")
    parser.add_argument("--token", help="of the logger, for HTTP")
    parser.add_argument("--mqtt", metavar="HOST:PORT", help="publish there instead")
    parser.add_argument("--logger", type=int, help="its number, for MQTT")
    asked = parser.parse_args()
    scenario = replace(SCENARIOS[asked.scenario], days=asked.days, seed=asked.seed)
    trace = simulate(scenario).trace()
    if asked.mqtt:
        if asked.logger is None:
            parser.error("--mqtt needs --logger, its number.")
        host, _, port = asked.mqtt.partition(":")
        send = over_mqtt(host, int(port or 1883), asked.logger)
    else:
        if not asked.token:
            parser.error("--token is needed; the Log screen gives one under Live.")
        send = over_http(asked.address, asked.token)
    real = asked.speed == 1
    begin = time.time() // trace.step * trace.step
    begin -= 0 if real else len(trace) * trace.step
    print(f"{play(trace, send, begin, asked.speed, asked.per_batch):,} readings taken.")


if __name__ == "__main__":
    main()
