"""Of which drill a recording is: by the click that bleeds into it, else by its notes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log
from pathlib import Path

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.content import content_of
from giusto.hearing.files import opened
from giusto.hearing.find_click import ROUGH_MOST_S, Look, Placed, best_place, looks
from giusto.hearing.onsets import onsets
from giusto.hearing.performance import performed
from giusto.hearing.recording import FEWEST_NOTES, by_notes
from giusto.hearing.sound import Sound
from giusto.hearing.without_click import WithoutClick
from giusto.notes.csv_file import parse_notes
from giusto.notes.match import match
from giusto.notes.record import notes_of
from giusto.schedule import Schedule

LEAST_NOTES = 0.6  # ours: of those that a drill asks for; what fits less is another drill
LEAST_OF_BEST = 0.3  # ours: what speaks for another drill, of what speaks for the likeliest
SURE_VOICE = 0.8  # ours: of its clicks; then other voices need not be tried
STRAY = 0.03  # ours: how often something sounds like a click where none is due
MISSING_COST = 2.0  # ours: a note that is not there against one that is
ALIKE_FIT = 0.05  # ours: of the best; what fits so nearly as well is told apart by the notes
NEAR_S = 0.003  # how far a click may lie off the line through all of them; strokes are rarely so near


@dataclass(frozen=True, slots=True)
class Fit:
    """How well a recording fits one of several drills.

    Attributes
    ----------
    number : int
        Of the drill, in the order given.
    by : {"clicks", "notes"}
        What was counted.
    found, asked, others : int
        Clicks or notes that are where the drill has them, that it has, and, of notes, that are elsewhere.
    """

    number: int
    by: str
    found: int
    asked: int
    others: int = 0

    @property
    def share(self) -> float:
        """Return the share of what is asked that is there, of notes of what is there as well, 0 to 1."""
        return min(self.found / max(self.asked, 1), self.found / max(self.found + self.others, 1))

    @property
    def weight(self) -> float:
        """Return what speaks for it: of clicks the log likelihood, each heard as often as they are, against chance."""
        missed = self.asked - self.found
        if self.by == "notes":
            return self.found - MISSING_COST * missed - self.others
        share = min(max(self.share, STRAY), 0.99)
        return self.found * log(share / STRAY) + missed * log((1 - share) / (1 - STRAY))


def which(path: Path, plans: Sequence[Schedule]) -> list[Fit]:
    """Return which drills a recording may be of, the likeliest first; those that it can't be are left out.

    Parameters
    ----------
    path : Path
        As for ``giusto.hearing.recording.recorded``.
    plans : sequence of Schedule

    Raises
    ------
    GiustoError
        Where the file can't be read.
    """
    content = content_of(path)
    if content == "midi":
        return _by_notes(performed(path.read_bytes()).onset_s, plans)
    if content == "text":
        return _by_notes(parse_notes(path.read_bytes()).onset_s, plans)
    with opened(path) as file:
        return of_sound(file.sound, plans)


def of_sound(sound: Sound, plans: Sequence[Schedule]) -> list[Fit]:
    """Return which drills a sound may be of (``which``)."""
    clicks_s = [plan.seconds(plan.clicks.tick) for plan in plans]
    places: dict[int, Placed] = {}
    counted: dict[int, Fit] = {}
    for look in looks(sound):
        found = {number: best_place(look, one) for number, one in enumerate(clicks_s) if one.size}
        for number, place in found.items():
            if place and (number not in places or place.fit > places[number].fit):
                places[number] = place
                counted[number] = _clicks(number, place, clicks_s[number], look)
        if any(fit.share >= SURE_VOICE for fit in counted.values()):
            break
    fits = _sorted([*counted.values()])
    if not fits:
        return _by_notes(onsets(sound).onset_s, plans)
    alike = [one for one in fits if one.weight >= (1 - ALIKE_FIT) * fits[0].weight]
    if len(alike) > 1:
        first = alike[0].number
        heard = onsets(WithoutClick(sound, places[first].line, plans[first])).onset_s
        notes = {one.number: _notes(one.number, places[one.number].line.drill_s(heard), plans) for one in alike}
        alike.sort(key=lambda one: notes[one.number].weight, reverse=True)
    return [*alike, *fits[len(alike) :]]


def _clicks(number: int, placed: Placed, clicks_s: FloatArray, look: Look) -> Fit:
    """Count the clicks of a recording's first minutes that are where a drill has them."""
    heard_s = placed.line.recorded_s(clicks_s)
    clicks_s = clicks_s[(heard_s > 0) & (heard_s < min(ROUGH_MOST_S, look.sound.frames / look.sound.rate_hz))]
    if not clicks_s.size:
        return Fit(number, "clicks", 0, 1)
    at_s, found_s, _ = look.timed(clicks_s, placed.line.zero_s)
    near = np.abs(found_s - placed.line.recorded_s(at_s)) < NEAR_S
    return Fit(number, "clicks", int(near.sum()), clicks_s.size)


def _by_notes(onset_s: FloatArray, plans: Sequence[Schedule]) -> list[Fit]:
    if onset_s.size < FEWEST_NOTES:
        return []
    zeros = [by_notes(notes_of(onset_s), plan, kind="sound") for plan in plans]
    fits = [_notes(number, one.notes.onset_s, plans) for number, one in enumerate(zeros)]
    return _sorted([one for one in fits if one.share >= LEAST_NOTES])


def _notes(number: int, times_s: FloatArray, plans: Sequence[Schedule]) -> Fit:
    """Count the notes that a drill asks for and that are there."""
    plan = plans[number]
    end_s = float(plan.seconds(plan.end_tick))
    within = times_s[(times_s > -plan.beat_s) & (times_s < end_s + plan.beat_s)]
    asked = plan.notes.tick.size
    found = match(plan, within).asked.size if within.size >= FEWEST_NOTES else 0
    return Fit(number, "notes", found, asked, within.size - found)


def _sorted(fits: list[Fit]) -> list[Fit]:
    best = max((one.weight for one in fits), default=0.0)
    near = [one for one in fits if one.weight > 0 and one.weight >= LEAST_OF_BEST * best]
    return sorted(near, key=lambda one: one.weight, reverse=True)
