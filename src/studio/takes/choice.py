"""The exercises that a player may choose from: those that there are takes of."""

from __future__ import annotations

from studio.accounts.models import Player
from studio.exercises.models import Exercise
from studio.takes.models import Take

MOST_EXERCISES = 300  # in the choice


def exercises_of(player: Player) -> list[tuple[str, str]]:
    """Return the exercises that a player has takes of, by name."""
    taken = Take.objects.visible_to(player).ended().values("exercise")
    named = Exercise.objects.of(player).filter(pk__in=taken).order_by("name")[:MOST_EXERCISES]
    return [(str(pk), name or "A drill without a name") for pk, name in named.values_list("pk", "name")]
