"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.installations"""

    name = "server.installations"
    label = "installations"
