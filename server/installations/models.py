"""The described installations."""

from django.db import models

from ember.description import installation_from_json, installation_to_json
from ember.installation import Installation


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
        system, _ = cls.objects.update_or_create(
            name=installation.name,
            defaults={"description": installation_to_json(installation)},
        )
        return system
