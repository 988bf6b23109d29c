"""The plan of the days ahead: keys go on from what was played, so that one that was skipped comes first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta

from giusto.plan.days import Slot, plan
from studio.accounts.models import Player
from studio.plans.actions import day_of
from studio.plans.entries import Named
from studio.plans.today import chosen_days, practised, word_of


def slots_ahead(player: Player, named: Named, today: date, end: date) -> list[Slot]:
    """Return the slots of the days of practice from today up to a day, that one not included."""
    days = (end - today).days
    if days <= 0:
        return []
    chosen = chosen_days(player, named.core, today, days)
    now = plan(named.core, start=today, days=1, chosen=chosen, practised=practised(player, named, today))
    if days == 1:
        return [_called(slot, named) for slot in now]
    tomorrow = today + timedelta(days=1)
    keys = _after(player, named, today, now)
    later = plan(named.core, start=tomorrow, days=days - 1, chosen=chosen, practised=keys)
    return [_called(slot, named) for slot in (*now, *later)]


def _called(slot: Slot, named: Named) -> Slot:
    """Return a slot under the name of what is played in it: the same as on its own page, and on that of today."""
    entry = named.entry(slot.block, slot.exercise)
    return replace(slot, exercise=entry.called) if entry and entry.called else slot


def _after(player: Player, named: Named, today: date, slots: Sequence[Slot]) -> dict[str, list[str]]:
    """Return the keys as played once today is over: those that were, then those that still may be."""
    row = day_of(player, today)
    found = practised(player, named, today + timedelta(days=1))
    if row.closed_at is None:
        for slot in slots:
            if slot.key and word_of(slot, named.entry(slot.block, slot.exercise)) not in row.over:
                found.setdefault(slot.exercise, []).append(slot.key)
    return found
