"""Files that are given out: their names, and texts that no spreadsheet takes for a formula."""

import re

from django.utils.http import content_disposition_header


def attachment(words: str, ending: str) -> str:
    """The header of a file to be saved, named by words."""
    name = "-".join(re.findall(r"[\w.]+", words.lower())) or "ember"
    header = content_disposition_header(True, f"{name}.{ending}")
    assert header is not None
    return header


def harmless(cell: str) -> str:
    """A text that a spreadsheet shows and does not work out."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell
