"""A performance as a MIDI file: each note-on with its velocity; a chord is one note."""

from __future__ import annotations

import io

import mido
import numpy as np

from giusto.errors import GiustoError
from giusto.notes.record import Played, notes_of

CHORD_S = 0.030  # by the contract: note-ons so close are one note
MAX_BYTES, MOST_NOTES = 20_000_000, 500_000  # ours


def performed(content: bytes) -> Played:
    """Return the notes of a performance, in seconds from the file's beginning.

    Raises
    ------
    GiustoError
        ``midi``, where it is no MIDI file, too large, or has no note.
    """
    if len(content) > MAX_BYTES:
        raise GiustoError(f"the MIDI file is larger than {MAX_BYTES:,} bytes", code="midi")
    try:
        file = mido.MidiFile(file=io.BytesIO(content))
        at, times, strengths = 0.0, [], []
        for message in file:
            at += message.time
            if message.type == "note_on" and message.velocity > 0:
                times.append(at)
                strengths.append(message.velocity / 127)
                if len(times) > MOST_NOTES:
                    raise GiustoError(f"the MIDI file has more than {MOST_NOTES:,} notes", code="midi")
    except (OSError, ValueError, EOFError, KeyError, IndexError, TypeError, AttributeError) as error:
        if isinstance(error, GiustoError):
            raise
        told = str(error)[:120] or type(error).__name__
        raise GiustoError(f"the MIDI file can't be read: {told}", code="midi") from None
    if not times:
        raise GiustoError("the MIDI file has no note", code="midi")
    return chords_joined(np.array(times), np.array(strengths))


def chords_joined(times_s: np.ndarray, strengths: np.ndarray) -> Played:
    """Return notes with those that come within 30 ms of a chord's first one as one, as strong as the strongest.

    Examples
    --------
    >>> chords_joined(np.array([0.0, 0.01, 0.5]), np.array([0.4, 0.9, 0.5])).strength.tolist()
    [0.9, 0.5]
    """
    order = np.argsort(times_s, kind="stable")
    kept_s: list[float] = []
    kept: list[float] = []
    for at, strength in zip(times_s[order].tolist(), strengths[order].tolist(), strict=True):
        if kept_s and at - kept_s[-1] < CHORD_S:
            kept[-1] = max(kept[-1], strength)
        else:
            kept_s.append(at)
            kept.append(strength)
    return notes_of(kept_s, strength=kept)
