from django.contrib.postgres.fields import ArrayField
from django.db import migrations, models

from giusto.drill import validate
from giusto.drill.identity import rung_key
from giusto.errors import GiustoError


def fill(apps, schema_editor):
    """Give each take the key of its rung, and each reading how long was played; what the core refuses keeps none."""
    takes = apps.get_model("takes", "Take")
    for take in takes.objects.only("drill").iterator(chunk_size=200):
        try:
            take.rung_key = rung_key(validate(take.drill))
        except GiustoError:
            continue
        take.save(update_fields=["rung_key"])
    readings = apps.get_model("takes", "Reading")
    for reading in readings.objects.select_related("take").only("take__onsets_s").iterator(chunk_size=200):
        if reading.take.onsets_s:
            reading.played_s = reading.take.onsets_s[-1] - reading.take.onsets_s[0]
            reading.save(update_fields=["played_s"])


class Migration(migrations.Migration):
    dependencies = [("takes", "0004_demo_apart"), ("exercises", "0002_ladders_and_off_days")]

    operations = [
        migrations.AddField(
            model_name="take",
            name="rung_key",
            field=models.CharField(blank=True, help_text="with tempo, without name and length", max_length=32),
        ),
        migrations.AddField(
            model_name="take",
            name="said_clean",
            field=models.BooleanField(blank=True, help_text="the player's word, where there is one", null=True),
        ),
        migrations.AddField(
            model_name="reading",
            name="margins",
            field=models.JSONField(help_text="what the take shows of what a ladder limits", null=True),
        ),
        migrations.AddField(
            model_name="reading",
            name="played_s",
            field=models.FloatField(help_text="from the first note to the last", null=True),
        ),
        migrations.AddField(
            model_name="reading",
            name="sketch",
            field=ArrayField(
                base_field=models.FloatField(),
                help_text="the thread in a few points, ms, for small pictures",
                null=True,
                size=None,
            ),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
