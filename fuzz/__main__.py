"""python -m fuzz: everything at length; see docs/validation.md for what it asks."""

import argparse
import os
import sys
import tempfile
import time
import warnings
from pathlib import Path

SYSTEMS = ("as-rated", "air", "gauges", "by-hand", "one-meter", "heads")
MOST_MEMORY = 400.0  # of the web server after the storm [MB]


def main() -> None:
    """Attacks in turn; ends with what failed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=int(time.time()) % 100_000)
    parser.add_argument("--requests", type=int, default=55, help="to each address")
    parser.add_argument("--files", type=int, default=60, help="of each kind")
    parser.add_argument("--rounds", type=int, default=2, help="of kills in each kind of job")
    asked = parser.parse_args()
    warnings.simplefilter("ignore")
    os.environ["EMBER_VAR"] = tempfile.mkdtemp(prefix="ember-fuzz-")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings.demo")
    import django

    django.setup()
    from ember.description.as_json import read_installation
    from fuzz import api, disk, files, kills
    from fuzz.stack import Stack
    from tests.browser import stack as demo

    demo.DAYS, demo.SHOWN = 30, SYSTEMS
    print(f"seed {asked.seed}")
    failures: list[str] = []

    stack = Stack()
    try:
        storm = api.storm(stack, asked.requests, asked.seed)
        held = stack.memory()
        print(f"{storm.sent:,} requests: {dict(sorted(storm.answers.items()))}")
        print(f"slowest {storm.slowest:.1f} s ({storm.slowest_of}); memory {held} MB")
        failures += storm.failures
        if held["web"] > MOST_MEMORY:
            failures.append(f"the web server holds {held['web']:.0f} MB")
        if not stack.alive():
            failures.append("a process ended")
        archive = stack.var / "all.zip"
        with stack.opener.open(f"{stack.base}/api/v1/archive", timeout=120) as answer:
            archive.write_bytes(answer.read())
        described = read_installation(stack.var / "demo" / "as-rated" / "installation.json")
        read = files.attack(described, archive, asked.files, asked.seed)
        print(f"files read {dict(read.read)}, refused {dict(read.refused)}")
        print(f"slowest {read.slowest:.1f} s ({read.slowest_of}); {read.most_memory():.0f} MB")
        failures += read.failures
        if read.most_memory() > files.MOST_MEMORY:
            failures.append(f"reading took {read.most_memory():.0f} MB")
    finally:
        stack.close()

    stack = Stack()
    try:
        sent = kills.senders(stack, "Nursery", 4, 1500, asked.seed)
        print(f"{sent.killed} kills while {sent.acknowledged:,} readings were acknowledged")
        failures += sent.failures
        small = stack.var / "demo" / "as-rated" / "log.csv"
        large = kills.large_log(stack.var / "large.csv")
        for log, rounds in ((small, asked.rounds), (large, max(1, asked.rounds // 2))):
            done = kills.Jobs(stack, asked.seed).run("Nursery", log, rounds)
            size = log.stat().st_size / 1e6
            print(f"{size:.0f} MB log: {done.killed} kills, {done.in_work} of them in the work")
            failures += done.failures
    finally:
        stack.close()

    stack = Stack()
    log = stack.var / "demo" / "as-rated" / "log.csv"
    kept = Path(os.environ["EMBER_VAR"]) / "log.csv"
    kept.write_bytes(log.read_bytes())
    stack.close()
    full = disk.fill_up("Nursery", kept)
    print("no disk could be mounted here" if full is None else "a full disk, and room again")
    failures += full or []

    for failure in failures:
        print(f"FAILED {failure}")
    print(f"{len(failures)} failures")
    sys.exit(bool(failures))


if __name__ == "__main__":
    main()
