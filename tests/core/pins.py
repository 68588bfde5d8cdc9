"""Twenty varied assessments as they were: what a change that is to change nothing must give again.

    python -m tests.core.pins

writes them anew, after a change that was meant to change figures; then read the difference.
"""

import json
import lzma
from collections.abc import Iterator
from dataclasses import replace
from math import isclose
from pathlib import Path
from typing import Any

from ember.assessment.assess import assess
from ember.assessment.export import to_json
from ember.assessment.former import upgraded
from ember.assessment.results import Assessment
from stand_ins.catalogue import varied
from stand_ins.scenario import rated_table, simulate
from stand_ins.varrick import INSTALLATIONS

FOLDER = Path(__file__).parent / "pinned"
DAYS = 14
NAMED = (
    "as-rated", "below-rated", "swapped", "offset", "glycol", "iced", "gauges", "heads",
    "one-meter", "tank",
)  # fmt: skip
KINDS = 10  # drawn at random, one of each kind
CLOSE = 1e-9


def names() -> list[str]:
    """What they are called."""
    return [*NAMED, *(f"varied-{k}" for k in range(KINDS))]


def assessed(name: str) -> Assessment:
    """One of them, worked out now."""
    if name in NAMED:
        done = simulate(replace(INSTALLATIONS[name], days=DAYS, panels=0.0))
        table = None if name == "heads" else rated_table(done.scenario.plant)
        # They are older than panels and batteries.
        described = replace(done.installation, rated=table, supply=None)
        return assess(described, done.trace())
    done = simulate(varied(int(name.removeprefix("varied-")), DAYS)[1])
    return assess(done.installation, done.trace())


def written(name: str) -> dict[str, Any]:
    """It as JSON, as it goes out."""
    content: dict[str, Any] = json.loads(to_json(assessment=assessed(name)))
    return content


def kept(name: str) -> dict[str, Any]:
    """It as JSON, as it was; those of version 1 as they are read today."""
    content = json.loads(lzma.decompress((FOLDER / f"{name}.json.xz").read_bytes()))
    found: dict[str, Any] = upgraded(content)
    return found


def differences(before: Any, now: Any, path: str = "") -> Iterator[str]:
    """Where two of them differ; floats by more than CLOSE."""
    if isinstance(before, dict) and isinstance(now, dict):
        for key in sorted({*before, *now}):
            if key not in before or key not in now:
                yield f"{path}.{key}: only {'now' if key in now else 'before'}"
            else:
                yield from differences(before[key], now[key], f"{path}.{key}")
    elif isinstance(before, list) and isinstance(now, list):
        if path.endswith(".budget"):  # its sources stand in no order
            before, now = (sorted(one, key=_source) for one in (before, now))
        if len(before) != len(now):
            yield f"{path}: {len(now)} entries, {len(before)} before"
        for k, (one, other) in enumerate(zip(before, now, strict=False)):
            yield from differences(one, other, f"{path}[{k}]")
    elif isinstance(before, float) and isinstance(now, float | int):
        if not isclose(before, now, rel_tol=CLOSE, abs_tol=CLOSE):
            yield f"{path}: {now!r}, {before!r} before"
    elif before != now:
        yield f"{path}: {str(now)[:80]!r}, {str(before)[:80]!r} before"


def _source(part: dict[str, Any]) -> tuple[str, str, str]:
    return part["code"], part["of"], part["source"]


def main() -> None:
    """Writes them anew."""
    FOLDER.mkdir(exist_ok=True)
    for name in names():
        content = json.dumps(written(name), separators=(",", ":"), sort_keys=True).encode()
        packed = lzma.compress(content, preset=9)
        (FOLDER / f"{name}.json.xz").write_bytes(packed)
        print(f"{name}: {len(content) / 1e3:.0f} kB, {len(packed) / 1e3:.0f} kB packed")


if __name__ == "__main__":
    main()
