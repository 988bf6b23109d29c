import django.contrib.postgres.fields
import django.db.models.deletion
from django.db import migrations, models
from django.utils import timezone

from giusto.drill import validate
from giusto.drill.identity import drill_key, exercise_key, rung_of
from giusto.errors import GiustoError
from studio.drills.shelf import shelf, slug_of

# Each batch's stamps and sources become records, and back.
TO_RECORDS = """
UPDATE takes_batch SET notes = (
    SELECT coalesce(jsonb_agg(jsonb_build_object('at_ms', at_ms, 'source', source) ORDER BY place), '[]'::jsonb)
    FROM unnest(stamps_ms, sources) WITH ORDINALITY AS note(at_ms, source, place)
)
"""
TO_ARRAYS = """
UPDATE takes_batch SET
    stamps_ms = ARRAY(
        SELECT (note ->> 'at_ms')::double precision
        FROM jsonb_array_elements(notes) WITH ORDINALITY AS n(note, place) ORDER BY place
    ),
    sources = ARRAY(
        SELECT note ->> 'source' FROM jsonb_array_elements(notes) WITH ORDINALITY AS n(note, place) ORDER BY place
    )
"""
# A take that can't be read keeps its refusal, with the code that no earlier version wrote.
REFUSED = "UPDATE takes_reading SET refusal_code = 'refused' WHERE refusal <> ''"


def bring_over(apps, schema_editor):
    """Give each take its exercise, its rung and its session."""
    takes = apps.get_model("takes", "Take").objects.select_related("player")
    exercises = apps.get_model("exercises", "Exercise").objects
    own_drills = apps.get_model("drills", "OwnDrill").objects
    sessions = apps.get_model("exercises", "Session").objects
    for take in takes.iterator(chunk_size=200):
        take.session = sessions.get_or_create(player=take.player, day=timezone.localtime(take.started_at).date())[0]
        try:
            drill = validate(take.drill)
        except GiustoError:
            take.save(update_fields=["session"])
            continue
        rung = rung_of(drill)
        take.drill_key, take.silent_cycles, take.slots = drill_key(drill), rung.silent_cycles, rung.slots
        key, slug = exercise_key(drill), slug_of(take.drill_key)
        own = own_drills.filter(player=take.player, deleted_at=None, drill_key=take.drill_key).first()
        if slug:
            wanted, name = {"shelf_slug": slug}, shelf()[slug].name
        elif own:
            wanted, name = {"own_drill": own}, own.name
        else:
            wanted, name = {"shelf_slug": "", "own_drill": None, "key": key}, drill.name
        take.exercise = exercises.get_or_create(player=take.player, **wanted, defaults={"key": key, "name": name})[0]
        take.save(update_fields=["session", "drill_key", "silent_cycles", "slots", "exercise"])


class Migration(migrations.Migration):
    dependencies = [
        ("takes", "0002_whole_readings"),
        ("exercises", "0001_exercises"),
        ("drills", "0002_drill_keys"),
    ]

    operations = [
        migrations.AddField(
            model_name="batch",
            name="notes",
            field=models.JSONField(default=list, help_text="records: at_ms (page time), source, perhaps strength"),
        ),
        # For the way back: arrays that were taken away come again, empty, before they are filled.
        migrations.AlterField(
            model_name="batch",
            name="stamps_ms",
            field=django.contrib.postgres.fields.ArrayField(models.FloatField(), default=list),
        ),
        migrations.AlterField(
            model_name="batch",
            name="sources",
            field=django.contrib.postgres.fields.ArrayField(models.CharField(max_length=12), default=list),
        ),
        migrations.RunSQL(TO_RECORDS, TO_ARRAYS),
        migrations.RemoveField(model_name="batch", name="stamps_ms"),
        migrations.RemoveField(model_name="batch", name="sources"),
        migrations.AlterField(
            model_name="take",
            name="drill",
            field=models.JSONField(help_text="drill/1 or drill/2, as it was played"),
        ),
        migrations.AddField(
            model_name="take",
            name="drill_key",
            field=models.CharField(blank=True, db_index=True, default="", help_text="without name and tempo", max_length=32),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="take",
            name="silent_cycles",
            field=models.PositiveSmallIntegerField(
                default=0, help_text="the longest silence that the drill makes"
            ),
        ),
        migrations.AddField(
            model_name="take",
            name="slots",
            field=models.PositiveSmallIntegerField(default=1, help_text="notes to the beat"),
        ),
        migrations.AddField(
            model_name="take",
            name="exercise",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="takes",
                to="exercises.exercise",
            ),
        ),
        migrations.AddField(
            model_name="take",
            name="session",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="takes",
                to="exercises.session",
            ),
        ),
        migrations.AddField(
            model_name="take",
            name="strengths",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.FloatField(null=True),
                blank=True,
                help_text="of each onset, 0 to 1",
                null=True,
                size=None,
            ),
        ),
        migrations.AddField(
            model_name="take",
            name="sources",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.CharField(max_length=12),
                blank=True,
                help_text="what made each onset",
                null=True,
                size=None,
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="spec",
            field=models.JSONField(help_text="reading/1; {} where the take can't be read"),
        ),
        migrations.RemoveField(model_name="reading", name="is_held"),
        migrations.AddField(
            model_name="reading",
            name="verdict",
            field=models.CharField(blank=True, default="", help_text="code of advice/1", max_length=12),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="reading",
            name="is_clean",
            field=models.BooleanField(help_text="by its reading; null where that can't say", null=True),
        ),
        migrations.AddField(
            model_name="reading",
            name="alone_bpm",
            field=models.FloatField(help_text="the tempo kept alone", null=True),
        ),
        migrations.AddField(
            model_name="reading",
            name="refusal_code",
            field=models.CharField(blank=True, default="", max_length=20),
            preserve_default=False,
        ),
        migrations.RunSQL(REFUSED, migrations.RunSQL.noop),
        migrations.RunPython(bring_over, migrations.RunPython.noop),
    ]
