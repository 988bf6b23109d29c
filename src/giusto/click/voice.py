"""The voices of the click: four short sounds of ours, or one of the player's own, each at three levels.

The first sample of each is its onset, and never zero: a click starts exactly where it is placed.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from giusto.arrays import FloatArray
from giusto.errors import GiustoError

Samples: TypeAlias = NDArray[np.float32]

LENGTH_S = 0.06
TAIL_S = 0.010  # the sound fades to nothing over its last part
RATES_HZ = (44_100, 48_000)
# Level of each kind of click, as a share of the loudest; count-in clicks are main ones.
LEVELS = {"accent": 1.0, "click": 0.8, "count": 0.8, "sub": 0.35}


@dataclass(frozen=True, slots=True)
class Voice:
    """A sum of decaying partials.

    Attributes
    ----------
    pitch_hz, accent_hz : float
        The lowest partial, and that of an accent.
    partials : tuple of (float, float)
        Ratio to the lowest, and weight.
    decay_s : float
        Time in which the sound falls to 1/e.
    loudness : float
        Highest sample of an accent, 0 to 1.
    """

    pitch_hz: float
    accent_hz: float
    partials: tuple[tuple[float, float], ...]
    decay_s: float
    loudness: float


VOICES: dict[str, Voice] = {
    "wood": Voice(1175, 1760, ((1.0, 1.0), (2.76, 0.4)), 0.012, 0.9),
    "pin": Voice(2637, 3520, ((1.0, 1.0), (1.5, 0.6), (3.1, 0.3)), 0.006, 0.9),
    "felt": Voice(523, 659, ((1.0, 1.0), (2.0, 0.15)), 0.018, 0.35),  # soft, for long work
    "low": Voice(147, 196, ((1.0, 1.0), (1.59, 0.5), (2.14, 0.3)), 0.022, 0.9),
}


@dataclass(frozen=True, slots=True, eq=False)
class OwnSound:
    """A short sound that a player brought as their click (``giusto.hearing.own_click`` makes one of a file).

    Attributes
    ----------
    samples : array of float, shape (frames,)
        −1 to 1, its onset first, at ``OWN_RATE_HZ``.
    pitch_hz : float
        About where its power lies.
    """

    samples: FloatArray
    pitch_hz: float


OWN_RATE_HZ = 48_000
AnyVoice: TypeAlias = str | OwnSound


def pitch_of(voice: AnyVoice) -> float:
    """Return about where the power of a click lies, in Hz."""
    return voice.pitch_hz if isinstance(voice, OwnSound) else VOICES[voice].pitch_hz


def click_samples(voice: AnyVoice, kind: str, *, rate_hz: int) -> Samples:
    """Return one click as sound.

    Parameters
    ----------
    voice : {"wood", "pin", "felt", "low"} or OwnSound
        An own sound is the same for an accent, louder.
    kind : {"accent", "click", "count", "sub"}
    rate_hz : {44100, 48000}

    Returns
    -------
    array of float32, shape (n,)
        Between −1 and 1; its onset is its first sample.

    Raises
    ------
    GiustoError
        ``voice`` or ``rate``.
    """
    if isinstance(voice, str) and voice not in VOICES:
        raise GiustoError(f'voice is "{voice}", allowed are {", ".join(VOICES)}', code="voice")
    if rate_hz not in RATES_HZ:
        raise GiustoError(f"rate_hz is {rate_hz}, allowed are {RATES_HZ[0]} and {RATES_HZ[1]}", code="rate")
    if isinstance(voice, OwnSound):
        return (LEVELS[kind] * _at_rate(voice.samples, OWN_RATE_HZ, rate_hz)).astype(np.float32)
    sound = VOICES[voice]
    time_s = np.arange(round(LENGTH_S * rate_hz)) / rate_hz
    pitch_hz = sound.accent_hz if kind == "accent" else sound.pitch_hz
    wave = sum(weight * np.cos(2 * np.pi * pitch_hz * ratio * time_s) for ratio, weight in sound.partials)
    total = sum(weight for _, weight in sound.partials)
    envelope = np.exp(-time_s / sound.decay_s) * np.minimum(1.0, (LENGTH_S - time_s) / TAIL_S)
    return (sound.loudness * LEVELS[kind] / total * wave * envelope).astype(np.float32)


def click_at(voice: AnyVoice, rate_hz: int) -> FloatArray:
    """Return a click's sound at any rate, for what is set against a recording or laid beside it.

    Parameters
    ----------
    voice : str or OwnSound
    rate_hz : int

    Returns
    -------
    array of float, shape (frames,)
    """
    known = min(RATES_HZ, key=lambda rate: abs(rate - rate_hz))
    return _at_rate(click_samples(voice, "click", rate_hz=known).astype(np.float64), known, rate_hz)


def _at_rate(samples: FloatArray, from_hz: int, to_hz: int) -> FloatArray:
    if from_hz == to_hz:
        return samples
    count = round(samples.size * to_hz / from_hz)
    return np.interp(np.arange(count) / to_hz, np.arange(samples.size) / from_hz, samples)
