import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("exercises", "0002_ladders_and_off_days"),
    ]

    operations = [
        migrations.CreateModel(
            name="Ladder",
            fields=[
                ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ("name", models.CharField(max_length=120)),
                (
                    "slug",
                    models.CharField(blank=True, help_text="the ladder of the shelf that it was, if one", max_length=60),
                ),
                ("spec", models.JSONField(help_text="ladder/1")),
                (
                    "spread_percent",
                    models.FloatField(default=4.0, help_text="limit of a take without silences"),
                ),
                (
                    "missed_percent",
                    models.FloatField(default=5.0, help_text="limit of a take without silences"),
                ),
                (
                    "fused_cycles",
                    models.PositiveSmallIntegerField(
                        blank=True, help_text="cycles running with note and click as one", null=True
                    ),
                ),
                ("created_at", models.DateTimeField(auto_now_add=True)),
                ("changed_at", models.DateTimeField(auto_now=True)),
                ("deleted_at", models.DateTimeField(blank=True, null=True)),
                (
                    "exercise",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="ladders", to="exercises.exercise"
                    ),
                ),
                (
                    "player",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="ladders",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={"ordering": ["created_at"]},
        ),
        migrations.AddConstraint(
            model_name="ladder",
            constraint=models.UniqueConstraint(
                "exercise", condition=models.Q(("deleted_at", None)), name="one_ladder_an_exercise"
            ),
        ),
    ]
