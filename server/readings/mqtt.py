"""Readings over MQTT: from a broker's topics into the logbook.

    honest-ember/<logger>/<name>     a reading: "time value"; or the value alone, of now
    honest-ember/<logger>/batch      a batch, as JSON or lines, as the HTTP endpoint takes it

<logger> is the number of a logger. Who may publish there is for the broker to decide. A message is
acknowledged once it is stored, so that one that was not comes again.
"""

import logging
import re
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

import paho.mqtt.client as paho
from django.db import DatabaseError, connection
from paho.mqtt.enums import CallbackAPIVersion

from ember.basis.errors import EmberError
from ember.intake.live import LIVE_MOST_READINGS, read_batch
from server.jobs.trouble import TROUBLE_FULL, disk_full
from server.readings.live import RETRY, Busy, known_now, take
from server.readings.models import Logger

TOPICS = "honest-ember/+/+"
NUMBER = re.compile(r"^[0-9]{1,18}$")
MQTT_EVERY = 1.0  # at the latest, what came is written [s]
log = logging.getLogger(__name__)


@dataclass
class Waiting:
    """What came for one logger and is not stored yet. messages : to acknowledge, (mid, qos)."""

    lines: list[str] = field(default_factory=list)
    batches: list[bytes] = field(default_factory=list)
    messages: list[tuple[int, int]] = field(default_factory=list)


class Listener:
    """Subscribes, gathers, stores, acknowledges."""

    def __init__(self, say: Callable[[str], object], client_id: str = "honest-ember") -> None:
        self.say = say
        self.lock = threading.Lock()
        self.came = threading.Event()
        self.waiting: dict[str, Waiting] = {}
        self.taken = 0
        self.client = paho.Client(
            CallbackAPIVersion.VERSION2, client_id, clean_session=False, manual_ack=True
        )
        self.client.on_connect = self._connected
        self.client.on_message = self._came

    def connect(self, host: str, port: int, user: str | None, password: str | None) -> None:
        """Connects and subscribes. Raises OSError."""
        if user:
            self.client.username_pw_set(user, password)
        self.client.connect(host, port)
        self.client.loop_start()

    def run(self, over: threading.Event) -> None:
        """Stores what comes until it is told to stop."""
        # At once, since a broker holds the next ones back until these are acknowledged.
        while not over.is_set():
            self.came.wait(MQTT_EVERY)
            self.came.clear()
            self.store()
        self.store()
        self.client.disconnect()
        self.client.loop_stop()
        connection.close()

    def _connected(self, client: paho.Client, *_: object) -> None:
        client.subscribe(TOPICS, qos=1)
        self.say("listening")

    def _came(self, client: paho.Client, _: object, message: paho.MQTTMessage) -> None:
        _, logger, name = message.topic.split("/")
        with self.lock:
            mine = self.waiting.setdefault(logger, Waiting())
            mine.messages.append((message.mid, message.qos))
            self.came.set()
            if name == "batch":
                mine.batches.append(bytes(message.payload))
                return
            words = message.payload.decode("utf-8", "replace").split()
            stamp = words[0] if len(words) == 2 else f"{time.time():.3f}"
            mine.lines.append(f"{stamp} {name} {words[-1] if words else ''}")

    def store(self) -> None:
        """Stores what has come, and acknowledges it."""
        with self.lock:
            waiting, self.waiting = self.waiting, {}
        for key, mine in waiting.items():
            try:
                self._stored(key, mine)
            except (Busy, DatabaseError, OSError) as error:  # a full disk passes, too
                self.say(f"logger {key}: {TROUBLE_FULL if disk_full(error) else error}")
                connection.close_if_unusable_or_obsolete()
                with self.lock:  # kept unacknowledged; what comes meanwhile is put behind it
                    later = self.waiting.get(key, Waiting())
                    self.waiting[key] = Waiting(
                        mine.lines + later.lines,
                        mine.batches + later.batches,
                        mine.messages + later.messages,
                    )
                time.sleep(min(RETRY, MQTT_EVERY))
                continue
            for mid, qos in mine.messages:
                self.client.ack(mid, qos)

    def _stored(self, key: str, mine: Waiting) -> None:
        logger = Logger.objects.filter(pk=int(key)).first() if NUMBER.match(key) else None
        if logger is None or logger.revoked is not None:
            self.say(f"logger {key}: there is none, or it was revoked; what it sent is left out.")
            return
        bodies = [(body, body.lstrip()[:1] == b"{") for body in mine.batches]
        for k in range(0, len(mine.lines), LIVE_MOST_READINGS):
            bodies.append(("\n".join(mine.lines[k : k + LIVE_MOST_READINGS]).encode(), False))
        for body, as_json in bodies:
            now = time.time()
            try:
                sent = read_batch(body, as_json, now)
                self.taken += take(known_now(logger), sent, now).accepted
            except Busy:
                raise
            except EmberError as error:  # it would fail again: said, and not asked for anew
                self.say(f"logger {key}: {error}")
                Logger.objects.filter(pk=logger.pk).update(problem=str(error)[:300], seen=now)
