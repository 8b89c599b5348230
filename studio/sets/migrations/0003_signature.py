from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("sets", "0002_layer")]

    operations = [
        migrations.AddField(
            model_name="placement",
            name="signature",
            field=models.BinaryField(null=True),
        ),
    ]
