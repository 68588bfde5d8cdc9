"""Live readings under load, sent by a process of its own.

python -m speed.live ADDRESS SECONDS BEGIN     tokens on standard input, one a line
"""

import json
import sys
import threading
import time
from dataclasses import dataclass
from http.client import HTTPConnection
from urllib.parse import urlsplit

RATE = 200  # batches a second, all loggers together
READINGS = 25  # in a batch


@dataclass
class Found:
    """taken : readings that were accepted; waits : from when a batch was due to its answer [s]."""

    taken: int
    waits: list[float]
    refused: int


def send(address: str, tokens: list[str], seconds: float, base: float) -> Found:
    """Sends at a steady rate, each logger over a connection of its own."""
    host = urlsplit(address).netloc
    found = Found(0, [], 0)
    lock = threading.Lock()
    begin = time.perf_counter() + 0.5
    apart = len(tokens) / RATE

    def one(number: int, token: str) -> None:
        connection = HTTPConnection(host, timeout=60)
        headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
        for k in range(round(seconds / apart)):
            due = begin + k * apart + number / RATE
            time.sleep(max(0.0, due - time.perf_counter()))
            row = {f"T{c}": 20.0 + c + k % 7 for c in range(READINGS - 1)}
            row["flow_temp"] = 30.0 + k % 5
            body = json.dumps({"readings": [{"time": base + k, **row}]}).encode()
            connection.request("POST", "/api/v1/ingest", body, headers)
            answer = connection.getresponse()
            said = json.loads(answer.read())
            with lock:
                found.waits.append(time.perf_counter() - due)
                found.taken += said.get("accepted", 0)
                found.refused += answer.status != 200

    threads = [threading.Thread(target=one, args=(k, t)) for k, t in enumerate(tokens)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


def main() -> None:
    """Prints what was found as JSON."""
    address, seconds, base = sys.argv[1], float(sys.argv[2]), float(sys.argv[3])
    found = send(address, sys.stdin.read().split(), seconds, base)
    print(json.dumps(found.__dict__))


if __name__ == "__main__":
    main()
