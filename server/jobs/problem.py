"""How commands refuse bad input, and put out what they have made."""

from pathlib import Path

from django.core.management.base import CommandError, OutputWrapper

from ember.basis.errors import EmberError


class CommandProblem(CommandError):
    """Bad input: one sentence on standard error, exit code 2, never a traceback."""

    def __init__(self, error: EmberError | str) -> None:
        super().__init__(str(error), returncode=2)


TERMINAL = Path("-")


def put_out(terminal: OutputWrapper, out: Path, text: bytes) -> None:
    """Writes UTF-8 text to a file, or to the terminal for `TERMINAL`. Raises CommandProblem."""
    if out == TERMINAL:
        terminal.write(text.decode(), ending="")
        return
    try:
        out.write_bytes(text)
    except OSError as error:
        raise CommandProblem(f"{out}: cannot be written ({error.strerror}).") from error
