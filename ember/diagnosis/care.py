"""Cautions, and who may do what; common practice. Local codes and licensed practice decide."""

from ember.messages import words_of

say = words_of(__name__)


def care(*names: str) -> str:
    """Cautions by their names, one after the other."""
    return " ".join(say(name) for name in names)
