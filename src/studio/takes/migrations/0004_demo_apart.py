from django.db import migrations


def part_from_demo(apps, schema_editor):
    """Give the demo's takes, and what they are takes of, to a player of their own; who plays here gets the name back."""
    players = apps.get_model("accounts", "Player").objects
    takes = apps.get_model("takes", "Take").objects
    demo = takes.filter(is_demo=True).select_related("exercise", "session", "player")
    if not demo.exists():
        return
    owner = demo.first().player
    her, _ = players.get_or_create(
        username="demo", defaults={"display_name": owner.display_name, "instrument": owner.instrument}
    )
    for take in demo.iterator(chunk_size=200):
        for name, shared in (("exercise", ("shelf_slug", "key", "name")), ("session", ("day",))):
            belongs = getattr(take, name)
            if belongs:
                same = {field: getattr(belongs, field) for field in shared}
                setattr(take, name, type(belongs).objects.get_or_create(player=her, **same)[0])
        take.player, take.deleted_at = her, None
        take.save(update_fields=["player", "exercise", "session", "deleted_at"])
    players.filter(pk=owner.pk, display_name=her.display_name).update(display_name="", instrument="")


class Migration(migrations.Migration):
    dependencies = [
        ("takes", "0003_notes_exercises_and_judgement"),
        ("accounts", "0002_own_page"),
        ("exercises", "0001_exercises"),
    ]

    operations = [
        # Backwards the takes stay with the demo's player.
        migrations.RunPython(part_from_demo, migrations.RunPython.noop),
        migrations.RunSQL(
            "SET CONSTRAINTS ALL IMMEDIATE", "SET CONSTRAINTS ALL IMMEDIATE"
        ),  # rows were changed; the table is altered next
        migrations.RemoveField(model_name="take", name="is_demo"),
    ]
