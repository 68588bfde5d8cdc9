"""A short, seeded part of `make fuzz`: odd requests to every address, odd files to each reader."""

import json
import tempfile
from pathlib import Path
from typing import Any

import requests
from django.test import Client, TransactionTestCase

from ember.description.installation import Installation
from fuzz.api import storm
from fuzz.files import attack
from server.archives import archive
from server.assessments.cache import cache_results
from server.readings.live import register
from server.readings.store import store
from server.systems.models import LibraryTable
from tests.server.helpers import described, log, quiet, signed_in, system

SEED = 20_261_129
REQUESTS, FILES = 1, 2


class InProcess:
    """The application without a server around it."""

    def __init__(self, client: Client) -> None:
        self.client = client

    def get(self, path: str) -> Any:
        """The JSON of an address."""
        return self.client.get(path).json()

    def answer(self, case: Any) -> tuple[int, str]:
        """Status and text of what a case is answered with."""
        given = case.as_transport_kwargs(base_url="http://testserver")
        given.pop("allow_redirects", None)
        given = {k: v for k, v in given.items() if k in requests.Request().__dict__}
        sent = requests.Request(**given).prepare()
        answer = self.client.generic(
            sent.method or "GET",
            (sent.url or "").removeprefix("http://testserver"),
            sent.body or b"",
            sent.headers.get("Content-Type", "application/json"),
        )
        text = b"" if answer.streaming else answer.content
        return answer.status_code, text.decode("utf-8", "replace")


class Fuzz(TransactionTestCase):
    described: Installation

    def setUp(self) -> None:
        quiet(self, "django.request")
        self.described = described()
        self.system = system()
        store(self.system, log())
        cache_results(self.system)
        register(self.system, "cellar")
        table = json.loads(self.system.description)["rated"]
        LibraryTable.objects.create(name="Type 8", table=json.dumps(table))

    def test_no_request_fails_the_server(self) -> None:
        client = signed_in()
        client.raise_request_exception = False
        found = storm(InProcess(client), REQUESTS, SEED)
        self.assertEqual(found.failures, [])
        self.assertGreater(found.sent, 80)
        self.assertGreater(found.answers[200], 40, "most addresses answer what is asked")

    def test_no_file_fails_its_reader(self) -> None:
        whole = Path(self.enterContext(tempfile.TemporaryDirectory())) / "all.zip"
        archive.whole(whole)
        found = attack(self.described, whole, FILES, SEED)
        self.assertEqual(found.failures, [])
        readers = {*found.read, *found.refused}
        self.assertLessEqual({"csv", "xlsx", "parquet", "archive", "description"}, readers)
