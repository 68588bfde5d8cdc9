"""The process that unpacks one file, and who waits for it.

    python -m ember.unpacked.apart KIND FILE TARGET

writes the text to TARGET, and says on standard output, as JSON, what the file was or why it is
refused.
"""

import json
import os
import resource
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from pathlib import Path

import pyarrow as pa

from ember.basis.errors import IntakeError
from ember.unpacked.formats import FORMATS_HEAD, FORMATS_LARGEST, Source, kind_of, to_text

MEMORY = 1 << 30  # that the process may take [bytes]
APART_AT_ONCE = 2  # processes
APART_EVERY = 0.05  # its end is looked for [s]
APART_REMEMBERED = 64 << 20  # text of the last file that is kept for who asks again [bytes]


@dataclass(frozen=True)
class Limits:
    """What unpacking one file may cost.

    Attributes
    ----------
    abandoned : Callable[[], bool]
        whether nobody waits for it any more.
    """

    seconds: float = 300.0
    abandoned: Callable[[], bool] = lambda: False


_USUAL = Limits()
_limits: ContextVar[Limits] = ContextVar("limits", default=_USUAL)
_room = threading.BoundedSemaphore(APART_AT_ONCE)
_Key = tuple[str, str, int, int]
_last: tuple[_Key, Source] | None = None
APART_KEPT = ".text"  # behind a file's name: its text, kept beside it
APART_SHORT = (
    b"MemoryError",
    b"memory allocation of",
    b"Cannot allocate memory",
    b"malloc of size",
)


@contextmanager
def limited(limits: Limits) -> Iterator[None]:
    """Within it, files are unpacked within these limits."""
    before = _limits.set(limits)
    try:
        yield
    finally:
        _limits.reset(before)


def unpacked(path: Path, kind: str) -> Source:
    """The text in a file of a kind, as `formats.kind_of` names it. Raises IntakeError."""
    global _last
    kept = path.with_name(path.name + APART_KEPT)
    what = path.with_name(path.name + APART_KEPT + ".json")
    if what.exists() and kept.exists():
        return Source(pa.memory_map(str(kept)).read_buffer(), json.loads(what.read_bytes())["what"])
    about = path.stat()
    key = (kind, str(path), about.st_size, about.st_mtime_ns)
    last = _last
    if last is not None and last[0] == key:
        return last[1]
    source = _made(path, kind)
    if len(source.buffer) <= APART_REMEMBERED:
        _last = key, source
    return source


def keep(path: Path) -> None:
    """Unpacks a file that is packed, and keeps its text beside it for who reads it from then on.

    Raises IntakeError.
    """
    kind = _packed_as(path)
    if kind is None:
        return
    source = _made(path, kind)
    fresh = path.with_name(path.name + APART_KEPT + ".new")
    try:
        with fresh.open("wb") as out:
            out.write(source.buffer)
        fresh.replace(path.with_name(path.name + APART_KEPT))
        path.with_name(path.name + APART_KEPT + ".json").write_text(
            json.dumps({"what": source.what})
        )
    except OSError:
        fresh.unlink(missing_ok=True)
        raise


def is_packed(path: Path) -> bool:
    """Whether a file is packed, and its text does not lie beside it yet."""
    return _packed_as(path) is not None


def _packed_as(path: Path) -> str | None:
    if path.with_name(path.name + APART_KEPT + ".json").exists():
        return None
    with path.open("rb") as file:
        return kind_of(file.read(FORMATS_HEAD))


def _made(path: Path, kind: str) -> Source:
    with tempfile.TemporaryDirectory(prefix="ember-unpacked-") as folder:
        target = Path(folder) / "text"
        said = said_apart("ember.unpacked.apart", [kind, str(path), str(target)], path.name)
        # It is still read through the map when its name is gone.
        buffer = pa.memory_map(str(target)).read_buffer() if target.stat().st_size else b""
        return Source(pa.py_buffer(buffer), said["what"])


def said_apart(module: str, arguments: Sequence[str], name: str) -> dict[str, str]:
    """What a module says of a file, run in a process of its own; it prints one JSON object and
    calls `confine` first.

    Parameters
    ----------
    name : str
        of the file, for what is said.

    Raises
    ------
    IntakeError
        where it refuses the file, or takes more than the limits.
    """
    limits, began = _limits.get(), time.monotonic()
    if not _room.acquire(timeout=limits.seconds):
        raise IntakeError(f"{name}: other files are being unpacked. Try again in a minute.")
    try:
        return _waited(module, arguments, name, limits, began)
    finally:
        _room.release()


def _waited(
    module: str, arguments: Sequence[str], name: str, limits: Limits, began: float
) -> dict[str, str]:
    root = Path(__file__).resolve().parents[2]
    process = subprocess.Popen(
        [sys.executable, "-m", module, *arguments],
        cwd=root,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        env={**os.environ, "ARROW_DEFAULT_MEMORY_POOL": "system", "OMP_NUM_THREADS": "1"},
    )
    try:
        while True:
            try:
                said, faults = process.communicate(timeout=APART_EVERY)
                break
            except subprocess.TimeoutExpired:
                if time.monotonic() - began > limits.seconds:
                    raise IntakeError(
                        f"{name}: unpacking it takes longer than {limits.seconds:.0f} s. Send "
                        "it in parts, or the readings as CSV."
                    ) from None
                if limits.abandoned():
                    raise IntakeError(f"{name}: nobody waits for it any more.") from None
    finally:
        if process.poll() is None:
            process.kill()
            process.communicate()
    if process.returncode == 0:
        found: dict[str, str] = json.loads(said)
        if "error" in found:
            raise IntakeError(found["error"])
        return found
    short = process.returncode < 0 or any(word in faults for word in APART_SHORT)
    if not short:
        raise RuntimeError(f"unpacking {name} failed: {faults.decode(errors='replace')}")
    raise IntakeError(
        f"{name}: unpacking it takes more than {MEMORY >> 20} MB of memory. Are there cells "
        "far outside the table, or is it damaged? Send it in parts, or the readings as CSV."
    )


def confine() -> None:
    """Sets the limits of memory and of what may be written, for this process."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (2 * FORMATS_LARGEST, 2 * FORMATS_LARGEST))


def main(kind: str, path: Path, target: Path) -> None:
    """The process itself."""
    confine()
    try:
        with target.open("wb") as out:
            said = {"what": to_text(path, kind, out)}
    except IntakeError as error:
        said = {"error": str(error)}
    say(said)


def say(said: Mapping[str, str | None]) -> None:
    """Ends this process with what it has to say; threads of the libraries are not waited for, some
    of which fall over when they are ended in the middle of their work."""
    print(json.dumps(said), flush=True)
    os._exit(0)


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]), Path(sys.argv[3]))
