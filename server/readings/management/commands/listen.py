"""python manage.py listen: readings over MQTT into the logbook."""

import os
import signal
import threading
from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from server.jobs.problem import CommandProblem
from server.readings.mqtt import TOPICS, Listener


class Command(BaseCommand):
    """Subscribes until it is stopped."""

    help = "Subscribes to an MQTT broker and stores what loggers publish there."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The arguments."""
        parser.add_argument("--host", default="127.0.0.1", help="of the broker")
        parser.add_argument("--port", type=int, default=1883)
        parser.add_argument("--user", help="its password comes from EMBER_MQTT_PASSWORD")
        parser.add_argument("--client", default="honest-ember", help="the name of the session")

    def handle(self, *args: Any, **options: Any) -> None:
        """Connects, then stores what comes."""
        listener = Listener(self.stdout.write, options["client"])
        over = threading.Event()
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, lambda *_: over.set())
        host, port = options["host"], options["port"]
        try:
            password = os.environ.get("EMBER_MQTT_PASSWORD")
            listener.connect(host, port, options["user"], password)
        except OSError as error:
            raise CommandProblem(
                f"No broker answers at {host}:{port} ({error}). Is it running? Is the port right?"
            ) from error
        self.stdout.write(f"{TOPICS} at {host}:{port}; Ctrl-C stops it.")
        listener.run(over)
        self.stdout.write(f"{listener.taken:,} readings taken.")
