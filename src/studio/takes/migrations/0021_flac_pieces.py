from django.db import migrations, models


class Migration(migrations.Migration):
    """Pieces of sound may be packed; a version that knows nothing of it goes on writing them as they are."""

    dependencies = [
        ("takes", "0020_sound_in_storage"),
    ]

    operations = [
        migrations.AddField(
            model_name="soundpiece",
            name="is_flac",
            field=models.BooleanField(
                db_default=False, default=False, help_text="whether they are packed as a FLAC file"
            ),
        ),
    ]
