"""A small database of the version as it is now, for the tests of later versions to upgrade.

Run at the version to be kept, where PostgreSQL's server is: ``PYTHONPATH=src python -m tests.reference.make_dump``.
It writes ``dumps/VERSION.dump`` (pg_dump's own format) and ``dumps/VERSION.json``: what that version says of what it
holds. All of it is made up: the demo's player over three weeks, and a local player with what she doesn't have.
"""

from __future__ import annotations

import json
import os
import subprocess
import tempfile
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_URL, uuid5
from zoneinfo import ZoneInfo

DUMPS = Path(__file__).with_name("dumps")
ZONE = "Europe/Berlin"
AT = datetime(2026, 11, 29, 20, 30, tzinfo=ZoneInfo(ZONE))  # the moment of which everything is asked
WEEKS = 3
QUICK = ["fsync=off", "synchronous_commit=off", "full_page_writes=off"]


def main() -> None:
    """Make the database in a cluster that is thrown away, ask it, dump it."""
    from launch.cluster import DATABASE, HOST, USER, Cluster, server_user

    with tempfile.TemporaryDirectory(prefix="giusto-dump-") as folder:
        if user := server_user(None):
            os.chown(folder, user.pw_uid, user.pw_gid)
        cluster = Cluster(Path(folder) / "cluster", settings=QUICK, safe=False)
        cluster.start()
        try:
            os.environ |= cluster.environment | {
                "DJANGO_SETTINGS_MODULE": "studio.settings.test",
                "GIUSTO_SECRET_KEY": "for the dump only",
                "GIUSTO_MEDIA_ROOT": f"{folder}/media",
                "TZ": ZONE,
            }
            version = _made()
            password = {"PGPASSWORD": cluster.environment["GIUSTO_DB_PASSWORD"]}
            where = ["-h", HOST, "-p", str(cluster.port), "-U", USER, "-d", DATABASE]
            command = [str(cluster.programs / "pg_dump"), *where, "--format=custom", "--compress=9", "--no-owner"]
            file = DUMPS / f"{version}.dump"
            subprocess.run([*command, f"--file={file}"], env={**os.environ, **password}, check=True)
            print(f"{file.name}: {file.stat().st_size / 1000:.0f} kB")
        finally:
            cluster.stop()


def _made() -> str:
    import django

    django.setup()
    from django.core.management import call_command
    from django.db import connection
    from django.utils import timezone

    import giusto
    from studio.demo.course import make_demo
    from tests.reference.kept import kept

    call_command("migrate", verbosity=0, interactive=False)
    with timezone.override(ZONE):
        print(f"{make_demo(AT, WEEKS)} takes of the demo")
        _local()
        found = kept(AT)
    text = json.dumps(
        {"version": giusto.__version__, "at": AT.isoformat(), "zone": ZONE, **found}, separators=(",", ":")
    )
    (DUMPS / f"{giusto.__version__}.json").write_text(f"{text}\n", encoding="utf-8")
    connection.close()
    connection.close_pool()
    return giusto.__version__


def _local() -> None:
    """Give the local player what the demo's lacks: an own drill, more schools, other inputs, a routine by names."""
    from giusto.drill import validate
    from giusto.plan.routine import routine_of
    from giusto.practice.ladder import ladder_of
    from studio.accounts.models import local_player
    from studio.drills.actions import keep_drill
    from studio.ladders.actions import climb_exercise, start_ladder
    from studio.ladders.parts import parts_of, split
    from studio.plans.actions import keep_routine, put_over, swap
    from studio.plans.today import today_of
    from studio.takes.actions import say_clean

    player = local_player()
    drill = {
        "giusto": "drill/1",
        "name": "Gaps of my own",
        "tempo": {"bpm": 80},
        "cycle": {"beats": 4},
        "clicks": {"on": ["1", "2", "3", "4"], "silence": {"kind": "fixed", "heard": 1, "silent": 1}},
        "part": {"grid": 2},
        "cycles": 8,
    }
    own = keep_drill(player=player, drill=validate(drill), name="Gaps of my own", family="dropped")
    takes = [_hand(player, drill, number, str(own.pk)) for number in range(6)]
    say_clean(player=player, take=takes[3], said=False)
    vary = {"what": "tempo", "from": 72, "to": 96, "by": 4}
    file = {"giusto": "ladder/1", "name": "Gaps, by fours", "drill": drill, "vary": vary}
    climb_exercise(
        player=player, exercise=takes[0].exercise, ladder=ladder_of({**file, "rule": {"kind": "streak", "clean": 2}})
    )
    rules = {
        "Gaps, week by week": {"kind": "week", "clean": 2, "by": 8},
        "Gaps, in the band": {"kind": "band", "low": 0.7, "high": 0.85},
    }
    number = 20
    for name, rule in rules.items():
        ladder = start_ladder(player=player, ladder=ladder_of({**file, "name": name, "rule": rule}))
        for _ in range(4):
            _hand(player, {**drill, "tempo": {"bpm": 72}}, number, ladder.exercise.word)
            number += 1
    scales = start_ladder(
        player=player, ladder=ladder_of({**file, "name": "Major Scales", "rule": {"kind": "streak", "clean": 2}})
    )
    split(player=player, ladder=scales, hands=False, keys=("C", "F"), sections=())
    in_c = parts_of(player, [scales.exercise_id], AT)[scales.exercise_id][0].ladder
    _hand(player, {**drill, "tempo": {"bpm": 72}}, 40, in_c.exercise.word)
    _hand(player, {**drill, "tempo": {"bpm": 72}}, 41, "", input="midi", hearing={"by": "midi", "device": "A pad"})
    keep_routine(player=player, routine=routine_of(_routine()), weekly_minutes=90)
    day = AT.date()
    today = today_of(player, AT)
    words = {line.item.name: line.item.word for line in today.lines} if today else {}
    put_over(player=player, day=day, word=words["Every beat"])
    swap(player=player, day=day, word=words["Gaps, by fours"], name="Reach")


def _routine() -> dict[str, Any]:
    """Return a routine that names a drill of the shelf, an own drill and two ladders."""
    keys = {"all": ["C", "F"], "per_session": 1}
    return {
        "giusto": "routine/1",
        "days": ["mon", "tue", "wed", "thu", "fri", "sat", "sun"],
        "minutes": 30,
        "start": "18:00",
        "zone": ZONE,
        "blocks": [{"name": "technique", "minutes": [10, 20]}, {"name": "rest", "minutes": [5, 10], "flexible": True}],
        "exercises": [
            {"name": "Every beat", "block": "technique", "minutes": 3},
            {"name": "Gaps of my own", "block": "technique", "minutes": 5},
            {"name": "The scales", "block": "technique", "minutes": 8, "ladder": "Major Scales", "keys": keys},
            {"name": "Gaps", "block": "rest", "minutes": 5, "ladder": "Gaps, by fours"},
        ],
    }


def _hand(player: Any, drill: dict[str, Any], number: int, origin: str, **changes: Any) -> Any:
    """Keep a take of a hand: what was played and how lies in its number."""
    from giusto.drill import validate
    from giusto.schedule import schedule
    from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
    from giusto.simulation.player import simulate
    from studio.takes.actions import add_batch, begin_take, end_take
    from studio.takes.messages import Begin, End, Note, Notes
    from studio.takes.reading import read_take

    hand = SimulatedPlayer(bias_percent=0.2 if number % 3 else 1.2, clock_percent=0.7, hand_ms=5.0, place_ms=-10.0)
    onsets_s = simulate(schedule(validate(drill)), hand, seed=number + 1).onsets_s
    begin = Begin(
        drill=drill,
        origin=origin,
        input=changes.pop("input", "keys"),
        device={"browser": "made up", "sample_rate_hz": 48000},
        zero_audio_s=2.0,
        started_at=AT - timedelta(days=8 - number % 6, minutes=40 - number),
        **changes,
    )
    take = begin_take(player=player, take_id=uuid5(NAMESPACE_URL, f"dump {number}"), message=begin)
    stamps = [round(1000 * (float(onset) + 2.0), 4) for onset in onsets_s]
    pairs = [(ms / 1000, ms) for ms in (stamps[0], stamps[-1] + 1)]
    source = "midi" if begin.input == "midi" else "space"
    message = Notes(notes=[Note(at_ms=ms, source=source) for ms in stamps], pairs=pairs)
    add_batch(player=player, take=take, number=0, message=message)
    take = end_take(player=player, take=take, message=End(how="complete", batches=1))
    read_take(take.pk)
    return take


if __name__ == "__main__":
    main()
