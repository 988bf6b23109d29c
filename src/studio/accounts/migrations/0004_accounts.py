from django.db import migrations, models


def mark_local(apps, schema_editor):
    apps.get_model("accounts", "Player").objects.filter(username="local").update(is_local=True)


class Migration(migrations.Migration):
    dependencies = [("accounts", "0003_answered")]

    operations = [
        migrations.AddField(
            "player",
            "is_local",
            models.BooleanField(default=False, help_text="whom ./giusto start signs in, whatever their name"),
        ),
        migrations.AddField(
            "player",
            "role",
            models.CharField(
                choices=[
                    ("player", "plays"),
                    ("teacher", "plays and teaches"),
                    ("owner", "plays, teaches and looks after the studio"),
                ],
                default="player",
                max_length=8,
            ),
        ),
        migrations.AddField(
            "player",
            "leaves_at",
            models.DateTimeField(
                blank=True, help_text="when all of theirs is deleted: they asked for it", null=True
            ),
        ),
        migrations.AddField("player", "passkey_offered_at", models.DateTimeField(blank=True, null=True)),
        migrations.RunPython(mark_local, migrations.RunPython.noop, elidable=False),
        migrations.AddConstraint(
            "player",
            models.UniqueConstraint(condition=models.Q(("is_local", True)), fields=("is_local",), name="one_local_player"),
        ),
    ]
