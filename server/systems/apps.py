"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.systems"""

    name = "server.systems"
    label = "installations"  # under which its tables were made
