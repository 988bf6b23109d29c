"""Onsets set against each other: the notes of an instrument begin alike, so that how one rises tells where all do.

A soft attack crosses any bound earlier or later with its strength and with what rang before. How it rises, band by
band, does not change so: each onset is moved to where its rise lies best on the rise of all.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.fft import next_fast_len, rfft

from giusto.arrays import FloatArray
from giusto.hearing.sound import Sound

# All of it ours, by takes of recorded notes with known times (docs/accuracy.md).
FEWEST = 8  # onsets: fewer show no common rise
HOP_S, WINDOW_S = 0.002, 0.012
BEFORE_S, AFTER_S = 0.060, 0.080  # how much of each onset is looked at
NEAR_S = 0.030  # so far about an onset counts most: another that follows closely is another's rise
MOST_S = 0.020  # moved by no more
STEP_S = 0.010  # a rise is against so long before
LOWEST_HZ, HIGHEST_HZ, BANDS = 80.0, 9_000.0, 24
RANGE_DB = 45.0  # below the loudest of an onset there is nothing
LEAST_ALIKE, LEAST_GAIN = 0.7, 0.003  # correlation with the common rise, and how much better it lies when moved
ROUNDS, TOGETHER = 4, 32
WORKERS = 2  # threads of a transform


def aligned(sound: Sound, onset_s: FloatArray) -> FloatArray:
    """Return onsets, each moved to where it rises as all of them do; their median stays.

    Parameters
    ----------
    sound : Sound
    onset_s : array of float, shape (n,)
        In any order.

    Returns
    -------
    array of float, shape (n,)
        In the same order. The same, where there are fewer than eight.
    """
    if onset_s.size < FEWEST:
        return onset_s
    rises = np.concatenate(list(_rises(sound, onset_s)))
    rises = rises / np.maximum(np.sqrt(np.sum(rises**2, axis=1, keepdims=True)), 1e-9)
    place, most = np.arange(rises.shape[1]), round(MOST_S / HOP_S)
    common = np.median(rises, axis=0)
    for _ in range(ROUNDS):
        moved, alike, gain = _moved(rises, common, most)
        lying = np.stack([np.interp(place + by, place, one) for by, one in zip(moved.tolist(), rises, strict=True)])
        common = np.median(lying, axis=0)
    norm = max(float(np.sqrt(np.sum(common**2))), 1e-9)
    counts = (alike >= LEAST_ALIKE * norm) & (gain >= LEAST_GAIN * norm)
    by_s = np.where(counts, moved, 0.0) * HOP_S
    found: FloatArray = onset_s + by_s - np.median(by_s)
    return found


def _moved(rises: FloatArray, common: FloatArray, most: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return by how many steps each rise lies best on the common one, how alike it is there, and what that gains."""
    size, lags = common.size, np.arange(-most, most + 1)
    steps: list[int] = lags.tolist()
    laid = [rises[:, max(by, 0) : size + min(by, 0)] @ common[max(-by, 0) : size - max(by, 0)] for by in steps]
    fits = np.stack(laid, axis=1)
    best = np.clip(fits.argmax(axis=1), 1, lags.size - 2)
    row = np.arange(len(fits))
    before, here, after = fits[row, best - 1], fits[row, best], fits[row, best + 1]
    bend = before - 2 * here + after
    between = np.where(bend < 0, 0.5 * (before - after) / np.where(bend < 0, bend, -1.0), 0.0)
    return lags[best] + np.clip(between, -1.0, 1.0), here, here - fits[:, most]


def _rises(sound: Sound, onset_s: FloatArray) -> Iterator[FloatArray]:
    """Yield how much louder the bands become about onsets, in dB, the mean over them, some onsets at a time."""
    rate = sound.rate_hz
    size, hop = round(WINDOW_S * rate), round(HOP_S * rate)
    count, step = round((BEFORE_S + AFTER_S) / HOP_S), round(STEP_S / HOP_S)
    window = np.hanning(size + 2)[1:-1].astype(np.float32)
    wide = next_fast_len(size, real=True)
    bins = np.geomspace(LOWEST_HZ, min(HIGHEST_HZ, 0.45 * rate), BANDS + 1) * wide / rate
    edges = np.unique(np.maximum(np.round(bins), 1).astype(np.int64))
    starts = np.round((onset_s - BEFORE_S) * rate).astype(np.int64) - size // 2
    for first in range(0, starts.size, TOGETHER):
        some = starts[first : first + TOGETHER].tolist()
        samples = np.stack([sound.read(at, at + (count - 1) * hop + size) for at in some]).astype(np.float32)
        frames = np.lib.stride_tricks.sliding_window_view(samples, size, axis=1)[:, ::hop]
        spectrum = rfft(frames * window, wide, axis=2, workers=WORKERS)[:, :, edges[0] : edges[-1]]
        power = np.square(spectrum.real) + np.square(spectrum.imag)
        levels = 10 * np.log10(np.add.reduceat(power, edges[:-1] - edges[0], axis=2) + 1e-9)
        levels = np.maximum(levels, levels.max(axis=(1, 2), keepdims=True) - RANGE_DB)
        rise = np.maximum(levels[:, step:] - levels[:, :-step], 0.0).mean(axis=2).astype(np.float64)
        yield rise * np.exp(-0.5 * ((np.arange(rise.shape[1]) + step / 2) * HOP_S - BEFORE_S) ** 2 / NEAR_S**2)
