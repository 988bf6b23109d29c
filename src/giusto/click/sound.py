"""The click of a whole drill as sound, exact to the sample."""

from __future__ import annotations

from collections.abc import Iterator
from errno import ENOSPC
from pathlib import Path

import numpy as np
import soundfile

from giusto.click.voice import LENGTH_S, Samples, click_samples
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


def frame_count(schedule: Schedule, *, rate_hz: int) -> int:
    """Return how many frames the drill lasts, its last click's tail included."""
    return round((float(schedule.seconds(schedule.end_tick)) + LENGTH_S) * rate_hz)


def blocks(schedule: Schedule, *, voice: str, rate_hz: int) -> Iterator[Samples]:
    """Return the click of a drill, block by block.

    Parameters
    ----------
    schedule : Schedule
    voice : str
        One of ``giusto.click.voice.VOICES``.
    rate_hz : {44100, 48000}

    Yields
    ------
    array of float32
        Mono, between −1 and 1.
    """
    sounds = {str(kind): click_samples(voice, str(kind), rate_hz=rate_hz) for kind in np.unique(schedule.kinds)}
    frames, total = click_frames(schedule, rate_hz=rate_hz), frame_count(schedule, rate_hz=rate_hz)
    longest = round(LENGTH_S * rate_hz)
    size = BLOCK_S * rate_hz
    for start in range(0, total, size):
        block = np.zeros(min(size, total - start) + 2 * longest, dtype=np.float32)
        first, last = np.searchsorted(frames, [start - longest, start + size])
        for frame, kind in zip(frames[first:last].tolist(), schedule.kinds[first:last].tolist(), strict=True):
            at = frame - start + longest
            block[at : at + longest] += sounds[kind]
        yield np.clip(block[longest:-longest], -1.0, 1.0)


def write_sound(schedule: Schedule, path: Path, *, voice: str, rate_hz: int) -> None:
    """Write the click of a drill as WAV or FLAC, 24 bits, mono.

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
    sound = blocks(schedule, voice=voice, rate_hz=rate_hz)
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
