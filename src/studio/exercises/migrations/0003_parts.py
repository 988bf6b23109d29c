import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("exercises", "0002_ladders_and_off_days")]

    operations = [
        migrations.AddField(
            model_name="exercise",
            name="whole",
            field=models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="parts",
                to="exercises.exercise",
            ),
        ),
        migrations.AddField(
            model_name="exercise",
            name="hand",
            field=models.CharField(
                blank=True,
                choices=[
                    ("", "as it is"),
                    ("left", "left hand"),
                    ("right", "right hand"),
                    ("together", "hands together"),
                ],
                default="",
                max_length=8,
            ),
        ),
        migrations.AddField(
            model_name="exercise",
            name="music_key",
            field=models.CharField(blank=True, max_length=20, verbose_name="key", default=""),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="exercise",
            name="section",
            field=models.CharField(blank=True, max_length=60, default=""),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="exercise",
            name="next_time",
            field=models.CharField(
                blank=True,
                help_text="what its player means to do",
                max_length=300,
                verbose_name="Next time",
                default="",
            ),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="exercise",
            name="note",
            field=models.TextField(blank=True, max_length=4000, verbose_name="Notes", default=""),
            preserve_default=False,
        ),
        migrations.AddConstraint(
            model_name="exercise",
            constraint=models.UniqueConstraint(
                "whole",
                "hand",
                "music_key",
                "section",
                condition=models.Q(("whole__isnull", False)),
                name="one_part_a_hand_key_and_section",
            ),
        ),
    ]
