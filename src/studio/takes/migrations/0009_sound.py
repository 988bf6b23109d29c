import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("takes", "0008_recordings")]

    operations = [
        migrations.AlterField(
            model_name="take",
            name="input",
            field=models.CharField(
                choices=[
                    ("keys", "keys and touch"),
                    ("simulated", "simulated player"),
                    ("recording", "a recording"),
                    ("microphone", "the microphone"),
                    ("midi", "MIDI"),
                ],
                max_length=12,
            ),
        ),
        migrations.AddField(
            model_name="take",
            name="hearing",
            field=models.JSONField(
                blank=True,
                default=dict,
                help_text="by what it was heard, its delay and gate, and what its times rest on",
            ),
        ),
        migrations.CreateModel(
            name="Piece",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("frame", models.BigIntegerField(help_text="of its first sample, on the audio clock")),
                ("samples", models.BinaryField(help_text="16 bits each, little-endian, one channel")),
                (
                    "take",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="pieces", to="takes.take"
                    ),
                ),
            ],
            options={"ordering": ["frame"]},
        ),
        migrations.AddConstraint(
            model_name="piece",
            constraint=models.UniqueConstraint(fields=("take", "frame"), name="one_piece_a_frame"),
        ),
        migrations.CreateModel(
            name="KeptSound",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("file", models.FileField(upload_to="sounds/%Y/%m/")),
                ("bytes", models.PositiveBigIntegerField()),
                ("zero_s", models.FloatField(help_text="the recording's time of the drill's time zero")),
                ("rate", models.FloatField(default=1.0, help_text="recorder seconds in a second of the drill")),
                (
                    "take",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE, related_name="sound", to="takes.take"
                    ),
                ),
            ],
        ),
    ]
