"""Tiny files of sound in all the containers and coders that are read, whole and damaged.

Run as a program it writes the tiny files of ``tests/reference/coded``, one of each kind.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing import coded as decoding
from giusto.simulation.coders import KINDS, RATE_HZ, coded

FUZZED = 24  # changed files of each kind
KEPT = Path(__file__).parents[2] / "reference" / "coded"


def strokes(times_s: FloatArray, *, lasts_s: float) -> FloatArray:
    """Return short noises at given times, as a drum of paper would sound."""
    drawn = np.random.default_rng(5)
    samples = np.zeros(round(lasts_s * RATE_HZ))
    for at in np.round(np.asarray(times_s) * RATE_HZ).astype(int).tolist():
        noise = drawn.standard_normal(2000) * np.exp(-np.arange(2000) / 350)
        samples[at : at + 2000] += 0.2 * noise[: samples.size - at]
    return samples


KEPT_S = 0.3 + 0.25 * np.arange(6)


def all_changed(folder: Path) -> dict[str, list[str]]:
    """Return how changed files of each kind end."""
    return {kind: changed(kind, folder) for kind in KINDS}


def changed(kind: str, folder: Path) -> list[str]:
    """Return how changed files of a kind end: heard, or refused with a code of ours."""
    drawn = np.random.default_rng(len(kind))
    whole = (KEPT / f"strokes.{kind}").read_bytes()
    path, outcomes = folder / "odd", []
    for _ in range(FUZZED):
        data = np.frombuffer(whole, np.uint8).copy()
        where = drawn.integers(0, data.size, drawn.integers(1, 40))
        data[where] = drawn.integers(0, 256, where.size)
        path.write_bytes(data[: drawn.integers(data.size // 2, data.size + 1)].tobytes())
        try:
            decoding._decode(path, folder / "plain.wav")
            outcomes.append("heard")
        except GiustoError as error:
            outcomes.append(error.code)
    return outcomes


if __name__ == "__main__":
    KEPT.mkdir(exist_ok=True)
    for ending in KINDS:
        (KEPT / f"strokes.{ending}").write_bytes(coded(strokes(KEPT_S, lasts_s=2.0), ending))
