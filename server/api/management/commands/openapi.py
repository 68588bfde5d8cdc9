"""python manage.py openapi: the API's schema, from which the screens' types are made."""

import json
from typing import Any

from django.core.management.base import BaseCommand

from server.api.app import api


class Command(BaseCommand):
    """Prints the schema as JSON."""

    help = "Prints the OpenAPI schema of the API."

    def handle(self, *args: Any, **options: Any) -> None:
        """Prints it with keys in order, so that a change shows as a change."""
        self.stdout.write(json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True))
