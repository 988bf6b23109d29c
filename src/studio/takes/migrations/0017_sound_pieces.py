"""A piece of sound is not a piece of music."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("takes", "0016_brief_is_all_but_the_notes")]

    operations = [migrations.RenameModel("Piece", "SoundPiece")]
