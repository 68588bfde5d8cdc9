"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.readings"""

    name = "server.readings"
    label = "logbook"  # under which its tables were made
