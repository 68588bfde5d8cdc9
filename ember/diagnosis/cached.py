"""Findings as bytes and back."""

from pydantic import TypeAdapter

from ember.diagnosis.catalogue import Findings

_FOUND = TypeAdapter(Findings)


def to_json(found: Findings) -> str:
    """Findings and the verdicts not made, as JSON."""
    return _FOUND.dump_json(found).decode()


def from_json(content: str) -> Findings:
    """What was written. Raises ValueError if it is not that."""
    return _FOUND.validate_json(content)
