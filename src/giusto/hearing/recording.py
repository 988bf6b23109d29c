"""A recording made elsewhere, brought into drill time: by the click that bleeds into it, else by its notes."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.bleed import Line, WithoutClick, find_click
from giusto.hearing.onsets import onsets
from giusto.hearing.sound import Sound, SoundFile
from giusto.notes.match import match
from giusto.notes.record import Played, notes_of
from giusto.schedule import Schedule

FEWEST_NOTES = 3
FIRST_NOTES = 8  # ours: as many of the first notes may be the first that was asked for
NO_BLEED = (
    "the click is not heard in the recording: time zero is where the notes fit best, so that your place with the click"
    " is not known, and the recorder’s clock counts as right"
)


@dataclass(frozen=True, slots=True)
class Recording:
    """Notes of a recording in drill time, and what their times rest on.

    Attributes
    ----------
    notes : Played
    line : Line
    kind : {"sound", "midi"}
    remarks : tuple of str
    """

    notes: Played
    line: Line
    kind: str
    remarks: tuple[str, ...]

    def source(self) -> dict[str, Any]:
        """Return what ``reading/1`` says of it."""
        line = self.line
        return {
            "kind": self.kind,
            "zero_s": round(line.zero_s, 6),
            "zero_ci95_ms": [round(1000 * end, 4) for end in line.zero_ci95_s],
            "clock_ppm": None if line.ppm is None else round(line.ppm, 2),
            "clock_ci95_ppm": None if line.ppm_ci95 is None else [round(end, 2) for end in line.ppm_ci95],
            "by": line.by,
        }


def recorded(path: Path, plan: Schedule) -> Recording:
    """Return the notes of a recording of a drill.

    Parameters
    ----------
    path : Path
        WAV, FLAC or a Standard MIDI File, by its ending.
    plan : Schedule

    Raises
    ------
    GiustoError
        Where it can't be read, or nothing in it can be a take of the drill.
    """
    if path.suffix.lower() in (".mid", ".midi"):
        from giusto.hearing.performance import performed

        notes = performed(path.read_bytes())
        return _by_notes(notes.onset_s, notes.strength, plan, kind="midi")
    with SoundFile(path) as sound:
        return heard(sound, plan)


def heard(sound: Sound, plan: Schedule) -> Recording:
    """Return the notes of a sound in drill time."""
    line = find_click(sound, plan)
    if line is None:
        found = onsets(sound)
        return _by_notes(found.onset_s, found.strength, plan, kind="sound")
    found = onsets(WithoutClick(sound, line, plan))
    times = line.drill_s(found.onset_s)
    near = (times > -1.0) & (times < float(plan.seconds(plan.end_tick)) + 2.0)
    return Recording(notes_of(times[near], strength=found.strength[near]), line, "sound", ())


def _by_notes(onset_s: FloatArray, strength: FloatArray, plan: Schedule, *, kind: str) -> Recording:
    """Return notes that lie where they fit the drill best: the asked tempo, and one of the first as the first asked."""
    asked_s = plan.seconds(plan.notes.tick)
    if onset_s.size < FEWEST_NOTES or not asked_s.size:
        problem = f"the recording has {onset_s.size} notes, allowed are {FEWEST_NOTES} at least"
        raise GiustoError(problem, code="notes")
    zeros = [float(first - asked_s[0]) for first in onset_s[:FIRST_NOTES]]
    zero = max(zeros, key=lambda one: match(plan, onset_s - one).asked.size)
    for _ in range(3):
        found = match(plan, onset_s - zero)
        if found.asked.size:
            zero += float(np.median(onset_s[found.played] - zero - asked_s[found.asked]))
    found = match(plan, onset_s - zero)
    errors = onset_s[found.played] - zero - asked_s[found.asked]
    half = 1.96 * float(np.std(errors)) / max(np.sqrt(errors.size), 1.0) if errors.size else 0.0
    line = Line(zero, (zero - half, zero + half), None, None, "notes")
    strengths = None if np.all(np.isnan(strength)) else strength
    return Recording(notes_of(onset_s - zero, strength=strengths), line, kind, (NO_BLEED,))
