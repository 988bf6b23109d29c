from django.db import migrations, models

from giusto.drill import validate
from giusto.drill.family import family_of
from giusto.errors import GiustoError


def fill(apps, schema_editor):
    """Say of each take which family its drill is of, so that the log can be searched by it."""
    takes = apps.get_model("takes", "Take").objects
    for take in takes.filter(family="").only("pk", "drill").iterator(chunk_size=500):
        try:
            family = family_of(validate(take.drill))
        except GiustoError:
            continue
        takes.filter(pk=take.pk).update(family=family)


class Migration(migrations.Migration):
    dependencies = [("takes", "0005_attempts")]

    operations = [
        migrations.AddField(
            model_name="take",
            name="family",
            field=models.CharField(blank=True, help_text="of its drill, on the shelf", max_length=10, default=""),
            preserve_default=False,
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
