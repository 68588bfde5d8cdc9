"""Jobs."""

from datetime import timedelta

from django.conf import settings
from django.db import models
from django.utils import timezone

from server.systems.models import System

MODELS_QUIET = timedelta(seconds=20)  # without a heartbeat, after which a job counts as interrupted


SOON, SURE_AFTER = 0.05, 2.0  # of its way, and seconds, after which a job's end is foretold


class Job(models.Model):
    """One piece of long work, what it is doing and what came of it."""

    class State(models.TextChoices):
        """Where it stands."""

        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"
        INTERRUPTED = "interrupted"

    kind = models.CharField(max_length=20)
    title = models.CharField(max_length=200)
    system = models.ForeignKey(System, on_delete=models.CASCADE, null=True, related_name="jobs")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    progress = models.FloatField(default=0.0)
    doing = models.CharField(max_length=200, default="waiting for the worker")
    cancel = models.BooleanField(default=False)
    asked = models.JSONField(default=dict)
    result = models.JSONField(default=dict)
    message = models.TextField(default="")
    begun = models.DateTimeField(null=True)
    heartbeat = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        """The latest first."""

        ordering = ("-pk",)

    def __str__(self) -> str:
        return f"{self.title} ({self.state})"

    @property
    def left(self) -> float | None:
        """How long it still takes, as it went on so far [s]; None before that can be told."""
        if self.state != self.State.RUNNING or self.begun is None or self.progress < SOON:
            return None
        gone = (timezone.now() - self.begun).total_seconds()
        return gone * (1 - self.progress) / self.progress if gone >= SURE_AFTER else None

    @property
    def silent(self) -> bool:
        """Whether it claims to run but its worker has not been heard of for a while."""
        return (
            self.state == self.State.RUNNING
            and self.heartbeat is not None
            and timezone.now() - self.heartbeat > MODELS_QUIET
        )
