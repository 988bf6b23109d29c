from django.db import migrations, models

import studio.accounts.models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_player")]

    operations = [
        migrations.AddField(
            model_name="player",
            name="counts",
            field=models.CharField(
                choices=[
                    ("syllables", "1 e and a, 2 e and a"),
                    ("takadimi", "1 ka di mi, 2 ka di mi"),
                    ("numbers", "1 2 3 4, 2 2 3 4"),
                ],
                default="syllables",
                max_length=10,
                verbose_name="Counted aloud",
            ),
        ),
        migrations.AddField(
            model_name="player",
            name="note_names",
            field=models.CharField(
                choices=[
                    ("american", "whole, half, quarter, eighth, sixteenth"),
                    ("british", "semibreve, minim, crotchet, quaver, semiquaver"),
                ],
                default="american",
                max_length=10,
            ),
        ),
        migrations.AddField(
            model_name="player",
            name="time_zone",
            field=models.CharField(blank=True, max_length=60, validators=[studio.accounts.models.validate_zone]),
        ),
        migrations.AlterField(
            model_name="player",
            name="display_name",
            field=models.CharField(blank=True, max_length=80, verbose_name="Name"),
        ),
    ]
