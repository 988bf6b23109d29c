"""Ticks to seconds and back, for one tempo or several."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from giusto.arrays import FloatArray, IntArray


@dataclass(frozen=True, slots=True)
class TempoMap:
    """Ticks to seconds and back: one straight piece for each tempo, the first from tick 0 on.

    Attributes
    ----------
    tick : array of int, shape (tempos,)
        Where each tempo begins, ascending.
    bpm : tuple of Fraction
    start_s : array of float, shape (tempos,)
        When it begins, rounded once.
    tick_s : array of float, shape (tempos, 2)
        How long a tick lasts, as numerator and denominator.
    ticks_per_beat : int
    """

    tick: IntArray
    bpm: tuple[Fraction, ...]
    start_s: FloatArray
    tick_s: FloatArray
    ticks_per_beat: int

    def seconds(self, tick: IntArray | int) -> FloatArray:
        """Return drill time for ticks."""
        at = np.asarray(tick)
        piece = self._piece(self.tick, at)
        since = at - self.tick[piece]
        seconds: FloatArray = self.start_s[piece] + since * self.tick_s[piece, 0] / self.tick_s[piece, 1]
        return seconds

    def ticks(self, time_s: FloatArray | float) -> FloatArray:
        """Return the (fractional) tick of moments in drill time; the first and last tempo go on beyond the ends."""
        at = np.asarray(time_s, dtype=np.float64)
        piece = self._piece(self.start_s, at)
        ticks: FloatArray = (
            self.tick[piece] + (at - self.start_s[piece]) * self.tick_s[piece, 1] / self.tick_s[piece, 0]
        )
        return ticks

    def beat_s(self, tick: IntArray | int) -> FloatArray:
        """Return how long a beat lasts that begins at a tick."""
        piece = self._piece(self.tick, np.asarray(tick))
        beat: FloatArray = self.ticks_per_beat * self.tick_s[piece, 0] / self.tick_s[piece, 1]
        return beat

    @staticmethod
    def _piece(starts: IntArray | FloatArray, at: IntArray | FloatArray) -> IntArray:
        piece: IntArray = np.maximum(np.searchsorted(starts, at, side="right") - 1, 0)
        return piece
