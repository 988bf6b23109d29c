"""Where the takes of a piece lean: its rush map."""

from __future__ import annotations

from collections.abc import Iterator

from django.db.models import Q

from giusto.errors import GiustoError
from giusto.missing import Missing
from giusto.practice.rush import Lean, Shown, rush_map
from studio.exercises.models import Exercise
from studio.pieces.models import Piece, Stretch
from studio.pieces.music import passage_of
from studio.takes.rushing import newest_read


def leans(piece: Piece, stretch: Stretch | None = None) -> list[Lean] | Missing:
    """Return the rush map of a piece by the takes of all its stretches, or of one of them; two queries."""
    stretches = piece.stretches.exclude(exercise=None).select_related("exercise")
    some = list(stretches if stretch is None else stretches.filter(pk=stretch.pk))
    return rush_map(list(_shown(piece, some)))


def _shown(piece: Piece, stretches: list[Stretch]) -> Iterator[Shown]:
    """Yield the newest takes, each with the bars that it plays."""
    by_exercise = {stretch.exercise_id: stretch for stretch in stretches}
    both_hands = Q(exercise__whole__in=by_exercise, exercise__hand=Exercise.Hand.TOGETHER)
    passages: dict[int, tuple[int, tuple[int, ...]]] = {}
    for take in newest_read(piece.player, Q(exercise__in=by_exercise) | both_hands):
        exercise = take.exercise
        found = take.reading.found
        if exercise is None or found is None:
            continue
        stretch = by_exercise[exercise.whole_id or exercise.pk]
        if stretch.pk not in passages:
            try:
                passage = passage_of(piece, stretch)
            except GiustoError:
                continue
            passages[stretch.pk] = passage.bars, passage.beats
        bars, beats = passages[stretch.pk]
        yield Shown(found, first=stretch.first_bar, bars=bars, beats=beats)
