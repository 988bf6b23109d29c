from django.db import migrations, models

WHOLE = "update takes_reading set brief = spec - 'matches' - 'missed' - 'extra' - 'silences' where brief is not null"


class Migration(migrations.Migration):
    """The brief of a reading is all of it but its notes and silences: no figure to come needs such a migration again."""

    dependencies = [("takes", "0015_notes_of_readings")]

    operations = [
        migrations.RunSQL(WHOLE, migrations.RunSQL.noop),
        migrations.AlterField(
            model_name="reading",
            name="brief",
            field=models.JSONField(help_text="the reading without notes and silences: for what is told over takes", null=True),
        ),
    ]
