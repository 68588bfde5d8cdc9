"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.logbook"""

    name = "server.logbook"
    label = "logbook"

    def ready(self) -> None:
        """Makes its jobs known."""
        import server.logbook.jobs  # noqa: F401
