"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.demo"""

    name = "server.demo"
