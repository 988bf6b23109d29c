"""What a database holds and what this version says of it, in a form that versions share.

``python -m tests.reference.kept MOMENT`` brings the database that the environment names over to this version, as
``start`` does it, and prints it.
"""

from __future__ import annotations

import json
import os
import sys
from datetime import datetime, timedelta
from hashlib import sha256
from typing import Any


def kept(at: datetime) -> dict[str, Any]:
    """Return takes, ladders, plan and figures of every player as they are at a moment."""
    from studio.accounts.models import Player

    players = Player.objects.filter(username__in=("demo", "local")).order_by("username")
    return {player.username: _of(player, at) for player in players}


def _of(player: Any, at: datetime) -> dict[str, Any]:
    return {
        "takes": _takes(player),
        "ladders": _ladders(player, at),
        "day": _day(player, at),
        "figures": _figures(player, at),
    }


def _takes(player: Any) -> list[dict[str, Any]]:
    from studio.takes.models import Take

    found = []
    for take in Take.objects.visible_to(player).order_by("started_at", "pk").select_related("reading", "exercise"):
        reading = take.reading
        found.append(
            {
                "id": str(take.pk),
                "at": take.started_at.isoformat(),
                "exercise": take.exercise.name,
                "input": take.input,
                "drill": sha256(json.dumps(take.drill, sort_keys=True).encode()).hexdigest()[:12],
                "batches": sum(len(batch.notes) for batch in take.batches.all()),
                "onsets": len(reading.onsets_s),
                "last_s": reading.onsets_s[-1],
                "said": take.said_clean,
                "verdict": reading.verdict,
                "clean": reading.is_clean,
                "place_ms": reading.heard_ms,
                "spread_ms": reading.heard_sd_ms,
                "alone_bpm": reading.alone_bpm,
                "silences": [[s.outcome, s.return_ms, s.lean_percent] for s in take.silences.all()],
            }
        )
    return found


def _ladders(player: Any, at: datetime) -> dict[str, Any]:
    from studio.ladders.models import Ladder
    from studio.ladders.standing import standings

    ladders = Ladder.objects.visible_to(player).select_related("exercise", "player").order_by("created_at")
    return {
        one.ladder.name: {
            "rung": one.step.rung,
            "value": one.step.value,
            "secure": one.step.secure,
            "needs": one.step.needs,
            "why": one.step.why,
            "done": one.step.done,
            "attempts": len(one.attempts),
            "clean": sum(attempt.clean for attempt in one.attempts),
        }
        for one in standings(ladders, at)
    }


def _day(player: Any, at: datetime) -> list[dict[str, Any]]:
    """Return what the day of the moment and the next one ask for."""
    from studio.plans.today import today_of

    found = []
    for now in (at, at + timedelta(days=1)):
        today = today_of(player, now)
        for line in today.lines if today else ():
            item = line.item
            found.append(
                {
                    "day": now.date().isoformat(),
                    "block": item.slot.block,
                    "exercise": item.slot.exercise,
                    "key": item.slot.key,
                    "minutes": item.slot.minutes,
                    "name": item.name,
                    "takes": line.spent.takes,
                    "over": line.is_over,
                    "plays": bool(item.url),
                    "wanted": [item.so_far, item.wanted],
                }
            )
    return found


def _figures(player: Any, at: datetime) -> dict[str, Any]:
    """Return the weekly figures of three weeks, as the page of progress draws them."""
    from studio.progress.weeks import figures, rows_of

    first = at.date() - timedelta(days=20)
    told = figures(rows_of(player, first, at.date() + timedelta(days=1)), first, 3)
    return {
        one.key: [[point.takes, None if point.value is None else round(point.value, 6)] for point in one.points]
        for one in told
    }


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings.test")
    import django

    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    call_command("rekey", "--if-stale", stdout=sys.stderr)
    print(json.dumps(kept(datetime.fromisoformat(sys.argv[1]))))
