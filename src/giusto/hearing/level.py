"""Is an instrument heard well: too soft, good, clipping, noise behind; and what of it will count as a note."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.onsets import REFRACTORY_S, SOFTEST_DB, Heard, onsets
from giusto.hearing.sound import Samples

# All of it ours, tried with the stand-in's sounds; full scale is 0 dB.
FRAME_S = 0.02
QUIET_SHARE = 0.2  # the quietest fifth of what is heard is the room
CLIPPED, FEWEST_CLIPPED = 0.985, 3  # of full scale, and so many samples
SILENT_DB, SOFT_DB = -55.0, -30.0  # of the peak
LEAST_ABOVE_DB = 18.0  # of the peak over the room: less, and soft notes drown
ABOVE_ROOM_DB, BELOW_PEAK_DB = 9.0, 34.0  # where the threshold lies
LOWEST_DB, HIGHEST_DB = -60.0, -20.0  # of the threshold
BOUNCE_S, BOUNCE_DB = 0.055, 12.0  # a stroke that comes so soon after one so much louder is its bounce
AFTER_BOUNCE_S = 0.008
# Where a quarter of the strokes come in two and the rest well apart, one stroke sounds twice: consonant and vowel.
TWICE_S, APART_S, TWICE_SHARE, FEWEST_TWICE = 0.090, 0.200, 0.25, 2

LevelCode = Literal["silent", "soft", "noise", "clipping", "good"]


@dataclass(frozen=True, slots=True)
class Gate:
    """What of the sound counts as a note.

    Attributes
    ----------
    threshold_db : float
        Peak of the softest stroke, full scale 0, −60 to −20.
    refractory_s : float
        Shortest time between two notes.
    """

    threshold_db: float = SOFTEST_DB
    refractory_s: float = REFRACTORY_S

    def passed(self, found: Heard) -> Heard:
        """Return the onsets that are loud enough, and not too soon after one that is.

        Examples
        --------
        >>> found = Heard(np.array([0.0, 0.03, 0.5]), np.array([0.9, 0.8, 0.1]))
        >>> Gate(-50.0).passed(found).onset_s.tolist()
        [0.0]
        """
        loud = np.flatnonzero(found.strength >= 1 - self.threshold_db / SOFTEST_DB)
        kept: list[int] = []
        for index in loud.tolist():
            if not kept or found.onset_s[index] - found.onset_s[kept[-1]] >= self.refractory_s:
                kept.append(index)
        return Heard(found.onset_s[kept], found.strength[kept], found.others)


@dataclass(frozen=True, slots=True)
class Level:
    """How some seconds of an instrument are heard.

    Attributes
    ----------
    code : {"silent", "soft", "noise", "clipping", "good"}
    peak_db, room_db : float
        The highest sample, and the loudness of the quietest fifth; full scale is 0.
    gate : Gate
    onset_s : array of float
        Where notes were struck, in seconds from the first sample.
    """

    code: LevelCode
    peak_db: float
    room_db: float
    gate: Gate
    onset_s: FloatArray


def level_of(sound: Samples) -> Level:
    """Return how an instrument is heard, from some seconds of it.

    Parameters
    ----------
    sound : Samples
        Three seconds or so, with some strokes among them.
    """
    samples = sound.read(0, sound.frames)
    size = max(round(FRAME_S * sound.rate_hz), 1)
    frames = samples[: samples.size // size * size].reshape(-1, size)
    peak_db = _db(float(np.max(np.abs(samples), initial=0.0)))
    room_db = _db(float(np.quantile(np.sqrt(np.mean(frames**2, axis=1)), QUIET_SHARE)) if frames.size else 0.0)
    least_db = float(np.clip(max(room_db + ABOVE_ROOM_DB, peak_db - BELOW_PEAK_DB), LOWEST_DB, HIGHEST_DB))
    found = onsets(sound)
    gate = Gate(round(least_db, 1), _refractory_s(found))
    heard = gate.passed(found)
    clipped = int(np.count_nonzero(np.abs(samples) >= CLIPPED))
    return Level(_code(peak_db, room_db, clipped, heard.onset_s.size), peak_db, room_db, gate, heard.onset_s)


def _code(peak_db: float, room_db: float, clipped: int, notes: int) -> LevelCode:
    if clipped >= FEWEST_CLIPPED:
        return "clipping"
    if peak_db < SILENT_DB or not notes:
        return "silent"
    if peak_db - room_db < LEAST_ABOVE_DB:
        return "noise"
    return "soft" if peak_db < SOFT_DB else "good"


def _refractory_s(found: Heard) -> float:
    """Return the shortest time between notes: longer than the bounces that are heard, where there are any.

    Single strokes are asked for: what comes in two, time after time, is how each of them sounds.
    """
    gaps = np.diff(found.onset_s)
    weaker_db = -np.diff(found.strength) * -SOFTEST_DB
    bounces = gaps[(gaps < BOUNCE_S) & (weaker_db >= BOUNCE_DB)]
    twice, rest = gaps[gaps < TWICE_S], gaps[gaps >= TWICE_S]
    most = max(TWICE_SHARE * (rest.size + 1), FEWEST_TWICE)
    if rest.size and twice.size >= most and float(rest.min()) >= APART_S:
        bounces = np.append(bounces, twice)
    return round(max(REFRACTORY_S, float(bounces.max(initial=0.0)) + AFTER_BOUNCE_S if bounces.size else 0.0), 4)


def _db(amplitude: float) -> float:
    return round(20 * float(np.log10(max(amplitude, 1e-6))), 1)
