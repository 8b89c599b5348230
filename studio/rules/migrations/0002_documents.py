import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("rules", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RenameModel("TargetDocument", "RuleDocument"),
        migrations.RemoveConstraint("ruledocument", "one_target_version"),
        migrations.AddField(
            "ruledocument",
            "kind",
            models.CharField(
                choices=[("target", "Target"), ("layout", "Layout"), ("names", "Names"), ("formats", "Formats")],
                default="target",
                max_length=10,
            ),
        ),
        migrations.AddField("ruledocument", "origin", models.JSONField(null=True)),
        migrations.AddField(
            "ruledocument",
            "by",
            models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, to=settings.AUTH_USER_MODEL),
        ),
        migrations.AlterField(
            "ruledocument",
            "project",
            models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="rules", to="projects.project"),
        ),
        migrations.AlterModelOptions("ruledocument", {"ordering": ["kind", "name", "number"]}),
        migrations.AddConstraint(
            "ruledocument",
            models.UniqueConstraint(fields=("project", "kind", "name", "number"), name="one_rule_version"),
        ),
    ]
