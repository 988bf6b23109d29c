"""Where the takes of a piece lean: its rush map."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from django.db.models import Q

from giusto.drill.passage import Bar, chosen_bars
from giusto.missing import Missing
from giusto.practice.rush import Lean, PassageTake, rush_map
from studio.exercises.models import Exercise
from studio.pieces.models import Piece, Stretch
from studio.pieces.music import bars_of
from studio.takes.rushing import newest_read, notes_asked


def leans(piece: Piece, stretch: Stretch | None = None) -> list[Lean] | Missing:
    """Return the rush map of a piece by the takes of all its stretches, or of one of them; two queries."""
    stretches = piece.stretches.exclude(exercise=None).select_related("exercise")
    some = list(stretches if stretch is None else stretches.filter(pk=stretch.pk))
    return rush_map(list(_shown(piece, some)))


def _shown(piece: Piece, stretches: list[Stretch]) -> Iterator[PassageTake]:
    """Yield the newest takes, each with the bars that it plays."""
    by_exercise = {stretch.exercise_id: stretch for stretch in stretches}
    music = bars_of(piece.music)
    bars = {one.pk: _bars(music, one) for one in stretches}
    both_hands = Q(exercise__whole__in=by_exercise, exercise__hand=Exercise.Hand.TOGETHER)
    for take in newest_read(piece.player, Q(exercise__in=by_exercise) | both_hands):
        exercise, notes = take.exercise, notes_asked(take)
        if exercise and notes:
            stretch = by_exercise[exercise.whole_id or exercise.pk]
            count, beats = _rounds(bars[stretch.pk], take.drill)
            yield PassageTake(notes, first=stretch.first_bar, bars=count, beats=beats)


def _bars(music: list[Bar], stretch: Stretch) -> list[Bar] | int:
    """Return the bars of a stretch, or how many there are where the piece has no score."""
    if not music:
        return stretch.last_bar - stretch.first_bar + 1
    return chosen_bars(music, f"{stretch.first_bar}-{stretch.last_bar}")


def _rounds(bars: list[Bar] | int, drill: dict[str, Any]) -> tuple[int, tuple[int, ...]]:
    """Return how many bars a take's drill plays, and the beats of each where all of them are one cycle of it."""
    if isinstance(bars, int):
        return bars, ()
    parts = Fraction(bars[0].beat) / Fraction(drill["tempo"]["beat"])
    beats = tuple(int(bar.beats * parts) for bar in bars)
    return len(bars), beats if len(bars) > 1 and drill["cycle"]["beats"] == sum(beats) else ()
