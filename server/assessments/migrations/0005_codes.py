"""Findings by their codes, pinned figures in the form of version 2; what is only kept is made anew."""

import json
from typing import Any

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from ember.assessment.former import code_of_finding, upgraded


def codes(apps: Any, _: Any) -> None:
    for status in apps.get_model("analysis", "FindingStatus").objects.all():
        try:
            status.code = code_of_finding(status.code)
        except KeyError:  # of a rule that is no more
            status.delete()
            continue
        status.save(update_fields=["code"])
    for proof in apps.get_model("analysis", "Proof").objects.all():
        proof.shown = json.dumps(upgraded(json.loads(proof.shown)))
        proof.save(update_fields=["shown"])
    apps.get_model("analysis", "CachedResults").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [
        ("analysis", "0004_findings"),
        ("installations", "0002_findings"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RenameModel("Life", "FindingStatus"),
        migrations.RenameModel("LifeEvent", "FindingEvent"),
        migrations.RenameModel("Look", "NewsSeen"),
        migrations.RenameModel("Kept", "CachedResults"),
        migrations.RemoveConstraint("FindingStatus", "one_life"),
        migrations.RenameField("FindingStatus", "kind", "code"),
        migrations.AddConstraint(
            "FindingStatus",
            models.UniqueConstraint(fields=["system", "code"], name="one_status"),
        ),
        migrations.RenameField("FindingEvent", "life", "status"),
        migrations.RenameField("CachedResults", "survey", "analysis"),
        migrations.AlterField(
            "CachedResults",
            "system",
            models.OneToOneField(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="cached",
                to="installations.system",
            ),
        ),
        migrations.AlterField(
            "FindingStatus",
            "system",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="statuses",
                to="installations.system",
            ),
        ),
        migrations.AlterField(
            "NewsSeen",
            "user",
            models.OneToOneField(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="news_seen",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.RunPython(codes, migrations.RunPython.noop),
    ]
