from django.db import migrations, models

from giusto.drill import validate
from giusto.drill.identity import drill_key
from giusto.errors import GiustoError


def fill(apps, schema_editor):
    """Give each kept drill its key; one that the core refuses by now keeps none."""
    own_drills = apps.get_model("drills", "OwnDrill")
    for own in own_drills.objects.iterator(chunk_size=200):
        try:
            own.drill_key = drill_key(validate(own.spec))
        except GiustoError:
            continue
        own.save(update_fields=["drill_key"])


class Migration(migrations.Migration):
    dependencies = [("drills", "0001_own_drills_and_reach")]

    operations = [
        migrations.AddField(
            model_name="owndrill",
            name="drill_key",
            field=models.CharField(blank=True, db_index=True, help_text="without name and tempo", max_length=32),
        ),
        migrations.AlterField(
            model_name="owndrill", name="spec", field=models.JSONField(help_text="drill/1 or drill/2")
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
