from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("drills", "0003_delivery")]

    operations = [
        migrations.AlterField(
            model_name="delivery",
            name="voice",
            field=models.CharField(
                choices=[("wood", "wood"), ("pin", "a pin"), ("felt", "soft felt"), ("low", "a low drum")],
                default="wood",
                max_length=8,
            ),
        ),
    ]
