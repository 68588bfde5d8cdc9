"""The app's place in Django."""

from django.apps import AppConfig


class Config(AppConfig):
    """server.assessments"""

    name = "server.assessments"
    label = "analysis"  # under which its tables were made
