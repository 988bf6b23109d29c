"""A short recording made into a click: from its onset on, as loud as ours are."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import scipy

from giusto.arrays import FloatArray
from giusto.click.voice import OWN_RATE_HZ, OwnSound
from giusto.errors import GiustoError
from giusto.hearing.files import opened

LONGEST_FILE_S = 10.0  # ours: with some room before and after the sound
LONGEST_S, SHORTEST_S = 0.35, 0.004  # ours: a longer one sounds into the next click
BEGINS_DB, ENDS_DB = -26.0, -50.0  # ours: of its loudest, where a sound begins and is over
BEFORE_S = 0.0005  # what belongs to an attack before it is that loud
LEAST = 0.003  # of full scale: softer is noise
FADE_S = 0.010
PEAK = 0.9  # as of the loudest of our own
DB = 20.0


def own_sound(path: Path) -> OwnSound:
    """Return the click that a file's sound makes.

    Parameters
    ----------
    path : Path
        Any recording that Giusto takes, 10 s at most.

    Raises
    ------
    GiustoError
        ``sound`` where it can't be read, is too long, or has nothing that stands out.
    """
    with opened(path) as found:
        if found.sound.frames > LONGEST_FILE_S * found.sound.rate_hz:
            lasts_s = found.sound.frames / found.sound.rate_hz
            raise GiustoError(f"the sound lasts {lasts_s:.0f} s, allowed are {LONGEST_FILE_S:.0f} s", code="sound")
        samples = found.sound.read(0, found.sound.frames)
        rate_hz = found.sound.rate_hz
    return cut(samples, rate_hz)


def cut(samples: FloatArray, rate_hz: int) -> OwnSound:
    """Return the click in some samples: from where it begins until it has died away, 0.35 s at most.

    Raises
    ------
    GiustoError
        ``sound``, where nothing stands out, or it stands out for less than 4 ms.
    """
    level = np.abs(samples - np.mean(samples)) if samples.size else samples
    loudest = float(np.max(level, initial=0.0))
    if loudest < LEAST:
        raise GiustoError("nothing in the sound is loud enough for a click", code="sound")
    first = int(np.argmax(level >= loudest * 10 ** (BEGINS_DB / DB)))
    first = max(first - round(BEFORE_S * rate_hz), 0)
    last = int(np.flatnonzero(level >= loudest * 10 ** (ENDS_DB / DB))[-1]) + 1
    last = min(last, first + round(LONGEST_S * rate_hz))
    if last - first < SHORTEST_S * rate_hz:
        raise GiustoError(f"the sound lasts less than {1000 * SHORTEST_S:.0f} ms, allowed is more", code="sound")
    click = samples[first:last] - np.mean(samples)
    pitch_hz = _middle_hz(click, rate_hz)
    click = scipy.signal.resample_poly(click, OWN_RATE_HZ, rate_hz)
    fade = min(round(FADE_S * OWN_RATE_HZ), click.size)
    click[-fade:] *= np.linspace(1, 0, fade)
    return OwnSound(PEAK * click / np.max(np.abs(click)), pitch_hz)


def _middle_hz(samples: FloatArray, rate_hz: int) -> float:
    """Return the frequency below which half of a sound's power lies."""
    power = np.abs(np.fft.rfft(samples * np.hanning(samples.size))) ** 2
    hz = np.fft.rfftfreq(samples.size, 1 / rate_hz)
    return float(np.clip(hz[np.searchsorted(np.cumsum(power), 0.5 * power.sum())], 80.0, 6000.0))
