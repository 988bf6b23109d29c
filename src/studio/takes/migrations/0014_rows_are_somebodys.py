from django.conf import settings
from django.db import migrations, models
from django.db.models.deletion import CASCADE


class Migration(migrations.Migration):
    """No row is nobody's."""

    dependencies = [("takes", "0013_rows_of_their_takes_player")]

    operations = [
        migrations.AlterField(
            model_name=name,
            name="player",
            field=models.ForeignKey(on_delete=CASCADE, related_name="+", to=settings.AUTH_USER_MODEL),
        )
        for name in ("batch", "keptsound", "reading", "silence")
    ]
