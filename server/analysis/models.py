"""What is kept of an analysis, with the hash of what it was made from."""

from django.conf import settings
from django.db import models

from server.installations.models import System


class Kept(models.Model):
    """The results of one system that screens are drawn from.

    made_from : hash of readings, description and core; where it is not the present one, the
    results are stale, and whoever shows them says so.
    survey : ember.kept, operation : ember.operation.kept. row, days : JSON as the API gives it.
    lost : money a year, by which the fleet is sorted. overview : heat and power every 15 minutes,
    in the form of a block's.
    """

    system = models.OneToOneField(System, on_delete=models.CASCADE, related_name="kept")
    made_from = models.CharField(max_length=64)
    made = models.DateTimeField(auto_now=True)
    lost = models.FloatField(default=0.0)
    row = models.TextField()
    days = models.TextField()
    survey = models.BinaryField()
    operation = models.BinaryField(default=b"")
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
