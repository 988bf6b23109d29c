"""Compute the numbers of ``golden.py`` anew with general-purpose libraries: ``python -m tests.reference.make_golden``.

Prints each as ``name = value``, to be held against the file by eye when a library moves on; nothing here is ours.
"""

from __future__ import annotations

import numpy as np
import statsmodels.api as sm
from scipy.stats import t as student
from statsmodels.tsa.arima.model import ARIMA

from tests.reference import golden


def slope(errors_ms: np.ndarray, beats: np.ndarray, clock_ms: float, hand_ms: float) -> tuple[float, float]:
    """Return slope and standard error by generalised least squares, with a random walk and white noise."""
    known = ~np.isnan(errors_ms)
    k = beats[known]
    covariance = clock_ms**2 * np.minimum.outer(k, k) + hand_ms**2 * np.eye(k.size)
    fit = sm.GLS(errors_ms[known], sm.add_constant(k), sigma=covariance).fit()
    return fit.params[1], np.sqrt(fit.normalized_cov_params[1, 1])


def set_a() -> None:
    """Print the slope of the tap series, whole and with two taps missing."""
    beats = np.arange(17.0)
    errors = np.array(golden.SET_A_MS) - golden.SET_A_NOMINAL_MS * beats
    print("SET_A_SLOPE_MS, SE =", slope(errors, beats, golden.SET_A_CLOCK_MS, golden.SET_A_HAND_MS))
    errors[list(golden.SET_A_MISSING)] = np.nan
    print("SET_A_MISSING =", slope(errors, beats, golden.SET_A_CLOCK_MS, golden.SET_A_HAND_MS))


def set_b() -> None:
    """Print clock and hand of the intervals, by likelihood and by moments."""
    intervals = np.array(golden.SET_B_MS)
    fit = ARIMA(intervals, order=(0, 0, 1), trend="c").fit()
    (theta,), variance = fit.maparams, fit.params[-1]
    print("SET_B_ML =", (1 + theta) * np.sqrt(variance), np.sqrt(-theta * variance))
    off = intervals - intervals.mean()
    lag = [np.mean(off**2), np.sum(off[1:] * off[:-1]) / off.size]
    print("SET_B_MOMENT =", np.sqrt(lag[0] + 2 * lag[1]), np.sqrt(-lag[1]))


def others() -> None:
    """Print mean and spread of the asynchronies, and the slope errors by size."""
    asynchronies = np.array(golden.SET_C_MS)
    half = student.ppf(0.975, asynchronies.size - 1) * asynchronies.std(ddof=1) / np.sqrt(asynchronies.size)
    print("SET_C =", asynchronies.mean(), asynchronies.std(ddof=1), "±", half)
    for m, clock_ms, hand_ms in golden.SLOPE_SE:
        beats = np.arange(m + 1.0)
        print(f"SLOPE_SE[{m}, {clock_ms}, {hand_ms}] =", slope(beats * 0, beats, clock_ms, hand_ms)[1])
    beats, errors = np.array(golden.SET_R_BEATS), np.array(golden.SET_R_ERROR_MS)
    played = 975 + 510 * beats + errors
    on_beat = beats % 1 == 0
    rate, start = np.polyfit(beats[on_beat], played[on_beat], 1)
    print("SET_R =", rate, np.mean((played - start - rate * beats)[~on_beat]))


if __name__ == "__main__":
    set_a()
    set_b()
    others()
