"""Somebody else's groove in the room: a kick, a snare and a hat of our own making, eighths at a tempo of their own."""

from __future__ import annotations

import numpy as np
import scipy

from giusto.arrays import FloatArray

BPM, APART_S = 112.0, 0.004  # their tempo, and how even they are
KICKS, SNARES, EIGHTHS = (0, 3, 4), (2, 6), 8
HAT_HZ = 6_500.0


def groove(frames: int, *, peak_db: float, seed: int, rate_hz: int, bpm: float = BPM) -> FloatArray:
    """Return so many samples of a groove.

    Parameters
    ----------
    frames : int
    peak_db : float
        Of its loudest sample; full scale is 0.
    seed : int
    rate_hz : int
    bpm : float
    """
    rng = np.random.default_rng(seed)
    hat, kick, snare = _hat(rng, rate_hz), _kick(rng, rate_hz), _snare(rng, rate_hz)
    found = np.zeros(frames + rate_hz)
    step = rate_hz * 60 / bpm / 2
    for eighth in range(int(frames / step)):
        at = max(round(eighth * step + rate_hz * APART_S * rng.standard_normal()), 0)
        in_bar = eighth % EIGHTHS
        struck = [0.45 * hat, *([kick] if in_bar in KICKS else []), *([0.9 * snare] if in_bar in SNARES else [])]
        for stroke in struck:
            found[at : at + stroke.size] += rng.uniform(0.8, 1.0) * stroke
    cut: FloatArray = found[:frames] * 10 ** (peak_db / 20) / np.max(np.abs(found[:frames]))
    return cut


def _hat(rng: np.random.Generator, rate_hz: int) -> FloatArray:
    time_s = np.arange(round(0.09 * rate_hz)) / rate_hz
    high = scipy.signal.butter(4, min(HAT_HZ, 0.4 * rate_hz), "highpass", fs=rate_hz, output="sos")
    return _to_peak(scipy.signal.sosfilt(high, rng.standard_normal(time_s.size) * np.exp(-time_s / 0.025)))


def _kick(rng: np.random.Generator, rate_hz: int) -> FloatArray:
    """Return a skin whose pitch falls to 55 Hz, and the beater."""
    time_s = np.arange(round(0.3 * rate_hz)) / rate_hz
    turns = 55 * time_s + 1.2 * (1 - np.exp(-time_s / 0.03))
    beater = 0.15 * np.exp(-time_s / 0.003) * rng.standard_normal(time_s.size)
    return _to_peak(np.sin(2 * np.pi * turns) * np.exp(-time_s / 0.1) + beater)


def _snare(rng: np.random.Generator, rate_hz: int) -> FloatArray:
    time_s = np.arange(round(0.2 * rate_hz)) / rate_hz
    skin = 0.6 * np.sin(2 * np.pi * 190 * time_s) * np.exp(-time_s / 0.06)
    return _to_peak(skin + 0.5 * rng.standard_normal(time_s.size) * np.exp(-time_s / 0.07))


def _to_peak(stroke: FloatArray) -> FloatArray:
    found: FloatArray = stroke / np.max(np.abs(stroke))
    return found
