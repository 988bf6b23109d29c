import django.contrib.postgres.fields
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("takes", "0009_sound")]

    operations = [
        migrations.AddField(
            model_name="take",
            name="sections",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.PositiveSmallIntegerField(),
                blank=True,
                default=list,
                help_text="cycles of each section that was marked",
                size=None,
            ),
        ),
    ]
