import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("ladders", "0001_ladders")]

    operations = [
        migrations.CreateModel(
            name="OtherAttempt",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField()),
                (
                    "offset_minutes",
                    models.SmallIntegerField(help_text="of the clock it was written by; its date is the day"),
                ),
                ("rung", models.PositiveIntegerField()),
                ("is_clean", models.BooleanField()),
                ("minutes", models.FloatField()),
                ("is_off", models.BooleanField(default=False)),
                (
                    "ladder",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="others", to="ladders.ladder"
                    ),
                ),
            ],
            options={
                "ordering": ["at"],
                "constraints": [
                    models.UniqueConstraint(fields=("ladder", "at"), name="one_other_attempt_a_moment")
                ],
            },
        ),
    ]
