"""What is kept of an analysis, with the hash of what it was made from."""

from django.conf import settings
from django.db import models

from server.systems.models import System


class CachedResults(models.Model):
    """The results of one system that screens are drawn from.

    made_from : hash of readings, description and core; where it is not the present one, the
    results are stale, and whoever shows them says so.
    record analysis : ember.assessment.cached, operation : ember.operation.cached, findings :
    ember.diagnosis.cached. row,
    days : JSON as the API gives it. type : hash of the rated table's points; systems with the same
    are siblings.
    lost : money a year, by which the fleet is sorted. overview : heat and power every 15 minutes,
    in the form of a block's.
    """

    system = models.OneToOneField(System, on_delete=models.CASCADE, related_name="cached")
    made_from = models.CharField(max_length=64)
    made = models.DateTimeField(auto_now=True)
    lost = models.FloatField(default=0.0)
    row = models.TextField()
    days = models.TextField()
    analysis = models.BinaryField()
    operation = models.BinaryField(default=b"")
    findings = models.TextField(default="")
    type = models.CharField(max_length=64, default="", db_index=True)
    overview = models.BinaryField()


class Proof(models.Model):
    """A figure with its sum as it was when somebody made a link to it.

    made_from : hash of readings, description and core then. asked : start, stop, level and what.
    shown : JSON as the API gave it.
    """

    key = models.CharField(max_length=22, unique=True)
    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="proofs")
    made_from = models.CharField(max_length=64)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    made = models.DateTimeField(auto_now_add=True)
    asked = models.TextField()
    shown = models.TextField()


class FindingStatus(models.Model):
    """Where a finding of a system stands. It outlives the evidence: what was dismissed stays so
    until the evidence is stronger, what was fixed until it shows again.

    sentence, measured, U, above : of the evidence when the state was set; fixed_on : local date.
    """

    class State(models.TextChoices):
        """Where it stands."""

        NEW = "new"
        ACCEPTED = "accepted"
        DISMISSED = "dismissed"
        FIXED = "fixed"
        GONE = "gone"  # no longer found

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="statuses")
    code = models.CharField(max_length=60)
    state = models.CharField(max_length=10, choices=State, default=State.NEW)
    sentence = models.TextField()
    measured = models.FloatField()
    U = models.FloatField()
    above = models.BooleanField()
    reason = models.TextField(default="")
    fixed_on = models.DateField(null=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        """One a finding."""

        constraints = (models.UniqueConstraint(fields=["system", "code"], name="one_status"),)


class FindingEvent(models.Model):
    """What happened to a finding, and by whom; nobody where the evidence itself did it."""

    status = models.ForeignKey(FindingStatus, on_delete=models.CASCADE, related_name="events")
    state = models.CharField(max_length=10)
    words = models.TextField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        """The latest first."""

        ordering = ("-pk",)


class NewsSeen(models.Model):
    """When somebody last said of the fleet's news that they are seen."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="news_seen"
    )
    at = models.DateTimeField()
