"""A burst without a click, as fast as can be: its peak, when it began to fade, how fast, and what it fades to."""

from __future__ import annotations

from dataclasses import dataclass
from math import log

import numpy as np
from numpy.typing import ArrayLike
from scipy.linalg import cholesky_banded, solve_banded

from giusto.arrays import FloatArray
from giusto.missing import Missing
from giusto.ranges import Range, rounded

FEWEST_NOTES = 16  # ours
PIECES = 24  # ours: how many moments are tried for either end of the fade
DRAWS, SEED = 4000, 1  # ours: values that stand for what is likely, drawn anew the same way each time
SURE = 0.95
PAUSE = 2.5  # ours: times the median interval; a longer one ends the burst
MOST_HAND = 0.45  # ours: neighbouring intervals are correlated by minus a half where all noise is the hand's


@dataclass(frozen=True, slots=True)
class Burst:
    """What a burst showed; tempos in beats a minute.

    Attributes
    ----------
    notes : int
    length_s : float
    peak_bpm, peak_ci95_bpm
        The tempo before it faded; all of it where it did not.
    fades : bool
        Whether it surely did.
    from_s, from_ci95_s
        When it began to fade, from the first note on; None where it did not.
    bpm_a_second, bpm_a_second_ci95
        By how much it faded; None where it did not.
    kept_bpm, kept_ci95_bpm
        What it fades to: the tempo that would have been kept. The peak's where it did not fade.
    """

    notes: int
    length_s: float
    peak_bpm: float
    peak_ci95_bpm: Range
    fades: bool
    kept_bpm: float
    kept_ci95_bpm: Range
    from_s: float | None = None
    from_ci95_s: Range | None = None
    bpm_a_second: float | None = None
    bpm_a_second_ci95: Range | None = None


def burst(onsets_s: ArrayLike, *, slots: int) -> Burst | Missing:
    """Return what a burst showed.

    Parameters
    ----------
    onsets_s : array_like, shape (played,)
        Seconds, ascending; a pause ends the burst.
    slots : int
        Notes to the beat.

    Returns
    -------
    Burst or Missing
        ``few-struck`` for fewer than 16.

    Notes
    -----
    Intervals are one length until a moment, grow evenly until another, and stay there: least squares for each
    pair of moments, weighed by the marginal likelihood of a flat prior; against it one length throughout, which
    is believed unless the other is 19 times as likely. Ranges are those of the mixture, each pair's with
    Student's t. A hand's noise makes an interval too long and the next too short: the intervals are taken as
    correlated with their neighbours as the residuals of the best pair are.

    References
    ----------
    Wing & Kristofferson 1973, Percept Psychophys 14:5, eq. 4: the lag-one covariance is minus the hand's variance
    (from memory).
    Carlin, Gelfand & Smith 1992, Appl Statist 41:389, changepoints by their posterior (from memory).
    """
    onsets = _first_run(np.asarray(onsets_s, dtype=np.float64))
    if onsets.size < FEWEST_NOTES:
        return Missing("burst", "few-struck", onsets.size, FEWEST_NOTES)
    interval_s, at_s = np.diff(onsets), (onsets[:-1] + onsets[1:]) / 2 - onsets[0]
    to_bpm = 60 / slots
    guess = max(_ramps(at_s, interval_s, 0.0), key=lambda ramp: ramp[2].evidence)[2]
    hand = _hand_share(guess.rest)
    whole = _Line(np.ones((interval_s.size, 1)), interval_s, hand)
    ramps = _ramps(at_s, interval_s, hand)
    weight = np.exp(np.array([line.evidence for _, _, line in ramps]) - max(line.evidence for _, _, line in ramps))
    likely = max(line.evidence for _, _, line in ramps) + log(weight.mean()) - whole.evidence
    rng = np.random.default_rng(SEED)
    length_s = round(float(onsets[-1] - onsets[0]), 3)
    drawn = [ramps[k] for k in rng.choice(len(ramps), DRAWS, p=weight / weight.sum())]
    pairs = np.array([line.draw(rng) for _, _, line in drawn])
    before, after = to_bpm / np.maximum(pairs[:, 0], 1e-3), to_bpm / np.maximum(pairs[:, 1], 1e-3)
    step_s = (at_s[-1] - at_s[0]) / (PIECES - 1)  # a moment stands for all that are nearer to it than to the next
    start = np.array([begin for begin, _, _ in drawn]) + step_s * rng.uniform(-0.5, 0.5, DRAWS)
    lasts = np.array([end for _, end, _ in drawn]) + step_s * rng.uniform(-0.5, 0.5, DRAWS) - start
    fade = (before - after) / np.maximum(lasts, step_s)
    if likely < log(SURE / (1 - SURE)) or np.mean(fade > 0) < SURE:
        flat = to_bpm / np.maximum(np.array([whole.draw(rng)[0] for _ in range(DRAWS)]), 1e-3)
        bpm, ci95 = _middle(flat), _ends(flat)
        return Burst(onsets.size, length_s, bpm, ci95, False, bpm, ci95)
    return Burst(
        notes=onsets.size,
        length_s=length_s,
        peak_bpm=_middle(before),
        peak_ci95_bpm=_ends(before),
        fades=True,
        kept_bpm=_middle(after),
        kept_ci95_bpm=_ends(after),
        from_s=_middle(start),
        from_ci95_s=_ends(start),
        bpm_a_second=_middle(fade),
        bpm_a_second_ci95=_ends(fade),
    )


class _Line:
    """Intervals by least squares: coefficients, their spread, and the marginal likelihood up to a constant.

    Neighbours are correlated by minus ``hand``, as a hand's noise makes them.
    """

    def __init__(self, design: FloatArray, y: FloatArray, hand: float) -> None:
        n, k = design.shape
        both = _whitened(np.column_stack([design, y]), hand)
        white, white_y = both[:, :k], both[:, k]
        cross = white.T @ white
        mean: FloatArray = np.linalg.solve(cross, white.T @ white_y).astype(np.float64)
        self.mean = mean
        self.rest: FloatArray = y - design @ self.mean
        left = max(float(np.sum((white_y - white @ self.mean) ** 2)), 1e-12)
        self.free = n - k
        chol: FloatArray = np.linalg.cholesky(np.linalg.inv(cross) * left / self.free).astype(np.float64)
        self.chol = chol
        scale = float(np.mean(y))  # a unit that does not depend on the tempo
        _, log_det = np.linalg.slogdet(cross)
        self.evidence = -0.5 * self.free * log(left / scale**2) - 0.5 * float(log_det) - 0.5 * k * log(n)

    def draw(self, rng: np.random.Generator) -> FloatArray:
        """Draw coefficients."""
        t = rng.standard_normal(self.mean.size) / np.sqrt(rng.chisquare(self.free) / self.free)
        found: FloatArray = self.mean + self.chol @ t
        return found


def _ramps(at_s: FloatArray, interval_s: FloatArray, hand: float) -> list[tuple[float, float, _Line]]:
    """Return the fades that are tried: when each begins and ends, and its line through the intervals."""
    moments = np.linspace(at_s[0], at_s[-1], PIECES)
    found = []
    for first in range(PIECES - 1):
        for last in range(first + 1, PIECES):
            done = np.clip((at_s - moments[first]) / (moments[last] - moments[first]), 0.0, 1.0)
            if 1 < done.sum() < done.size - 1:
                line = _Line(np.column_stack([1 - done, done]), interval_s, hand)
                found.append((float(moments[first]), float(moments[last]), line))
    return found


def _whitened(columns: FloatArray, hand: float) -> FloatArray:
    """Return columns as they are where neighbours are not correlated by minus ``hand``."""
    n = columns.shape[0]
    bands = np.vstack([np.ones(n), np.full(n, -hand)])
    factor = cholesky_banded(bands, lower=True)
    found: FloatArray = solve_banded((1, 0), factor, columns)
    return found


def _hand_share(rest: FloatArray) -> float:
    """Return minus the correlation of neighbouring residuals, 0 where they are alike."""
    return float(np.clip(-np.sum(rest[1:] * rest[:-1]) / np.sum(rest**2), 0.0, MOST_HAND))


def _first_run(onsets: FloatArray) -> FloatArray:
    """Return the notes up to the first pause."""
    if onsets.size < 2:
        return onsets
    gaps = np.diff(onsets)
    pauses = np.flatnonzero(gaps > PAUSE * np.median(gaps))
    return onsets[: pauses[0] + 1] if pauses.size else onsets


def _middle(values: FloatArray) -> float:
    return round(float(np.median(values)), 3)


def _ends(values: FloatArray) -> Range:
    low, high = np.quantile(values, (0.025, 0.975))
    return rounded((float(low), float(high)))
