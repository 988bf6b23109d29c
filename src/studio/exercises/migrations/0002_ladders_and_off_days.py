from django.db import migrations, models
from django.db.models import Q


class Migration(migrations.Migration):
    dependencies = [("exercises", "0001_exercises")]

    operations = [
        migrations.AddField(
            model_name="exercise",
            name="climbs",
            field=models.BooleanField(
                default=False, help_text="made for a ladder: its takes are those played from it"
            ),
        ),
        migrations.AddField(
            model_name="session",
            name="is_off",
            field=models.BooleanField(default=False, help_text="an off day, by the player's word"),
        ),
        migrations.RemoveConstraint(model_name="exercise", name="one_other_exercise_a_key"),
        migrations.AddConstraint(
            model_name="exercise",
            constraint=models.UniqueConstraint(
                "player",
                "key",
                condition=Q(shelf_slug="", own_drill=None, climbs=False),
                name="one_other_exercise_a_key",
            ),
        ),
    ]
