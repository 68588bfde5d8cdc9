"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.accounts"""

    name = "server.accounts"
    label = "people"  # under which its tables were made
