"""The app's place in Django."""

from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules


class Config(AppConfig):
    """server.jobs"""

    name = "server.jobs"
    label = "work"  # under which its tables were made

    def ready(self) -> None:
        """Makes known what every app does in the worker: its `handlers` and its `upkeep`."""
        autodiscover_modules("handlers", "live_figures", "upkeep")
