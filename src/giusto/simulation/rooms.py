"""Where a take is recorded, and by what: a room, a gain control, a narrow band; all of our own making.

Samples and the result are arrays of float, shape (frames,), full scale 1; nothing is moved in time.
"""

from __future__ import annotations

from math import gcd

import numpy as np
import scipy

from giusto.arrays import FloatArray

RINGS_S, GAP_S, BELOW_DB = 0.5, 0.004, 3.0  # until 60 dB down, before the first echo, and all echoes below the sound
ATTACK_S, RELEASE_S, TARGET_DB, MOST_GAIN_DB = 0.005, 0.5, -12.0, 20.0  # as recorders of speech have it
FRAME_S, LEAST = 0.001, 1e-4
NARROW_HZ = 8_000  # a telephone's rate


def in_room(samples: FloatArray, *, rate_hz: int, seed: int = 1) -> FloatArray:
    """Return a sound as a room of half a second returns it: noise that decays evenly, as loud at most as it was."""
    frames = round(RINGS_S * rate_hz)
    time_s = np.arange(frames) / rate_hz
    echoes = np.random.default_rng(seed).standard_normal(frames) * 10 ** (-3 * time_s / RINGS_S)
    echoes[: round(GAP_S * rate_hz)] = 0.0
    echoes *= 10 ** (-BELOW_DB / 20) / np.sqrt(np.sum(echoes**2))
    echoes[0] = 1.0
    heard = scipy.signal.fftconvolve(samples, echoes)[: samples.size]
    found: FloatArray = heard * np.max(np.abs(samples)) / np.max(np.abs(heard))
    return found


def gain_controlled(samples: FloatArray, *, rate_hz: int) -> FloatArray:
    """Return a sound as a recorder writes it that lifts what is soft, falls at once and rises slowly."""
    hop = round(FRAME_S * rate_hz)
    peaks = np.abs(samples[: samples.size // hop * hop]).reshape(-1, hop).max(axis=1)
    falls, rises = (float(np.exp(-hop / rate_hz / lasts_s)) for lasts_s in (ATTACK_S, RELEASE_S))
    level, levels = LEAST, []
    for peak in peaks.tolist():
        keeps = falls if peak > level else rises
        level = keeps * level + (1 - keeps) * peak
        levels.append(level)
    gain = np.minimum(10 ** (TARGET_DB / 20) / np.maximum(levels, LEAST), 10 ** (MOST_GAIN_DB / 20))
    return np.clip(samples * np.interp(np.arange(samples.size), hop * np.arange(gain.size), gain), -1.0, 1.0)


def narrowed(samples: FloatArray, *, rate_hz: int) -> FloatArray:
    """Return a sound at a telephone's rate, ``NARROW_HZ``."""
    parts = gcd(rate_hz, NARROW_HZ)
    found: FloatArray = scipy.signal.resample_poly(samples, NARROW_HZ // parts, rate_hz // parts)
    return found
