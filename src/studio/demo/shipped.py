"""The demo as rows in a file that ships with Giusto: brought in behind the first page in seconds, and not simulated.

``./giusto manage demo --ship`` makes the file anew, by the simulation of ``course``; a test finds it stale.
"""

from __future__ import annotations

import json
import lzma
from collections import defaultdict
from collections.abc import Iterable
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

from django.core import serializers
from django.db import models, transaction
from django.db.models.deletion import Collector
from django.utils import timezone

from studio.accounts.models import DEMO, Player
from studio.demo.course import last_evening, make_demo
from studio.demo.planning import aim
from studio.takes.reading import read_take

FILE = Path(__file__).with_name("shipped.json.xz")
LEFT_OUT = frozenset({"plans.week", "accounts.answered"})  # of the week that is now, and of no later one
AT_ONCE = 500  # rows
AS_OF = datetime(2026, 11, 30, 12, tzinfo=UTC)  # a Monday: the story told is the same whenever the file is made anew


def shipped(now: datetime = AS_OF) -> bytes:
    """Return the demo as simulated up to the evening before a moment, as the file holds it; nothing of it stays."""
    with transaction.atomic(), timezone.override(UTC):
        make_demo(now)
        player = Player.objects.get(username=DEMO)
        for take in player.takes.order_by("started_at").values_list("pk", flat=True):
            read_take(take)  # by all that was played before it: the simulation makes one course after another
        rows = [row for row in _rows(player) if row["model"] not in LEFT_OUT]
        transaction.set_rollback(True)
    plain = {"evening": last_evening(now).date().isoformat(), "rows": rows}
    return lzma.compress(json.dumps(plain, separators=(",", ":")).encode(), preset=9)


@transaction.atomic
def bring_in(now: datetime) -> int:
    """Make the demo's player of the file, in place of what was there, up to the evening before a moment.

    A moment of the file is kept by its wall clock: an evening is an evening in every zone.

    Returns
    -------
    int
        How many takes there are.
    """
    Player.objects.filter(username=DEMO).delete()
    plain = json.loads(lzma.decompress(FILE.read_bytes()))
    later = last_evening(now).date() - date.fromisoformat(plain["evening"])
    _make(plain["rows"], later)
    player = Player.objects.get(username=DEMO)
    aim(player)
    return player.takes.count()


def _rows(player: Player) -> list[dict[str, Any]]:
    """Return all rows that are a player's, what others refer to first."""
    collector = Collector(using="default")
    collector.collect([player])
    found: dict[tuple[str, Any], models.Model] = {}
    for some in (*collector.data.values(), *collector.fast_deletes):
        for row in some:
            found[row._meta.label_lower, row.pk] = row
    order: list[type[models.Model]] = []
    for kind in {type(row): None for row in found.values()}:
        _put_in_order(kind, order)
    ranked = sorted(found.values(), key=lambda row: (order.index(type(row)), str(row.pk).zfill(20)))
    rows: list[dict[str, Any]] = json.loads(serializers.serialize("json", ranked))
    return rows


def _put_in_order(kind: type[models.Model], order: list[type[models.Model]]) -> None:
    """Put a kind of row after all that it refers to."""
    if kind in order:
        return
    for field in kind._meta.concrete_fields:
        if isinstance(field, models.ForeignKey) and field.related_model is not kind:
            _put_in_order(field.related_model, order)
    order.append(kind)


def _make(rows: Iterable[dict[str, Any]], later: timedelta) -> None:
    """Make rows of what a file holds: with numbers of their own, so many days later."""
    numbers: dict[tuple[type[models.Model], Any], Any] = {}
    waiting: defaultdict[type[models.Model], list[models.Model]] = defaultdict(list)
    for one in serializers.deserialize("python", list(rows)):
        row, kind = one.object, type(one.object)
        _move(row, later, numbers)
        old = row.pk
        if isinstance(kind._meta.pk, models.AutoField):
            row.pk = None
        if _is_referred_to(kind):
            row.save(force_insert=True)
            numbers[kind, old] = row.pk
        else:
            waiting[kind].append(row)
    for kind, some in waiting.items():
        kind._default_manager.bulk_create(some, batch_size=AT_ONCE)


def _move(row: models.Model, later: timedelta, numbers: dict[tuple[type[models.Model], Any], Any]) -> None:
    """Let a row refer to what was made of what it referred to, and stand so many days later."""
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if isinstance(field, models.ForeignKey):
            setattr(row, field.attname, numbers.get((field.related_model, value), value))
        elif isinstance(value, datetime):
            setattr(row, field.attname, timezone.make_aware(value.replace(tzinfo=None) + later))
        elif isinstance(value, date):
            setattr(row, field.attname, value + later)


def _is_referred_to(kind: type[models.Model]) -> bool:
    return any(one.one_to_many or one.one_to_one for one in kind._meta.related_objects)
