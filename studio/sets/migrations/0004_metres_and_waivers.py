import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("sets", "0003_signature"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField("textureset", "metres", models.FloatField(blank=True, null=True)),
        migrations.CreateModel(
            name="Waiver",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("check_name", models.CharField(max_length=60)),
                ("role", models.CharField(blank=True, default="", max_length=20)),
                ("map_digest", models.CharField(blank=True, default="", max_length=64)),
                ("reason", models.CharField(max_length=500)),
                ("until", models.DateField(null=True)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("revoked", models.BooleanField(default=False)),
                (
                    "by",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, to=settings.AUTH_USER_MODEL
                    ),
                ),
                (
                    "set",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="waivers", to="sets.textureset"
                    ),
                ),
            ],
            options={"ordering": ["id"]},
        ),
    ]
