"""Sound as browsers pack it: short FLAC files, looked at as they come and unpacked where sound is worked with."""

from __future__ import annotations

import io

import numpy as np
import soundfile
from numpy.typing import NDArray

MOST_FRAMES = 75_000  # of one piece: as many as its samples could be unpacked
# RFC 9639, section 8: the marker, the header of the block, and in it 16+16+24+24 bits before what is read here.
MARKER, STREAMINFO, AT, LENGTH = b"fLaC", 0, 18, 8
BITS, CHANNELS = 16, 1


def check_flac(content: bytes) -> None:
    """Refuse what is no short FLAC file of one channel and 16 bits, by its header alone: nothing is unpacked.

    Raises
    ------
    ValueError
    """
    if len(content) < AT + LENGTH or content[:4] != MARKER or content[4] & 0x7F != STREAMINFO:
        raise ValueError("sound.flac begins otherwise than a FLAC file, allowed are FLAC files")
    told = int.from_bytes(content[AT : AT + LENGTH], "big")
    frames, bits, channels = told & (1 << 36) - 1, (told >> 36 & 31) + 1, (told >> 41 & 7) + 1
    if (bits, channels) != (BITS, CHANNELS):
        text = f"sound.flac has {channels} channels of {bits} bits, allowed is {CHANNELS} of {BITS}"
        raise ValueError(text)
    if not 0 < frames <= MOST_FRAMES:
        raise ValueError(f"sound.flac has {frames:,} samples, allowed are 1 to {MOST_FRAMES:,}")


def unpacked(content: bytes) -> NDArray[np.int16] | None:
    """Return the samples of a FLAC file, shape (frames,); None where they can't be read."""
    try:
        with soundfile.SoundFile(io.BytesIO(content)) as file:
            if file.channels != CHANNELS:
                return None
            samples: NDArray[np.int16] = file.read(MOST_FRAMES, dtype="int16")
            return samples
    except soundfile.SoundFileError:
        return None
