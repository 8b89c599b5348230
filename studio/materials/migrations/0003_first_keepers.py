"""Masters that were made before there were keepers are kept by who made them, or by those who set rules where they are
used."""

from __future__ import annotations

from typing import Any

from django.db import migrations


def forwards(apps: Any, schema_editor: Any) -> None:
    membership = apps.get_model("projects", "Membership")
    for master in apps.get_model("materials", "Master").objects.filter(keepers=None):
        if master.by_id is not None:
            master.keepers.add(master.by_id)
        else:
            projects = master.adoptions.values_list("project", flat=True)
            rows = membership.objects.filter(project__in=projects, right="rules")
            master.keepers.add(*rows.values_list("user", flat=True))


class Migration(migrations.Migration):
    dependencies = [("materials", "0002_revisions"), ("projects", "0003_revisions")]

    operations = [migrations.RunPython(forwards, migrations.RunPython.noop)]
