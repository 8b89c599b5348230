from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("rules", "0002_documents")]

    operations = [
        migrations.AlterField(
            "ruledocument",
            "kind",
            models.CharField(
                choices=[
                    ("target", "Target"),
                    ("layout", "Layout"),
                    ("names", "Names"),
                    ("formats", "Formats"),
                    ("licences", "Licences"),
                ],
                default="target",
                max_length=10,
            ),
        ),
    ]
