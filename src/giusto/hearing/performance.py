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
        at, times, strengths, sources = 0.0, [], [], []
        for message in file:
            at += message.time
            if message.type == "note_on" and message.velocity > 0:
                times.append(at)
                strengths.append(message.velocity / 127)
                sources.append(f"note:{message.note}")
                if len(times) > MOST_NOTES:
                    raise GiustoError(f"the MIDI file has more than {MOST_NOTES:,} notes", code="midi")
    except (OSError, ValueError, EOFError, KeyError, IndexError, TypeError, AttributeError) as error:
        if isinstance(error, GiustoError):
            raise
        told = str(error)[:120] or type(error).__name__
        raise GiustoError(f"the MIDI file can't be read: {told}", code="midi") from None
    if not times:
        raise GiustoError("the MIDI file has no note", code="midi")
    return as_chords(notes_of(times, strength=strengths, source=sources))


def as_chords(notes: Played) -> Played:
    """Return notes with those that come within 30 ms of a chord's first one as one, as strong as the strongest.

    Examples
    --------
    >>> as_chords(notes_of([0.0, 0.01, 0.5], strength=[0.4, 0.9, 0.5])).strength.tolist()
    [0.9, 0.5]
    """
    first: list[int] = []
    strongest: list[float] = []
    for index, (at, strength) in enumerate(zip(notes.onset_s.tolist(), notes.strength.tolist(), strict=True)):
        if first and at - notes.onset_s[first[-1]] < CHORD_S:
            strongest[-1] = float(np.fmax(strongest[-1], strength))
        else:
            first.append(index)
            strongest.append(strength)
    kept = notes.where(np.array(first, dtype=np.int64))
    return notes_of(kept.onset_s, strength=strongest, source=kept.source, label=kept.label)
