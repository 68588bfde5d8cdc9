"""Requests that nobody would send, to every address of the API, with ids and dates that exist."""

import json
import random
import time
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, Verbosity, given, seed, settings
from hypothesis import strategies as st

from fuzz.stack import Stack

SLOWEST = 10.0  # an answer may take [s]
FINE = frozenset({503, 507})  # 5xx that say the truth
DATES = ("2025-10-01", "2025-10-05T05:17", "2025-11-03", "2025-11-14T23:59", "2026-02-30", "1",
         "0001-01-01", "9999-12-31T23:59", "", "2025-10-26T02:30", "-9999-01-01", "nan")  # fmt: skip
WORDS = ("", "\x00", "a\u202eb", "ü" * 300, "=1+1", "'", '"', "../..", "1e999", "x" * 5000)
# What ends the session, or removes what the others are about.
LEFT_OUT = frozenset({"/api/sign-out", "/api/sign-in", "/api/systems/{pk}/remove"})


@dataclass
class Result:
    """What came of it."""

    sent: int = 0
    answers: Counter[int] = field(default_factory=Counter)
    slowest: float = 0.0
    slowest_of: str = ""
    failures: list[str] = field(default_factory=list)


def known(stack: Stack) -> dict[str, list[Any]]:
    """Values of path parameters that exist, and some that don't."""
    pks = [row["id"] for row in stack.get("/api/systems")["rows"]]
    jobs = [job["id"] for pk in pks for job in stack.get(f"/api/systems/{pk}/jobs")]
    odd = [0, -1, 2**31, 2**63, 10**30]
    return {"pk": [*pks * 3, *odd], "job": [*jobs, *odd], "key": [*pks, *odd], "edition": [1, *odd]}


def storm(stack: Stack, examples: int, chance: int) -> Result:
    """Sends so many requests to each address.

    Parameters
    ----------
    chance : seed of the run.
    """
    schema = schemathesis.openapi.from_dict(stack.get("/api/openapi.json"))
    values = known(stack)
    found = Result()
    for result in schema.get_all_operations():
        operation = result.ok()
        if operation.path in LEFT_OUT:
            continue

        def one(case: Any, draw: random.Random) -> None:
            _aim(case, values, draw)
            _send(stack, case, found)

        _repeat(operation.as_strategy(), one, examples, chance)
    return found


def _repeat(cases: st.SearchStrategy[Any], one: Any, examples: int, chance: int) -> None:
    """Does something with so many cases of a strategy, without shrinking what fails."""

    @seed(chance)
    @settings(
        max_examples=examples, database=None, deadline=None, verbosity=Verbosity.quiet,
        phases=(Phase.generate,), suppress_health_check=list(HealthCheck),
    )
    @given(cases, st.randoms(use_true_random=False))
    def many(case: Any, draw: random.Random) -> None:
        one(case, draw)

    many()


def _aim(case: Any, values: dict[str, list[Any]], draw: random.Random) -> None:
    """Aims a case at what exists, most of the time."""
    for name in case.path_parameters or {}:
        if name in values and draw.random() < 0.9:
            case.path_parameters[name] = draw.choice(values[name])
    for name in case.query or {}:
        if name in ("start", "stop") and draw.random() < 0.9:
            case.query[name] = draw.choice(DATES)
    if isinstance(case.body, dict):
        for name, value in case.body.items():
            if isinstance(value, str) and draw.random() < 0.3:
                case.body[name] = draw.choice(DATES if name in ("start", "stop") else WORDS)
            elif isinstance(value, float) and draw.random() < 0.2:
                case.body[name] = draw.choice((0.0, -1.0, 1e308, -1e308, 5e-324))


def _send(stack: Stack, case: Any, found: Result) -> None:
    began = time.monotonic()
    headers = {"X-CSRFToken": stack.token()}
    answer = case.call(
        base_url=stack.base, cookies=stack.cookies(), headers=headers, timeout=120,
        allow_redirects=False,
    )
    took = time.monotonic() - began
    found.sent += 1
    found.answers[answer.status_code] += 1
    if took > found.slowest:
        found.slowest, found.slowest_of = took, f"{case.method} {case.formatted_path}"
    bad = answer.status_code >= 500 and answer.status_code not in FINE
    if bad or took > SLOWEST:
        body = json.dumps(case.body, default=str)[:300]
        found.failures.append(
            f"{answer.status_code} after {took:.1f} s: {case.method} {case.formatted_path} "
            f"{case.query} {body}: {answer.text[:200]}"
        )
