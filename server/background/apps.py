"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.background"""

    name = "server.background"
