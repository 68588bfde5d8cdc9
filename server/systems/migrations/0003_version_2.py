"""Descriptions as version 2 writes them."""

import json
from typing import Any

from django.db import migrations

from ember.description.former import upgraded


def version_2(apps: Any, _: Any) -> None:
    for model, field in (("System", "description"), ("Description", "text")):
        for row in apps.get_model("installations", model).objects.all():
            value = json.loads(getattr(row, field))
            setattr(row, field, json.dumps(upgraded(value), ensure_ascii=False, indent=2) + "\n")
            row.save(update_fields=[field])


class Migration(migrations.Migration):
    dependencies = [("installations", "0002_findings")]

    operations = [migrations.RunPython(version_2, migrations.RunPython.noop)]
