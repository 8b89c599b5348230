from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("sets", "0004_metres_and_waivers")]

    operations = [
        migrations.AddField("textureset", "licence", models.CharField(blank=True, default="", max_length=100)),
        migrations.AddField("textureset", "credit", models.CharField(blank=True, default="", max_length=300)),
    ]
