from django.conf import settings
from django.db import migrations, models
from django.db.models.deletion import CASCADE

ROWS = ("batch", "keptsound", "reading", "silence")


class Migration(migrations.Migration):
    """Whose a batch, a reading, a silence and a kept sound are: first unknown, then as of their take, then never unknown."""

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("takes", "0011_longer_keys"),
    ]

    operations = [
        migrations.AddField(
            model_name=name,
            name="player",
            field=models.ForeignKey(null=True, on_delete=CASCADE, related_name="+", to=settings.AUTH_USER_MODEL),
        )
        for name in ROWS
    ]
