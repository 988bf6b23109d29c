import django.contrib.postgres.fields
from django.db import migrations, models


NOTES: dict[str, tuple[models.Field, str]] = {
    "onsets_s": (models.FloatField(), "drill time"),
    "strengths": (models.FloatField(null=True), "of each onset, 0 to 1"),
    "sources": (models.CharField(max_length=12), "what made each onset"),
}
OVER = (
    "update takes_reading set onsets_s = take.onsets_s, strengths = take.strengths, sources = take.sources"
    " from takes_take take where takes_reading.take_id = take.id"
)
BACK = (
    "update takes_take set onsets_s = reading.onsets_s, strengths = reading.strengths, sources = reading.sources"
    " from takes_reading reading where reading.take_id = takes_take.id"
)


def column(name):
    base, text = NOTES[name]
    return django.contrib.postgres.fields.ArrayField(base_field=base, blank=True, help_text=text, null=True, size=None)


class Migration(migrations.Migration):
    """The notes in drill time are a reading's, and no column that reading a take would have to write."""

    dependencies = [("takes", "0014_rows_are_somebodys")]

    operations = [
        *(migrations.AddField(model_name="reading", name=name, field=column(name)) for name in NOTES),
        migrations.RunSQL(OVER, BACK),
        *(migrations.RemoveField(model_name="take", name=name) for name in NOTES),
        migrations.AlterField(
            model_name="take",
            name="hearing",
            field=models.JSONField(blank=True, default=dict, help_text="by what, and what its times rest on"),
        ),
        migrations.AlterField(
            model_name="take",
            name="drill",
            field=models.JSONField(help_text="drill/1 to drill/3, as it was played"),
        ),
    ]
