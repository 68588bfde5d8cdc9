"""Requests that nobody would send, to every address of the API, with ids and dates that exist."""

import json
import random
import time
from collections import Counter
from dataclasses import dataclass, field
from typing import Any, Protocol

import schemathesis
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from hypothesis import strategies as st

SLOWEST = 10.0  # an answer may take [s]
FINE = frozenset({503, 507})  # 5xx that say the truth
DATES = (
    "2025-10-01", "2025-10-05T05:17", "2025-10-11", "2025-10-12T23:59", "2026-02-30", "1",
    "0001-01-01", "9999-12-31T23:59", "", "2025-10-26T02:30", "-9999-01-01", "nan", "2025-10",
)  # fmt: skip
WORDS = ("", "\x00", "a\u202eb", "ü" * 300, "=1+1", "'", '"', "../..", "1e999", "x" * 5000, "<5")
NUMBERS = (0.0, -1.0, 1e308, -1e308, 5e-324, 1e30, 10**30, -(2**63))
# What ends the session, or removes what the others are about.
LEFT_OUT = frozenset({
    ("POST", "/api/v1/sign-out"), ("POST", "/api/v1/sign-in"), ("DELETE", "/api/v1/systems/{pk}"),
})  # fmt: skip


class Target(Protocol):
    """An application that is attacked."""

    def get(self, path: str) -> Any:
        """The JSON of an address."""

    def answer(self, case: Any) -> tuple[int, str]:
        """Status and text of what a case is answered with."""


@dataclass
class Result:
    """What came of it."""

    sent: int = 0
    answers: Counter[int] = field(default_factory=Counter)
    slowest: float = 0.0
    slowest_of: str = ""
    failures: list[str] = field(default_factory=list)


def known(target: Target) -> dict[str, list[Any]]:
    """Values of path parameters that exist, and some that don't."""
    pks = [row["id"] for row in target.get("/api/v1/systems")["rows"]]
    jobs = [job["id"] for pk in pks for job in target.get(f"/api/v1/systems/{pk}/jobs")]
    odd = [0, -1, 2**31, 2**63, 10**30]
    return {
        "pk": [*pks * 3, *jobs[:3], *odd],
        "job": [*jobs, *odd],
        "key": [*pks, *odd],
        "edition": [*range(1, 6), *odd],
        "code": ["below_rated", "oversized", "none"],
    }


def storm(target: Target, examples: int, chance: int) -> Result:
    """Sends so many requests to each address.

    Parameters
    ----------
    chance : seed of the run.
    """
    schema = schemathesis.openapi.from_dict(target.get("/api/v1/openapi.json"))
    values = known(target)
    found = Result()
    for result in schema.get_all_operations():
        operation: Any = result.ok()
        if (operation.method.upper(), operation.path) not in LEFT_OUT:
            _repeat(operation.as_strategy(), target, values, found, examples, chance)
    return found


def _repeat(
    cases: st.SearchStrategy[Any],
    target: Target,
    values: dict[str, list[Any]],
    found: Result,
    examples: int,
    chance: int,
) -> None:
    """Sends so many cases of an operation; what fails is not made smaller."""

    @seed(chance)
    @settings(
        max_examples=examples,
        database=None,
        deadline=None,
        verbosity=Verbosity.quiet,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    @given(cases, st.randoms(use_true_random=False))
    def many(case: Any, draw: random.Random) -> None:
        _aim(case, values, draw)
        _sent(target, case, found)

    many()


def _aim(case: Any, values: dict[str, list[Any]], draw: random.Random) -> None:
    """Aims a case at what exists, most of the time; and puts odd values where they may stand."""
    for name in case.path_parameters or {}:
        if name in values and draw.random() < 0.9:
            case.path_parameters[name] = draw.choice(values[name])
    for name in case.query or {}:
        if name in ("start", "stop") and draw.random() < 0.9:
            case.query[name] = draw.choice(DATES)
    if isinstance(case.body, dict):
        _odd(case.body, draw)


def _odd(content: dict[str, Any], draw: random.Random) -> None:
    for name, value in content.items():
        if isinstance(value, str) and draw.random() < 0.3:
            content[name] = draw.choice(DATES if name in ("start", "stop", "time") else WORDS)
        elif isinstance(value, float | int) and draw.random() < 0.2:
            content[name] = draw.choice(NUMBERS)
        elif isinstance(value, dict):
            _odd(value, draw)
        elif isinstance(value, list):
            for one in value:
                if isinstance(one, dict):
                    _odd(one, draw)


def _sent(target: Target, case: Any, found: Result) -> None:
    began = time.monotonic()
    status, text = target.answer(case)
    took = time.monotonic() - began
    found.sent += 1
    found.answers[status] += 1
    if took > found.slowest:
        found.slowest, found.slowest_of = took, f"{case.method} {case.formatted_path}"
    if (status >= 500 and status not in FINE) or took > SLOWEST:
        body = json.dumps(case.body, default=str)[:300]
        found.failures.append(
            f"{status} after {took:.1f} s: {case.method} {case.formatted_path} {case.query} "
            f"{body}: {text[:200]}"
        )
