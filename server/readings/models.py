"""Where readings live: journal, blocks, overview.

A row per sample does not scale to a fleet. The journal keeps every import as it came; blocks hold
one week of all channels, compacted from the journal; the overview serves charts of months.
"""

import shutil
from pathlib import Path

from django.conf import settings
from django.db import models

from server.systems.models import System


class Import(models.Model):
    """One file that was read, and what was done with it. digest : BLAKE2b of its bytes."""

    class State(models.TextChoices):
        """Whether its readings are in the blocks."""

        STORED = "stored"
        UNDONE = "undone"

    class Rule(models.TextChoices):
        """What happens where readings are stored already."""

        FILL = "fill"  # they stay; the file fills what is unknown
        REPLACE = "replace"  # the file's readings take their place
        KEEP = "keep"  # at times that hold any reading the file adds nothing

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="imports")
    rule = models.CharField(max_length=8, choices=Rule.choices, default=Rule.FILL)
    file = models.CharField(max_length=255)
    digest = models.CharField(max_length=64)
    state = models.CharField(max_length=8, choices=State.choices, default=State.STORED)
    rows = models.PositiveIntegerField()
    start = models.BigIntegerField(help_text="first cell [s since 1970, UTC]")
    stop = models.BigIntegerField(help_text="end of the last cell [s]")
    step = models.PositiveIntegerField(help_text="[s]")
    report = models.TextField(help_text="intake's report, JSON")
    logger = models.ForeignKey(
        "Logger",
        on_delete=models.SET_NULL,
        null=True,
        related_name="imports",
        help_text="that sent a week of readings; null for a file",
    )
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        """The order in which imports are laid over each other."""

        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.file} ({self.state})"


class Journal(models.Model):
    """One week of one import as it came, on its own grid."""

    batch = models.ForeignKey(Import, on_delete=models.CASCADE, related_name="journal")
    week = models.IntegerField()
    payload = models.BinaryField()

    class Meta:
        """A week of an import is written once."""

        constraints = (models.UniqueConstraint(fields=("batch", "week"), name="journal_once"),)


class Block(models.Model):
    """One week of one installation, all channels: an Arrow IPC stream, zstd.

    A week that changes is written as a new row; its key, never used twice, tells two writers
    that they met.
    """

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="blocks")
    week = models.IntegerField()
    payload = models.BinaryField()
    overview = models.BinaryField(help_text="15-minute min, mean and max of each channel")

    class Meta:
        """One block a week."""

        constraints = (models.UniqueConstraint(fields=("system", "week"), name="block_once"),)


class Upload(models.Model):
    """A file that was sent and waits to be stored; kept on disk until it is, or for a week."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="uploads")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    created = models.DateTimeField(auto_now_add=True)

    @property
    def path(self) -> Path:
        """Where it lies."""
        folder: Path = settings.UPLOADS / str(self.pk)
        return folder / self.name

    def forget(self) -> None:
        """Removes it and its file."""
        shutil.rmtree(self.path.parent, ignore_errors=True)
        self.delete()


class Recipe(models.Model):
    """Columns set by hand, remembered for the next file with the same headers."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=80)
    headers = models.JSONField()
    columns = models.JSONField()
    created = models.DateTimeField(auto_now=True)

    class Meta:
        """A name is used once."""

        constraints = (models.UniqueConstraint(fields=("system", "name"), name="recipe_once"),)


class Entry(models.Model):
    """Something written down by hand; of a trial, its plan."""

    class Kind(models.TextChoices):
        """What it is."""

        READING = "reading"
        OBSERVATION = "observation"
        BILL = "bill"
        TRIAL = "trial"

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    time = models.BigIntegerField(help_text="when; of a stretch, its beginning [s]")
    stop = models.BigIntegerField(null=True, help_text="end of a stretch [s]")
    content = models.JSONField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        """In order of time."""

        ordering = ("time", "pk")
        indexes = (models.Index(fields=("system", "kind", "time")),)


class Change(models.Model):
    """Entries that were put in and taken out together. before, after : as plain values."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="changes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    words = models.CharField(max_length=200)
    before = models.JSONField()
    after = models.JSONField()
    undone = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        """The latest first."""

        ordering = ("-pk",)


class Logger(models.Model):
    """A device that sends readings as they come. token : the hash of its token.

    columns : how its names are read, as in a Recipe; a name that is a channel needs none.
    """

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="loggers")
    name = models.CharField(max_length=80)
    token = models.CharField(max_length=64, unique=True)
    columns = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)
    revoked = models.DateTimeField(null=True)
    step = models.PositiveIntegerField(null=True, help_text="of its readings on the grid [s]")
    # What follows is of what was folded; batches that wait come on top.
    seen = models.FloatField(null=True, help_text="when it was last heard of [s]")
    latest = models.FloatField(null=True, help_text="its newest reading [s]")
    drift = models.FloatField(null=True, help_text="its clock less ours [s]")
    readings = models.BigIntegerField(default=0)
    figures_asked = models.BooleanField(default=False)
    problem = models.CharField(max_length=300, default="")

    class Meta:
        """A name is used once in a system."""

        constraints = (models.UniqueConstraint(fields=("system", "name"), name="logger_once"),)


class Batch(models.Model):
    """What a logger sent at once, as it came. key : by which it is known if it comes again."""

    logger = models.ForeignKey(Logger, on_delete=models.CASCADE, related_name="batches")
    key = models.CharField(max_length=64)
    digest = models.CharField(max_length=64)
    received = models.FloatField(help_text="[s]")
    first = models.BigIntegerField(help_text="oldest reading [s]")
    last = models.BigIntegerField(help_text="newest reading [s]")
    count = models.PositiveIntegerField(help_text="readings")
    sent = models.FloatField(null=True, help_text="when, by the logger's clock [s]")
    problem = models.CharField(max_length=300, default="", help_text="what was refused of it")
    payload = models.BinaryField(help_text="JSON: [time, name, value] of each reading")
    folded = models.BooleanField(default=False)

    class Meta:
        """The same batch is taken once."""

        constraints = (models.UniqueConstraint(fields=("logger", "key"), name="batch_once"),)
        indexes = (
            models.Index(fields=("logger", "folded")),
            models.Index(fields=("logger", "last", "first")),
        )


class Staged(models.Model):
    """A file that was read and is not stored yet, so that a crash does not cost the reading.

    how : hash of the description and the core it was read with. report : empty until it is whole.
    """

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="staged")
    digest = models.CharField(max_length=64)
    how = models.CharField(max_length=64)
    start = models.BigIntegerField()
    stop = models.BigIntegerField()
    step = models.PositiveIntegerField()
    report = models.TextField(default="")
    created = models.DateTimeField(auto_now_add=True)


class StagedWeek(models.Model):
    """One week of it, as the journal will hold it."""

    staged = models.ForeignKey(Staged, on_delete=models.CASCADE, related_name="weeks")
    week = models.IntegerField()
    payload = models.BinaryField()
