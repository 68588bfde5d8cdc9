"""A described system and its logs, small, from the stand-ins. Invented data."""

import json
import logging
from dataclasses import replace
from functools import cache
from pathlib import Path
from tempfile import mkdtemp
from typing import Any
from unittest import TestCase

from django.contrib.auth.models import User
from django.test import Client

from ember.description.installation import Installation
from server.systems.models import System
from stand_ins.dialects import write_log
from stand_ins.scenario import rated_table
from tests.core.helpers import simulated

# Of an observation that changes nothing.
NO_CHANGE = {"photo": "", "cost": None, "done_by": ""}


@cache
def log(key: str = "as-rated", days: int = 12, dialect: str = "plain") -> Path:
    """A log of a scenario in a dialect, written once."""
    folder = Path(mkdtemp(prefix="ember-log-"))
    path = folder / f"{key}-{days}-{dialect}.csv"
    write_log(simulated(key, days=days), path, dialect)
    return path


def described(key: str = "as-rated", days: int = 12, name: str | None = None) -> Installation:
    """Its description with its rated table, under another name if one is given."""
    done = simulated(key, days=days)
    base = done.installation
    return replace(base, rated=rated_table(done.scenario.plant), name=name or base.name)


def system(key: str = "as-rated", days: int = 12, name: str | None = None) -> System:
    """The system, described and empty."""
    return System.describe(described(key, days, name))


def part(path: Path, first: int, last: int, name: str) -> Path:
    """Rows first … last − 1 of a log under its header, as a file of their own."""
    lines = path.read_text().splitlines(keepends=True)
    made = Path(mkdtemp(prefix="ember-part-")) / name
    made.write_text("".join([lines[0], *lines[1 + first : 1 + last]]))
    return made


def signed_in() -> Client:
    """A browser that is signed in."""
    user, _ = User.objects.get_or_create(username="tester")
    client = Client()
    client.force_login(user)
    return client


def quiet(test: TestCase, name: str) -> None:
    """Keeps a logger silent during a test whose subject is what it would say."""
    logger = logging.getLogger(name)
    test.addCleanup(logger.setLevel, logger.level)
    logger.setLevel(logging.CRITICAL)


def send(client: Client, method: str, path: str, body: Any = None) -> Any:
    """A request with a JSON body. method : post, put, patch or delete."""
    return getattr(client, method)(path, json.dumps(body), content_type="application/json")
