"""What an onset brought, band by band, against what rang before it: by that a note of one kind is told from another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.fft import rfft

from giusto.arrays import BoolArray, FloatArray
from giusto.hearing.sound import Sound

# All of it ours, by takes of recorded notes with a groove behind them (docs/accuracy.md).
WINDOW_S, LATER_S, BEFORE_S = 0.030, 0.012, 0.004  # what is looked at: twice after an onset, the louder; once before
RISES_S = 0.060  # an attack's peak comes within
LOWEST_HZ, HIGHEST_HZ, BANDS = 70.0, 15_000.0, 26
RANGE_DB = 32.0  # below the loudest band of an onset there is nothing
RINGS_ON = 1.5  # what rang before may have grown so much without an attack
NEAREST, MOST_KIN = 4, 300  # onsets of a kind that one is set against, of so many of them: an hour has thousands
TOGETHER = 64


@dataclass(frozen=True, slots=True)
class Attacks:
    """How some onsets sound.

    Attributes
    ----------
    loudness : array of float, shape (n,)
        By how much each one's peak lies above what rang before it, in dB of full scale.
    shapes : array of float, shape (n, bands)
        What each brought, in dB above the least that counts, each row of length 1.
    tells : array of float, shape (n, bands)
        0 where what rang before is louder than what an onset brought, else 1.
    """

    loudness: FloatArray
    shapes: FloatArray
    tells: FloatArray

    def likeness(self, kin: FloatArray) -> FloatArray:
        """Return how alike each onset is to each of some shapes, 0 to 1, by the bands that tell of it."""
        found: FloatArray = self.shapes @ kin.T / np.sqrt(np.maximum(self.tells @ np.square(kin).T, 1e-9))
        return found

    def alike(self, some: BoolArray) -> FloatArray:
        """Return how alike each onset is to those of some that it is most alike to, itself left out: 0 to 1."""
        which = np.flatnonzero(some)
        which = which[np.unique(np.linspace(0, which.size - 1, min(which.size, MOST_KIN)).astype(np.int64))]
        likeness = self.likeness(self.shapes[which])
        likeness[which, np.arange(which.size)] = 0.0
        return nearest(likeness)


def nearest(likeness: FloatArray) -> FloatArray:
    """Return the mean of the highest four of each row."""
    count = min(NEAREST, likeness.shape[1])
    found: FloatArray = np.partition(likeness, -count, axis=1)[:, -count:].mean(axis=1)
    return found


def attacks(sound: Sound, onset_s: FloatArray) -> Attacks:
    """Return how onsets sound; each is read once: a sound without its click is made anew at each reading.

    Parameters
    ----------
    sound : Sound
    onset_s : array of float, ascending, shape (n,)
        One at least.
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
    return Attacks(*(np.concatenate([block[k] for block in found]) for k in range(3)))


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
