from django.db import migrations, models

FILL = """
UPDATE takes_reading SET brief = jsonb_build_object(
    'heard', spec->'heard', 'tendency', spec->'tendency', 'variability', spec->'variability',
    'correction', spec->'correction', 'places', spec->'places')
WHERE spec <> '{}'::jsonb
"""


class Migration(migrations.Migration):
    dependencies = [("takes", "0006_families")]

    operations = [
        migrations.AddField(
            model_name="reading",
            name="brief",
            field=models.JSONField(help_text="the figures of the spec that are asked for over takes", null=True),
        ),
        migrations.RunSQL(FILL, migrations.RunSQL.noop),
    ]
