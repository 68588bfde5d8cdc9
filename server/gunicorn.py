"""How gunicorn runs the web server."""

import signal
from typing import Any

from server.jobs.alone import ends_with

worker_class = "gthread"  # many threads in one process: kept results are shared
threads = 16
timeout = 120  # [s]
worker_tmp_dir = "/dev/shm"
loglevel = "warning"
control_socket_disable = True


def post_fork(server: Any, worker: Any) -> None:
    """What serves ends with what watches over it, and so never keeps the port by itself."""
    ends_with(server.pid, signal.SIGKILL)
