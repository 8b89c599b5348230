from typing import Any

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models
from django.db.models import F


def remember(apps: Any, schema_editor: Any) -> None:
    """Files that came before names could change are still called what they came as."""
    apps.get_model("intake", "IntakeFile").objects.filter(came_as="").update(came_as=F("path"))


class Migration(migrations.Migration):
    dependencies = [
        ("intake", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField("intakefile", "came_as", models.CharField(blank=True, default="", max_length=1000)),
        migrations.CreateModel(
            name="FileName",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("path", models.CharField(max_length=1000)),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "by",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, to=settings.AUTH_USER_MODEL
                    ),
                ),
                (
                    "file",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="old_names",
                        to="intake.intakefile",
                    ),
                ),
            ],
            options={"ordering": ["id"]},
        ),
        migrations.RunPython(remember, migrations.RunPython.noop),
    ]
