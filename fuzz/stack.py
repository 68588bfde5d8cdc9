"""The application over a small data folder of its own, for whoever attacks it."""

import os
from pathlib import Path

from server.analysis.serving import memory
from tests.browser.stack import Stack as Whole


class Stack(Whole):
    """Web server and worker, signed in to; what they hold of memory."""

    def token(self) -> str:
        """The token that a changing request carries."""
        return next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")

    def cookies(self) -> dict[str, str]:
        """The session."""
        return {c.name: c.value or "" for c in self.jar}

    def serving(self) -> int:
        """The process that answers: gunicorn's child."""
        pid = self.running["web"].pid
        children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
        return int(children[0])

    def memory(self) -> dict[str, float]:
        """What the web server and the worker hold now [MB]."""
        worker = self.running["worker"].pid
        return {"web": memory(self.serving()), "worker": memory(worker)}

    def said(self) -> str:
        """What stands in their log."""
        return (self.var / "log.txt").read_text(errors="replace")

    def alive(self) -> bool:
        """Whether both still run."""
        return all(process.poll() is None for process in self.running.values())


def niced() -> None:
    """Gives way to what is attacked."""
    os.nice(1)
