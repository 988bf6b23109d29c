from django.db import migrations

FILL = "update {table} set player_id = takes_take.player_id from takes_take where {table}.take_id = takes_take.id"


class Migration(migrations.Migration):
    """Give each row the player of its take."""

    dependencies = [("takes", "0012_whose_rows")]

    operations = [
        migrations.RunSQL(FILL.format(table=f"takes_{name}"), migrations.RunSQL.noop)
        for name in ("batch", "keptsound", "reading", "silence")
    ]
