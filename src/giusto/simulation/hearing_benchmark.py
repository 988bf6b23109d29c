"""How well onsets are heard: takes of single sounds with known times, soft to hard, in noise."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import scipy

from giusto.arrays import FloatArray
from giusto.hearing.onsets import onsets
from giusto.hearing.sound import Samples
from giusto.hearing.timbre import learned, told_apart
from giusto.simulation.coders import KINDS, through
from giusto.simulation.groove import groove
from giusto.simulation.instrument import RATE_HZ, SOUNDS, strike
from giusto.simulation.rooms import NARROW_HZ, gain_controlled, in_room, narrowed

FAST = "double strokes"
# By the bars of the design: 25 ms for what is struck, 50 ms for what is plucked or bowed.
WINDOW_S = {"skin": 0.025, "wood": 0.025, "metal": 0.025, "string": 0.050, "bowed": 0.050, FAST: 0.020}
NOISES_DB = (-60.0, -40.0)
STROKES = 60
SOFTEST_DB, HARDEST_DB = -18.0, -3.0
APART_S = 0.45
LEARNED, BRIGHT_HZ, APART_WINDOW_S = 10, (6_000.0, 15_000.0), 0.03
STOP_S = 0.03  # a string that is played again stops within
PLACES = ("clean", "room", "gain", "AAC 32", "Opus 24", "8 kHz", "phone", "groove")
GROOVE_DB = -20.0  # the peak of another's groove behind a take


@dataclass(frozen=True, slots=True)
class Sounding:
    """A take of one sound: its samples, when each stroke begins, and how near an onset must come."""

    name: str
    noise_db: float
    samples: FloatArray
    truth_s: FloatArray
    window_s: float
    rate_hz: int = RATE_HZ


@dataclass(frozen=True, slots=True)
class HearingScore:
    """How the onsets of a take were heard.

    Attributes
    ----------
    f : float
        Harmonic mean of precision and recall.
    bias_ms, sd_ms : float
        Of the pairs within the window; NaN without any.
    """

    f: float
    bias_ms: float
    sd_ms: float


def soundings(*, seed: int) -> Iterator[Sounding]:
    """Give the takes of our own sounds: struck, plucked, bowed, and double strokes 60 ms apart."""
    for noise_db in NOISES_DB:
        for name in SOUNDS:
            strokes = [strike(name, np.random.default_rng([seed, k]), rate_hz=RATE_HZ) for k in range(STROKES)]
            yield taken(name, strokes, noise_db=noise_db, seed=seed)
        yield taken("bowed", _bowed(seed), noise_db=noise_db, seed=seed, loudest_only=True, apart_s=0.6)
        wood = [strike("wood", np.random.default_rng([seed, k]), rate_hz=RATE_HZ) for k in range(STROKES)]
        yield taken(FAST, wood, noise_db=noise_db, seed=seed, apart_s=0.06, loudest_only=True)


def beside_groove(one: Sounding, *, seed: int, peak_db: float = GROOVE_DB) -> Sounding:
    """Return a take with somebody else's groove behind it."""
    behind = groove(one.samples.size, peak_db=peak_db, seed=seed, rate_hz=one.rate_hz)
    return replace(one, samples=one.samples + behind)


def recorded(one: Sounding, *, seed: int) -> Iterator[tuple[str, Sounding]]:
    """Give a take of the bench's rate as it is recorded in each of ``PLACES``, with its name."""
    rate = one.rate_hz
    room = in_room(one.samples, rate_hz=rate, seed=seed)
    phone = gain_controlled(room, rate_hz=rate)
    taken_by = (
        (one.samples, rate),
        (room, rate),
        (gain_controlled(one.samples, rate_hz=rate), rate),
        (through(one.samples, "m4a", bit_rate=32_000), rate),
        (through(one.samples, "opus", bit_rate=24_000), KINDS["opus"][2]),
        (narrowed(one.samples, rate_hz=rate), NARROW_HZ),
        (through(phone, "m4a", bit_rate=32_000), rate),
        (beside_groove(one, seed=seed).samples, rate),
    )
    for place, (samples, rate_hz) in zip(PLACES, taken_by, strict=True):
        yield place, replace(one, samples=samples, rate_hz=rate_hz)


def taken(
    name: str,
    strokes: list[FloatArray],
    *,
    noise_db: float,
    seed: int,
    apart_s: float = APART_S,
    loudest_only: bool = False,
    stops: bool = False,
    rate_hz: int = RATE_HZ,
) -> Sounding:
    """Return a take of given strokes, each with its attack in its first sample, at uneven times.

    Parameters
    ----------
    name : str
    strokes : list of array
        Peak 1.
    noise_db : float
        Of full scale.
    seed : int
    apart_s : float
    loudest_only : bool
        Whether all are about as loud; else from soft to hard by chance.
    stops : bool
        Whether a note ends the one before it, as on one string; else all ring on.
    rate_hz : int
    """
    generator = np.random.default_rng(seed)
    steps_s = apart_s * (1 + 0.06 * generator.standard_normal(len(strokes)))
    at = np.round((0.5 + np.cumsum(steps_s)) * rate_hz).astype(np.int64)
    found = 10 ** (noise_db / 20) * generator.standard_normal(int(at[-1]) + 2 * rate_hz)
    softest_db = HARDEST_DB - 3 if loudest_only else SOFTEST_DB
    ends = [*at[1:].tolist(), found.size] if stops else [found.size] * len(strokes)
    for start, end, stroke in zip(at.tolist(), ends, strokes, strict=True):
        size = min(stroke.size, end - start)
        fades = np.minimum(1, np.arange(size, 0, -1) / (STOP_S * rate_hz)) if stops else 1.0
        found[start : start + size] += 10 ** (generator.uniform(softest_db, HARDEST_DB) / 20) * stroke[:size] * fades
    return Sounding(name, noise_db, found, at / rate_hz, WINDOW_S.get(name, 0.025), rate_hz=rate_hz)


def apart(strokes: dict[str, list[FloatArray]], *, seed: int, stops: bool = False, rate_hz: int = RATE_HZ) -> float:
    """Return which share of a take on two instruments, learned from ten strokes each, is told to be of the right one.

    Parameters
    ----------
    strokes : dict
        Of two instruments by their names, each stroke with its attack in its first sample, peak 1; ten at least.
    seed : int
        Of the order in which they are struck, their times, how loud and how bright each is.
    stops : bool
        Whether a note ends the one before it.
    rate_hz : int

    Returns
    -------
    float
        0 to 1; a note that is not heard, or told to be of neither, counts as wrong.
    """
    generator = np.random.default_rng(seed)
    known = []
    for name, some in strokes.items():
        one = taken(name, some[:LEARNED], noise_db=NOISES_DB[0], seed=seed, stops=stops, rate_hz=rate_hz)
        known.append(learned(Samples(one.samples, rate_hz), name))
    order = generator.choice(list(strokes), STROKES).tolist()
    struck = [_brighter(strokes[name][k % len(strokes[name])], generator, rate_hz) for k, name in enumerate(order)]
    both = taken("both", struck, noise_db=NOISES_DB[0], seed=seed + 1, stops=stops, rate_hz=rate_hz)
    sound = Samples(both.samples, rate_hz)
    names, kept, _ = told_apart(sound, onsets(sound), known)
    right = 0
    for name, truth in zip(order, both.truth_s.tolist(), strict=True):
        off = np.abs(kept.onset_s - truth)
        right += bool(off.size and off.min() <= APART_WINDOW_S and names[int(off.argmin())] == name)
    return right / len(order)


def _brighter(stroke: FloatArray, generator: np.random.Generator, rate_hz: int) -> FloatArray:
    """Return a stroke as bright or dull as strokes of one instrument are among each other."""
    low_pass = scipy.signal.butter(
        1, min(generator.uniform(*BRIGHT_HZ), 0.45 * rate_hz), "lowpass", fs=rate_hz, output="sos"
    )
    dull = scipy.signal.sosfilt(low_pass, stroke)
    found: FloatArray = dull / np.max(np.abs(dull))
    return found


def heard(one: Sounding, found_s: FloatArray | None = None) -> HearingScore:
    """Return how a take was heard: by our detector, or by onsets from elsewhere.

    Examples
    --------
    >>> one = Sounding("skin", -60.0, np.zeros(0), np.array([1.0, 2.0]), 0.025)
    >>> heard(one, np.array([1.002, 1.5]))
    HearingScore(f=0.5, bias_ms=2.0, sd_ms=0.0)
    """
    onset_s = onsets(Samples(one.samples, one.rate_hz)).onset_s if found_s is None else found_s
    pairs: list[float] = []
    free = onset_s.tolist()
    for truth in one.truth_s.tolist():
        near = [at for at in free if abs(at - truth) <= one.window_s]
        if near:
            best = min(near, key=lambda at: abs(at - truth))
            free.remove(best)
            pairs.append(1000 * (best - truth))
    total = one.truth_s.size + onset_s.size
    f = 2 * len(pairs) / total if total else 0.0
    bias, sd = (float(np.mean(pairs)), float(np.std(pairs))) if pairs else (float("nan"), float("nan"))
    return HearingScore(round(f, 4), round(bias, 3), round(sd, 3))


def _bowed(seed: int) -> list[FloatArray]:
    """Return softly bowed notes: a swell of 60 ms on eight partials; its first sample is its onset."""
    generator = np.random.default_rng(seed)
    time_s = np.arange(round(0.55 * RATE_HZ)) / RATE_HZ
    swell = np.minimum(1, time_s / 0.06) * np.minimum(1, (0.55 - time_s) / 0.08)
    found = []
    for _ in range(STROKES):
        pitch_hz = 220 * 2 ** (generator.integers(0, 12) / 12)
        note = swell * sum(np.sin(2 * np.pi * pitch_hz * k * time_s) / k for k in range(1, 9))
        found.append(0.4 * note / np.max(np.abs(note)))
    return found
