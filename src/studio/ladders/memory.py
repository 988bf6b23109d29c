"""What attempts of days gone by led to, remembered by this process: it is made anew wherever any of them changed."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from threading import Lock
from typing import Any
from uuid import UUID

from giusto.practice.ladder import Attempt, State, climbed
from studio.ladders.attempts import Tried, attempts, others_of, prints_of, tried_of
from studio.ladders.models import Ladder

MOST_REMEMBERED = 1000  # ours: ladders; one of five years of daily takes is a megabyte


@dataclass(frozen=True, slots=True)
class Past:
    """The takes on a ladder before a moment, those made elsewhere, and where they led.

    Attributes
    ----------
    tried : list of Tried
        Oldest first.
    others : tuple of Attempt
        All that were made elsewhere, later ones too.
    state : State
    """

    tried: list[Tried] = field(default_factory=list)
    others: tuple[Attempt, ...] = ()
    state: State = field(default_factory=State)


def pasts(ladders: Sequence[Ladder], before: datetime) -> dict[UUID, Past]:
    """Return what happened on ladders of one player before a moment; only what is not remembered is replayed."""
    prints = prints_of(ladders, before)
    keys = {one.pk: _key(one, before, prints[one.pk]) for one in ladders}
    found = {one.pk: past for one in ladders if (past := _MEMORY.get(keys[one.pk]))}
    unknown = [one for one in ladders if one.pk not in found]
    if unknown:
        tried, others = tried_of(unknown, before=before), others_of(unknown)
        for one in unknown:
            found[one.pk] = _past(one, tried.get(one.pk, []), others.get(one.pk, ()), before)
            _MEMORY.put(keys[one.pk], found[one.pk])
    return found


def in_order(tried: Iterable[Tried], others: Iterable[Attempt]) -> list[Attempt]:
    """Return all that counts, ascending: takes, and what was made elsewhere."""
    return sorted([*others, *attempts(tried)], key=lambda attempt: attempt.at)


def _past(ladder: Ladder, tried: list[Tried], others: Iterable[Attempt], before: datetime) -> Past:
    elsewhere = tuple(others)
    made = in_order(tried, (one for one in elsewhere if one.at < before))
    return Past(tried, elsewhere, climbed(ladder.core, made))


def _key(ladder: Ladder, before: datetime, prints: tuple[object, ...]) -> tuple[Any, ...]:
    return ladder.pk, before.isoformat(), json.dumps(ladder.spec, sort_keys=True), ladder.limits, prints


class _Memory:
    """The newest of what was asked for; threads share it."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[Any, ...], Past] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[Any, ...]) -> Past | None:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def put(self, key: tuple[Any, ...], past: Past) -> None:
        with self._lock:
            self._kept[key] = past
            while len(self._kept) > MOST_REMEMBERED:
                self._kept.popitem(last=False)


_MEMORY = _Memory()
