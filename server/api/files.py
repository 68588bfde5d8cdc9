"""Files that are given out: their names, and texts that no spreadsheet takes for a formula."""

import re
from collections.abc import Callable
from pathlib import Path
from tempfile import NamedTemporaryFile

from django.conf import settings
from django.http import FileResponse
from django.utils.http import content_disposition_header


def attachment(words: str, ending: str) -> str:
    """The header of a file to be saved, named by words."""
    name = "-".join(re.findall(r"[\w.]+", words.lower())) or "ember"
    header = content_disposition_header(True, f"{name}.{ending}")
    assert header is not None
    return header


def written_file(words: str, ending: str, write: Callable[[Path], None]) -> FileResponse:
    """A file that is written for this answer and gone after it."""
    with NamedTemporaryFile(suffix=f".{ending}", dir=settings.VAR) as file:
        write(Path(file.name))
        # Opened anew: the name goes with the block, what is open is still sent.
        response = FileResponse(Path(file.name).open("rb"))  # noqa: SIM115
    response["Content-Disposition"] = attachment(words, ending)
    return response


def harmless(cell: str) -> str:
    """A text that a spreadsheet shows and does not work out."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell
