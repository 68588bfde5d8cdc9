"""What a person chooses once and finds again in every browser."""

from django.conf import settings
from django.db import models


class Preferences(models.Model):
    """How numbers and dates are written for one person; empty: as her browser does.

    numbers : which signs part thousands and decimals. dates : in which order a date stands.
    """

    class Numbers(models.TextChoices):
        """By what 1234.5 looks like."""

        POINT = "1,234.5"
        COMMA = "1.234,5"
        SPACE_COMMA = "1 234,5"
        APOSTROPHE = "1’234.5"

    class Dates(models.TextChoices):
        """By what the 22nd of January 2026 looks like."""

        DAY_FIRST = "22 Jan 2026"
        MONTH_FIRST = "Jan 22, 2026"
        ISO = "2026-01-22"

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, models.CASCADE, related_name="preferences", primary_key=True
    )
    numbers = models.CharField(max_length=8, choices=Numbers.choices, blank=True)
    dates = models.CharField(max_length=16, choices=Dates.choices, blank=True)

    class Meta:
        app_label = "people"
