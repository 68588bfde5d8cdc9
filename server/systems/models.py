"""The described installations."""

from functools import lru_cache
from typing import Any

from django.conf import settings
from django.db import models, transaction

from ember.description.as_json import installation_from_json, installation_to_json
from ember.description.installation import Installation
from ember.proposal.trial import tried


@lru_cache(256)
def _tried(text: str) -> None:
    """Tries a description, once. Raises DescriptionError."""
    tried(installation_from_json(text))


class System(models.Model):
    """One installation by name, with its description in the documented JSON form."""

    name = models.CharField(max_length=80, unique=True)
    description = models.TextField()
    revision = models.PositiveIntegerField(default=0, help_text="rises with the readings")
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name

    @property
    def installation(self) -> Installation:
        """The description as the core's type."""
        return installation_from_json(self.description, self.name)

    def readings_changed(self) -> None:
        """Says that the readings are others now; within the transaction that changes them."""
        type(self).objects.filter(pk=self.pk).update(revision=models.F("revision") + 1)

    @classmethod
    def describe(cls, installation: Installation) -> "System":
        """Stores a description under its name, replacing an earlier one of that name."""
        system = cls.objects.filter(name=installation.name).first() or cls()
        system.put(installation, None)
        return system

    def put(self, installation: Installation, user: Any) -> None:
        """Describes the system anew; what it was before stays in its history.

        Raises DescriptionError for a description with which the analysis cannot work.
        """
        text = installation_to_json(installation)
        _tried(text)
        with transaction.atomic():
            self.name, self.description = installation.name, text
            self.save()
            latest = self.history.order_by("-pk").first()
            if latest is None or latest.text != text:
                known: Any = user if getattr(user, "pk", None) else None
                Description.objects.create(system=self, text=text, user=known)


class LibraryTable(models.Model):
    """A rated table of a type of unit, for any system; in its documented JSON form."""

    name = models.CharField(max_length=80, unique=True)
    table = models.TextField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        """By name."""

        ordering = ("name",)


class Description(models.Model):
    """How a system was described, from a moment on."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="history")
    text = models.TextField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        """The latest first."""

        ordering = ("-pk",)
