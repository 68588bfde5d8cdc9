"""Files that were sent: written whole or not at all, and gone when nobody needs them any more."""

import secrets
import shutil
from collections.abc import Iterable
from datetime import timedelta
from pathlib import Path
from typing import Protocol

from django.conf import settings
from django.utils import timezone

from ember.basis.errors import IntakeError
from server.readings.models import Upload

UPLOADS_KEPT_FOR = timedelta(days=7)  # a file that was sent and never stored
UPLOADS_LONGEST = 200  # bytes of a name; what is kept beside a file has a longer one


class Uploaded(Protocol):
    """A file as Django hands it out."""

    name: str | None
    size: int | None

    def chunks(self) -> Iterable[bytes]:
        """Its bytes."""


def name_of(sent: Uploaded, otherwise: str = "log.csv") -> str:
    """The name under which a file is kept: its own, as far as a disk can hold it."""
    name = Path((sent.name or "").replace("\\", "/")).name or otherwise
    name = "".join(letter for letter in name if letter.isprintable())
    stem, dot, ending = name.rpartition(".")
    if len(name.encode("utf-8", "replace")) <= UPLOADS_LONGEST and name.strip(". "):
        return name
    short = (
        (stem or otherwise)
        .encode("utf-8", "replace")[: UPLOADS_LONGEST - 20]
        .decode("utf-8", "ignore")
    )
    return f"{short}{dot}{ending[:12]}"


def small_enough(sent: Uploaded, name: str) -> None:
    """Raises IntakeError for a file that is too large."""
    if (sent.size or 0) > settings.LARGEST_UPLOAD:
        limit = settings.LARGEST_UPLOAD >> 20
        raise IntakeError(f"{name}: larger than {limit} MB. Send it in parts, or gzipped.")


def write(sent: Uploaded, path: Path) -> None:
    """Writes a file; where that fails nothing of it stays, so that a full disk is not kept full."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with path.open("wb") as out:
            for chunk in sent.chunks():
                out.write(chunk)
    except OSError:
        path.unlink(missing_ok=True)
        raise


def aside() -> Path:
    """A new folder for files that belong to no system yet."""
    sweep()
    return settings.UPLOADS / f"aside-{secrets.token_hex(8)}"


def forget(folder: Path) -> None:
    """Removes such a folder."""
    if folder.parent == settings.UPLOADS:
        shutil.rmtree(folder, ignore_errors=True)


def sweep() -> None:
    """Forgets files that were sent long ago and never stored."""
    before = timezone.now() - UPLOADS_KEPT_FOR
    for upload in Upload.objects.filter(created__lt=before):
        upload.forget()
    for folder in settings.UPLOADS.glob("aside-*"):
        if folder.stat().st_mtime < before.timestamp():
            forget(folder)
