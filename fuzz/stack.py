"""The application over a small data folder of its own, for whoever attacks it."""

from pathlib import Path
from typing import Any

from server.jobs.serving import memory
from tests.browser.stack import Stack as Whole

PATIENCE = 120  # [s]


class Stack(Whole):
    """Web server and worker, signed in to; what they hold of memory."""

    def answer(self, case: Any) -> tuple[int, str]:
        """Status and text of what a case is answered with."""
        token = next((c.value or "" for c in self.jar if c.name == "csrftoken"), "")
        answer = case.call(
            base_url=self.base,
            cookies={c.name: c.value or "" for c in self.jar},
            headers={"X-CSRFToken": token},
            timeout=PATIENCE,
            allow_redirects=False,
        )
        return answer.status_code, answer.content.decode("utf-8", "replace")

    def serving(self) -> int:
        """The process that answers: gunicorn's child."""
        pid = self.running["web"].pid
        children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
        return int(children[0])

    def memory(self) -> dict[str, float]:
        """What the web server and the worker hold now [MB]."""
        return {"web": memory(self.serving()), "worker": memory(self.running["worker"].pid)}

    def said(self) -> str:
        """What stands in their log."""
        return (self.var / "log.txt").read_text(errors="replace")

    def alive(self) -> bool:
        """Whether both still run."""
        return all(process.poll() is None for process in self.running.values())
