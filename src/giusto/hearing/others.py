"""Others in the room: softer sounds, of another kind than the instrument's, that keep another time.

Another's groove, however soft, has attacks as clear as the player's. Three things together tell it: it never comes near
the loudness of the player's own notes, it sounds otherwise, and it falls anywhere between them. Soft notes of one's own
fail one of the three: they sound as the loud ones do, or they stand where the rhythm puts them.
"""

from __future__ import annotations

import numpy as np
from scipy.fft import rfft

from giusto.arrays import BoolArray, FloatArray
from giusto.hearing.sound import Sound

LEFT_OUT = "{} softer sounds of another kind, that keep another time, were left out as somebody else’s"
# All of it ours, by takes of recorded notes with a groove behind them (docs/accuracy.md).
WINDOW_S, LATER_S, BEFORE_S = 0.030, 0.012, 0.004  # what is looked at: twice after an onset, the louder; once before
RISES_S = 0.060  # an attack's peak comes within
LOWEST_HZ, HIGHEST_HZ, BANDS = 70.0, 15_000.0, 26
RANGE_DB = 32.0  # below the loudest band of an onset there is nothing
RINGS_ON = 1.5  # what rang before may have grown so much without an attack
LOUD, LOUD_DB = 0.95, 8.0  # of all onsets by loudness, and so far below that one they are still the instrument's own
LEAST_DB = -70.0  # of full scale, by which a peak rises above what rang before
FAR_BELOW_DB = 22.0  # where there are others, what is as soft as this is theirs
FEWEST_LOUD, FEWEST_OTHERS = 8, 10
NEAREST, MOST_KIN = 4, 300  # onsets of a kind that one is set against, of so many of them: an hour has thousands
UNLIKE, OF_LOUD, LESS = 0.96, 0.1, 0.04  # alikeness: at most the first; else below a tenth of the loud ones', and less
TURNS = (2, 3, 4, 6, 8)  # parts of the time between two own notes where a rhythm stands
IN_TIME = 0.6  # mean resultant length about such parts: they stand there
FARTHEST = 4.0  # of the usual time between own notes: longer gaps are pauses
TOGETHER = 64


def remarks_of(number: int) -> tuple[str, ...]:
    """Return what a reading says of so many onsets that were left out."""
    return (LEFT_OUT.format(number),) if number else ()


def others(sound: Sound, onset_s: FloatArray) -> BoolArray:
    """Return which onsets are another's.

    Parameters
    ----------
    sound : Sound
    onset_s : array of float, ascending, shape (n,)

    Returns
    -------
    array of bool, shape (n,)
        All False where there are few onsets, or too few of them are unlike the rest.
    """
    none = np.zeros(onset_s.size, dtype=bool)
    if onset_s.size < FEWEST_LOUD + FEWEST_OTHERS:
        return none
    loudness, shapes, tells = _looked_at(sound, onset_s)
    below_db = float(np.quantile(loudness, LOUD)) - loudness
    is_loud = below_db <= LOUD_DB
    if np.count_nonzero(is_loud) < FEWEST_LOUD:
        return none
    alike = _alike(shapes, tells, is_loud)
    surely = ~is_loud & (alike < min(UNLIKE, float(np.quantile(alike[is_loud], OF_LOUD)) - LESS))
    # What does not rise above what rang before may be an end, or a beating of one's own: no evidence of anybody.
    if np.count_nonzero(surely & (loudness > LEAST_DB)) < FEWEST_OTHERS:
        return none
    likelier = (_alike(shapes, tells, surely) > alike) | (below_db > FAR_BELOW_DB)
    found: BoolArray = surely | (~is_loud & likelier)
    return none if _in_time(onset_s[found], onset_s[~found]) else found


def _looked_at(sound: Sound, onset_s: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return how loud each onset is, what it brought, and which bands tell of it.

    Each is read once: a sound without its click is made anew at each reading.

    Returns
    -------
    loudness : array of float, shape (n,)
        By how much its peak lies above what rang before it, in dB of full scale.
    shapes : array of float, shape (n, bands)
        In dB above the least that counts, each row of length 1.
    tells : array of float, shape (n, bands)
        0 where what rang before is louder than what it brought, else 1.
    """
    rate = sound.rate_hz
    size, later, before, rises = (round(s * rate) for s in (WINDOW_S, LATER_S, BEFORE_S, RISES_S))
    at = np.round(onset_s * rate).astype(np.int64)
    lead, lag = size + before, max(rises, later + size)
    until = np.clip(np.append(np.diff(at), rises + before) - before, before, rises)
    found = []
    for first in range(0, at.size, TOGETHER):
        starts = (at[first : first + TOGETHER] - lead).tolist()
        samples = np.stack([sound.read(start, start + lead + lag) for start in starts])
        rang = np.max(np.abs(samples[:, before:size]), axis=1)
        ends = until[first : first + TOGETHER].tolist()
        peak = [np.max(np.abs(row[lead : lead + end])) for row, end in zip(samples, ends, strict=True)]
        loudness = 20 * np.log10(np.maximum(np.array(peak) - rang, 1e-5))
        rung = RINGS_ON * _bands(samples[:, :size], rate)
        after = np.maximum(*(_bands(samples[:, begin : begin + size], rate) for begin in (size, lead + later)))
        gained = np.maximum(after - rung, 1e-9)
        least = gained.max(axis=1, keepdims=True) * 10 ** (-RANGE_DB / 10)
        shapes = 10 * np.log10(np.maximum(gained, least) / least)
        shapes /= np.sqrt(np.sum(shapes**2, axis=1, keepdims=True))
        found.append((loudness, shapes, ((gained > least) | (rung < least)).astype(np.float64)))
    loudness, shapes, tells = (np.concatenate([block[k] for block in found]) for k in range(3))
    return loudness, shapes, tells


def _bands(samples: FloatArray, rate_hz: int) -> FloatArray:
    """Return the power in each band of some windows, shape (windows, bands)."""
    size = samples.shape[1]
    bins = np.geomspace(LOWEST_HZ, min(HIGHEST_HZ, 0.45 * rate_hz), BANDS + 1) * size / rate_hz
    edges = np.unique(np.maximum(np.round(bins), 1).astype(np.int64))
    spectrum = rfft(samples * np.hanning(size + 2)[1:-1], axis=1)[:, edges[0] : edges[-1]]
    hz = np.arange(edges[0], edges[-1]) * rate_hz / size
    weighed = (np.square(spectrum.real) + np.square(spectrum.imag)) * hz  # what is high has less, and tells more
    bands: FloatArray = np.add.reduceat(weighed, edges[:-1] - edges[0], axis=1)
    return bands


def _alike(shapes: FloatArray, tells: FloatArray, some: BoolArray) -> FloatArray:
    """Return how alike each onset is to those of some that it is most alike to, itself left out: 0 to 1."""
    which = np.flatnonzero(some)
    which = which[np.unique(np.linspace(0, which.size - 1, min(which.size, MOST_KIN)).astype(np.int64))]
    kin = shapes[which]
    likeness = shapes @ kin.T / np.sqrt(np.maximum(tells @ np.square(kin).T, 1e-9))
    likeness[which, np.arange(which.size)] = 0.0
    alike: FloatArray = np.partition(likeness, -NEAREST, axis=1)[:, -NEAREST:].mean(axis=1)
    return alike


def _in_time(other_s: FloatArray, own_s: FloatArray) -> bool:
    """Return whether onsets stand at parts of the time between one's own, as notes of one rhythm do."""
    after = np.searchsorted(own_s, other_s)
    inside = (after > 0) & (after < own_s.size)
    begin, end = own_s[after[inside] - 1], own_s[after[inside]]
    usual = end - begin <= FARTHEST * float(np.median(np.diff(own_s)))
    part = (other_s[inside] - begin)[usual] / (end - begin)[usual]
    if part.size < FEWEST_OTHERS:
        return True  # too few to tell
    return any(abs(np.mean(np.exp(2j * np.pi * turn * part))) > IN_TIME for turn in TURNS)
