"""How fast an exercise goes at all: its probe on its own notes, and the tempo to work at by the newest one."""

from __future__ import annotations

from collections.abc import Iterable

from django.urls import reverse

from giusto.drill import Drill
from giusto.errors import DrillError
from giusto.missing import Missing
from giusto.practice.ceiling import Ceiling, Working, ceiling, has_parted, is_probe, probe_of, working_at
from studio.accounts.models import Player
from studio.drills.sentence.codec import query, words_of
from studio.exercises.models import Exercise
from studio.takes.material import material_of
from studio.takes.models import Take
from studio.takes.plan import plan_of


def probe_address(drill: Drill, exercise: Exercise) -> str:
    """Return where the probe of an exercise is played, on a drill's notes; ``""`` where it has none."""
    try:
        probe = probe_of(drill)
    except DrillError:  # longer than a drill may be
        probe = None
    return f"{reverse('takes:play')}?{query({**words_of(probe), 'drill': exercise.word})}" if probe else ""


def ceiling_of(take: Take) -> Ceiling | Missing | None:
    """Return what a take's probe found; None for a take that is none, or not read."""
    plan = plan_of(take)
    row = getattr(take, "reading", None)
    return ceiling(plan, row.onsets_s or []) if row and is_probe(plan.drill) else None


def workings_of(player: Player, exercises: Iterable[int]) -> dict[int, Working]:
    """Return the tempo to work at of exercises that were probed, by the newest probe of each; one query."""
    newest = (
        Take.objects.telling_of(player)
        .filter(exercise__in=set(exercises), drill__tempo__has_key="steps", drill__clicks__silence=None)
        .order_by("exercise", "-started_at")
        .distinct("exercise")
        .select_related("reading")
    )
    found = ((take.exercise_id or 0, working_at(ceiling_of(take))) for take in newest)
    return {exercise: working for exercise, working in found if working}


def parted(take: Take, until_s: float) -> bool:
    """Return whether notes and a climbing click have parted by a moment of a take that is still played.

    What is heard in sound is heard by the worker, later: then it goes on to its end.
    """
    plan = plan_of(take)
    if take.hearing.is_by_sound or not is_probe(plan.drill):
        return False
    return has_parted(plan, material_of(take).notes.onset_s, until_s)
