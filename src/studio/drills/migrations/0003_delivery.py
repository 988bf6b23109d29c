import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("drills", "0002_drill_keys"),
    ]

    operations = [
        migrations.RenameModel("Reach", "Delivery"),
        migrations.AlterField(
            model_name="delivery",
            name="player",
            field=models.OneToOneField(
                on_delete=django.db.models.deletion.CASCADE, related_name="delivery", to=settings.AUTH_USER_MODEL
            ),
        ),
    ]
