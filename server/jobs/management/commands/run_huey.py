"""python manage.py run_huey: the worker, one on a folder of data."""

from typing import Any

from huey.contrib.djhuey.management.commands.run_huey import Command as Consumer

from server.jobs.alone import alone


class Command(Consumer):  # type: ignore[misc]
    """huey's own, behind a lock."""

    requires_system_checks: tuple[str, ...] = ()  # they would load every address of the API

    def handle(self, *args: Any, **options: Any) -> None:
        """Works until it is stopped."""
        with alone("worker"):
            super().handle(*args, **options)
