"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.analysis"""

    name = "server.analysis"
    label = "analysis"

    def ready(self) -> None:
        """Makes its jobs known."""
        import server.analysis.cache
        import server.analysis.proposed  # noqa: F401
