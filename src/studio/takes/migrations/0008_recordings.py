from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("takes", "0007_brief_readings")]

    operations = [
        migrations.AlterField(
            model_name="take",
            name="input",
            field=models.CharField(
                choices=[("keys", "keys and touch"), ("simulated", "simulated player"), ("recording", "a recording")],
                max_length=12,
            ),
        ),
    ]
