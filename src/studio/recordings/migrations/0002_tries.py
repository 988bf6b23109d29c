from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("recordings", "0001_uploads")]

    operations = [
        migrations.AddField(
            model_name="upload",
            name="tries",
            field=models.PositiveSmallIntegerField(default=0, help_text="workers that took it up"),
        ),
    ]
