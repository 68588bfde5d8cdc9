"""All installations, or one, as a file; and a file as installations."""

from typing import Any

from django.http import FileResponse, HttpRequest
from ninja import File, Router
from ninja.files import UploadedFile

from server.api.files import written_file
from server.api.fleet import Described, get_system
from server.api.jobs import JobShown, result_of, shown
from server.archives.archive import stamp, whole, write
from server.jobs.queueing import start
from server.readings.uploads import aside, forget, name_of, small_enough
from server.readings.uploads import write as written

router = Router(tags=["fleet"])


@router.get("/systems/{pk}/archive")
def archived(request: HttpRequest, pk: int) -> FileResponse:
    """A whole installation as one file that comes in again equal."""
    found = get_system(pk)
    return written_file(f"{found.name} {stamp()}", "zip", lambda path: write([found], path))


@router.get("/archive")
def all_archived(request: HttpRequest) -> FileResponse:
    """All installations as one file that comes in again equal."""
    return written_file(f"honest ember {stamp()}", "zip", whole)


@router.post("/archive", response=JobShown)
def bring_in(request: HttpRequest, archive: File[UploadedFile]) -> JobShown:
    """Brings the installations of an archive in, all or none, as a job; then their figures are
    worked out."""
    name = name_of(archive, "archive.zip")
    small_enough(archive, name)
    folder = aside()
    try:
        written(archive, folder / name)
    except OSError:
        forget(folder)
        raise
    title = f"Bringing in {name}"[:200]
    return shown(start("archive", title, None, request.user, file=str(folder / name)))


@router.get("/jobs/{job}/systems", response=list[Described])
def brought(request: HttpRequest, job: int) -> Any:
    """The installations that were brought in, once the job is done."""
    return result_of(job, "systems")
