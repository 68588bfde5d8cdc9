"""Readings over MQTT, against Debian's own broker."""

import socket
import subprocess
import tempfile
import threading
import time
from pathlib import Path
from unittest import mock

import numpy as np
import paho.mqtt.client as paho
from django.db import OperationalError, connection
from django.test import TransactionTestCase
from paho.mqtt.enums import CallbackAPIVersion

from ember.basis.series import Trace
from server.readings.folding import fold
from server.readings.live import register, revoke
from server.readings.models import Batch, Logger
from server.readings.mqtt import Listener, Waiting
from server.readings.store import trace_of
from stand_ins.logger import over_mqtt, play
from tests.core.helpers import simulated
from tests.server.helpers import system

BROKER = "/usr/sbin/mosquitto"
BEGIN = 1_768_176_000.0  # 2026-01-12T00:00Z


class Broker:
    """A broker of its own on a free port, which keeps what was not delivered."""

    def __init__(self) -> None:
        self.folder = tempfile.TemporaryDirectory(prefix="ember-broker-")
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        path = Path(self.folder.name) / "broker.conf"
        path.write_text(
            f"listener {self.port} 127.0.0.1\nallow_anonymous true\nuser root\n"
            "max_queued_messages 0\n"
        )
        self.process = subprocess.Popen(
            [BROKER, "-c", str(path)], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        until = time.monotonic() + 10
        while time.monotonic() < until:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.05)
        raise AssertionError("the broker did not start")

    def close(self) -> None:
        self.process.terminate()
        self.process.wait(10)
        self.folder.cleanup()


class Mqtt(TransactionTestCase):
    def setUp(self) -> None:
        self.broker = Broker()
        self.addCleanup(self.broker.close)
        soon = mock.patch("server.readings.tasks.fold_soon")
        soon.start()
        self.addCleanup(soon.stop)
        self.system = system(days=3)
        self.logger, _ = register(self.system, "cellar")
        self.said: list[str] = []

    def listen(self) -> tuple[Listener, threading.Event, threading.Thread]:
        listener, over = Listener(self.said.append, "ember-test"), threading.Event()
        listener.connect("127.0.0.1", self.broker.port, None, None)
        thread = threading.Thread(target=listener.run, args=(over,))
        thread.start()
        self.wait(lambda: "listening" in self.said)
        return listener, over, thread

    def wait(self, done, seconds: float = 20.0) -> None:
        until = time.monotonic() + seconds
        while not done():
            if time.monotonic() > until:
                raise AssertionError(f"waited in vain; said: {self.said}")
            time.sleep(0.05)

    def readings(self) -> int:
        return sum(Batch.objects.values_list("count", flat=True))

    def stop(self, over: threading.Event, thread: threading.Thread) -> None:
        over.set()
        thread.join(20)

    def publish(self, *messages: tuple[str, str]) -> None:
        client = paho.Client(CallbackAPIVersion.VERSION2)
        client.connect("127.0.0.1", self.broker.port)
        client.loop_start()
        for topic, payload in messages:
            client.publish(topic, payload, qos=1).wait_for_publish(10)
        client.disconnect()
        client.loop_stop()

    def test_a_simulated_logger_arrives_whole(self) -> None:
        whole = simulated("as-rated", days=3).trace()
        trace = Trace(whole.start, whole.step, {c: v[:40] for c, v in whole.channels.items()})
        _, over, thread = self.listen()
        send = over_mqtt("127.0.0.1", self.broker.port, self.logger.pk)
        count = play(trace, send, BEGIN, 1e9, 5)
        self.wait(lambda: self.readings() >= count)
        self.stop(over, thread)
        fold(Logger.objects.get(pk=self.logger.pk))
        stored = trace_of(self.system)
        for channel, values in trace.channels.items():
            np.testing.assert_allclose(stored[channel][:40], values, rtol=1e-6, err_msg=channel)

    def test_what_comes_while_nobody_listens_is_not_lost(self) -> None:
        _, over, thread = self.listen()  # the session is known to the broker from now on
        self.stop(over, thread)
        self.said.clear()
        name = f"honest-ember/{self.logger.pk}/flow_temp"
        self.publish(*((name, f"{BEGIN + 60 * k} {30 + k}") for k in range(5)))
        _, over, thread = self.listen()
        self.wait(lambda: self.readings() == 5)
        self.stop(over, thread)

    def test_what_was_not_stored_is_not_acknowledged_and_comes_again(self) -> None:
        listener, over, thread = self.listen()
        with mock.patch.object(listener, "_stored", side_effect=SystemExit):  # it dies in storing
            self.publish((f"honest-ember/{self.logger.pk}/flow_temp", f"{BEGIN} 30"))
            thread.join(20)
        listener.client.loop_stop()
        self.assertEqual(Batch.objects.count(), 0)
        self.said.clear()
        _, over, thread = self.listen()
        self.wait(lambda: self.readings() == 1)
        self.stop(over, thread)

    def test_batches_strangers_and_nonsense(self) -> None:
        _, over, thread = self.listen()
        mine = f"honest-ember/{self.logger.pk}"
        self.publish(
            (f"{mine}/batch", '{"readings": [{"time": 1768176000, "flow_temp": 31.5}]}'),
            (f"{mine}/batch", "{nonsense"),
            (f"{mine}/return_temp", "28.5"),  # without a time: of this moment
            ("honest-ember/9999/flow_temp", "30"),
            ("honest-ember/cellar/flow_temp", "30"),
        )
        self.wait(lambda: self.readings() == 2)
        self.wait(lambda: any("no JSON" in one for one in self.said))
        self.wait(lambda: sum("there is none" in one for one in self.said) == 2)
        revoke(self.logger)
        self.publish((f"{mine}/flow_temp", f"{BEGIN + 60} 30"))
        self.wait(lambda: sum("revoked" in one for one in self.said) >= 3)
        self.stop(over, thread)
        self.assertEqual(self.readings(), 2)

    def tearDown(self) -> None:
        connection.close()


class FullDisk(TransactionTestCase):
    """What comes while the disk is full is not acknowledged, and is stored once there is room."""

    def test_it_waits(self) -> None:
        logger, _ = register(system(days=3), "boiler room")
        said: list[str] = []
        listener = Listener(said.append)
        acknowledged: list[int] = []
        listener.client = mock.Mock(ack=lambda mid, qos: acknowledged.append(mid))
        for key in (str(logger.pk), "²", "9" * 40):  # of the others nobody is a logger
            mine = listener.waiting.setdefault(key, Waiting())
            mine.lines.append(f"{BEGIN} flow_temp 35")
            mine.messages.append((len(acknowledged) + len(mine.lines), 1))
        full = OperationalError("database or disk is full")
        with (
            mock.patch("server.readings.live._written", side_effect=full),
            mock.patch("server.readings.mqtt.time.sleep"),
        ):
            listener.store()
        self.assertTrue(any("disk is full" in line for line in said), said)
        self.assertFalse(Batch.objects.exists())
        self.assertEqual(len(acknowledged), 2, "what no logger sent is not asked for again")
        with mock.patch("server.readings.tasks.fold_soon"):
            listener.store()
        self.assertEqual((Batch.objects.count(), len(acknowledged)), (1, 3))
