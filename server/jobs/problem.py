"""How commands refuse bad input."""

from django.core.management.base import CommandError

from ember.basis.errors import EmberError


class CommandProblem(CommandError):
    """Bad input: one sentence on standard error, exit code 2, never a traceback."""

    def __init__(self, error: EmberError | str) -> None:
        super().__init__(str(error), returncode=2)
