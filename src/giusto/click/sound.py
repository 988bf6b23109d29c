"""The click of a whole drill as sound, exact to the sample."""

from __future__ import annotations

from collections.abc import Iterator
from errno import ENOSPC
from pathlib import Path

import numpy as np
import soundfile

from giusto.click.said import AFTER_S, LEAD_S, said, word_samples
from giusto.click.voice import LENGTH_S, AnyVoice, Samples, click_samples
from giusto.errors import GiustoError
from giusto.schedule import Schedule

BLOCK_S = 10  # ours: what is held in memory at once
FORMATS = {".wav": "WAV", ".flac": "FLAC"}
SUBTYPE = "PCM_24"
MAX_WAV_BYTES = 4_000_000_000  # a WAV file's sizes have 32 bits
BYTES_A_SAMPLE = 3


def click_frames(schedule: Schedule, *, rate_hz: int) -> np.ndarray:
    """Return the frame of each click's first sample, shape (clicks,)."""
    return np.round(schedule.seconds(schedule.clicks.tick) * rate_hz).astype(np.int64)


def frame_count(schedule: Schedule, *, rate_hz: int, tail_s: float = LENGTH_S) -> int:
    """Return how many frames the drill lasts, the tail of its last sound included."""
    return round((float(schedule.seconds(schedule.end_tick)) + tail_s) * rate_hz)


def blocks(schedule: Schedule, *, voice: AnyVoice, rate_hz: int, counted: str = "") -> Iterator[Samples]:
    """Return the click of a drill, block by block.

    Parameters
    ----------
    schedule : Schedule
    voice : str or OwnSound
        One of ``giusto.click.voice.VOICES``, or a player's own.
    rate_hz : {44100, 48000}
    counted : str, optional
        The school by which each click is counted aloud as well (``giusto.click.said``). A word begins before its
        click: of one on the drill's first moment the beginning is missing.

    Yields
    ------
    array of float32
        Mono, between −1 and 1.
    """
    sounds = {str(kind): click_samples(voice, str(kind), rate_hz=rate_hz) for kind in np.unique(schedule.kinds)}
    frames = click_frames(schedule, rate_hz=rate_hz)
    total = frame_count(schedule, rate_hz=rate_hz, tail_s=AFTER_S if counted else LENGTH_S)
    placed = list(zip(frames.tolist(), schedule.kinds.tolist(), strict=True))
    if counted:
        words = said(schedule, school=counted)
        sounds |= {word: word_samples(word, rate_hz=rate_hz) for word in set(words) - {""}}
        lead = round(LEAD_S * rate_hz)
        placed += [(frame - lead, word) for frame, word in zip(frames.tolist(), words, strict=True) if word]
        placed.sort()
    starts = np.array([frame for frame, _ in placed], dtype=np.int64)
    edge = max((sound.size for sound in sounds.values()), default=0)
    size = BLOCK_S * rate_hz
    for start in range(0, total, size):
        length = min(size, total - start)
        block = np.zeros(length + 2 * edge, dtype=np.float32)
        first, last = np.searchsorted(starts, [start - edge, start + size])
        for frame, name in placed[first:last]:
            at = frame - start + edge
            block[at : at + sounds[name].size] += sounds[name]
        yield np.clip(block[edge : edge + length], -1.0, 1.0)


def write_sound(schedule: Schedule, path: Path, *, voice: AnyVoice, rate_hz: int, counted: str = "") -> None:
    """Write the click of a drill as WAV or FLAC, 24 bits, mono; counted aloud as well by a school of counting.

    Raises
    ------
    GiustoError
        For another ending than ``.wav`` and ``.flac``, or a WAV file beyond 4 GB.
    OSError
        Where the file can't be written to its end; what there is of it is removed.
    """
    form = FORMATS.get(path.suffix.lower())
    if form is None:
        raise GiustoError(f'the file ends in "{path.suffix}", allowed are .wav, .flac and .mid', code="ending")
    size = frame_count(schedule, rate_hz=rate_hz) * BYTES_A_SAMPLE
    if form == "WAV" and size > MAX_WAV_BYTES:
        raise GiustoError(f"the drill makes {size:,} bytes, a WAV file holds {MAX_WAV_BYTES:,}", code="too_long")
    sound = blocks(schedule, voice=voice, rate_hz=rate_hz, counted=counted)
    first = next(sound)  # a voice that is not there is refused before a file is made
    path.open("wb").close()  # where that can't be, the system says why better than the library
    try:
        # By its name: the library prints what goes wrong in a file object of ours instead of raising it.
        with soundfile.SoundFile(path, "w", samplerate=rate_hz, channels=1, format=form, subtype=SUBTYPE) as written:
            written.write(first)
            for block in sound:
                written.write(block)
    except (soundfile.LibsndfileError, AssertionError):  # the library tells fewer samples written, not why
        path.unlink(missing_ok=True)
        raise OSError(ENOSPC, "could not be written to its end; is the disk full?", str(path)) from None
