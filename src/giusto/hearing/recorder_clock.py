"""The recorder's clock: where drill time lies in a recording, by the clicks that are heard in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.source import RestsOn
from giusto.ranges import Z95, Range

LEAST_FOUND, MOST_SD_S = 0.12, 0.0006  # of the scheduled clicks, and about their line: less, or wider, is no bleed
FEWEST_CLICKS, LEAST_KEPT = 4, 0.75
MOST_PPM = 1000.0
LEAST_SD_S = 2e-5  # no click is timed better than this


@dataclass(frozen=True, slots=True)
class ClockLine:
    """Where drill time lies in a recording.

    Attributes
    ----------
    zero_s : float
        The recording's time of the drill's time zero.
    zero_ci95_s : (float, float)
    ppm : float or None
        How much faster the recorder's clock runs, in millionths; None where it can't be told.
    ppm_ci95 : (float, float) or None
    by : {"bleed", "count", "notes", "clock", "file"}
        The click that is heard; notes of the count-in; notes alone; the clock of the machine that plays and hears; a
        file that is in drill time already.
    alike : float
        For bleed, the share of the scheduled clicks that were found.
    """

    zero_s: float
    zero_ci95_s: Range
    ppm: float | None
    ppm_ci95: Range | None
    by: RestsOn
    alike: float = 0.0

    @property
    def rate(self) -> float:
        """Recorder seconds in a second of the drill."""
        return 1 + (self.ppm or 0.0) * 1e-6

    def drill_s(self, recorded_s: FloatArray) -> FloatArray:
        """Return drill times of times in the recording."""
        return (recorded_s - self.zero_s) / self.rate

    def recorded_s(self, drill_s: FloatArray) -> FloatArray:
        """Return times in the recording of drill times."""
        return self.zero_s + drill_s * self.rate


def line_through(at_s: FloatArray, found_s: FloatArray, share: float) -> ClockLine | None:
    """Return a line through the clicks that were found about a place of time zero; None where they are too few.

    Parameters
    ----------
    at_s, found_s : array of float, shape (n,)
        When each click is due in the drill, and when it is heard in the recording.
    share : float
        Of the scheduled clicks, those that were found.
    """
    if at_s.size < FEWEST_CLICKS or share < LEAST_FOUND:
        return None
    slope, zero, kept, sd = _robust(at_s, found_s)
    if sd > MOST_SD_S or kept.sum() < FEWEST_CLICKS or kept.mean() < LEAST_KEPT:
        return None
    x = at_s[kept]
    spread = float(np.sum((x - x.mean()) ** 2))
    ppm = 1e6 * (slope - 1)
    if abs(ppm) > MOST_PPM or spread == 0:
        return None
    half = Z95 * sd / float(np.sqrt(spread)) * 1e6
    half_s = Z95 * sd * float(np.sqrt(1 / x.size + x.mean() ** 2 / spread))
    return ClockLine(zero, (zero - half_s, zero + half_s), ppm, (ppm - half, ppm + half), "bleed", round(share, 3))


def _robust(x: FloatArray, y: FloatArray) -> tuple[float, float, np.ndarray, float]:
    """Return slope and start of a line through most points, which those are, and their spread about it."""
    kept = np.ones(x.size, dtype=bool)
    slope, start = 1.0, float(np.median(y - x))
    for _ in range(6):  # each round leaves out what lies four spreads off; a few rounds settle
        rest = y - start - slope * x
        # The spread by the median of what is kept: an echo that is timed instead of its click must not widen it.
        sd = max(1.4826 * float(np.median(np.abs(rest[kept] - np.median(rest[kept])))), LEAST_SD_S)
        kept = np.abs(rest - np.median(rest[kept])) <= 4 * sd
        slope, start = np.polyfit(x[kept], y[kept], 1) if np.ptp(x[kept]) > 0 else (1.0, float(np.median(y - x)))
    rest = y[kept] - start - slope * x[kept]
    sd = max(float(np.sqrt(np.sum(rest**2) / max(rest.size - 2, 1))), LEAST_SD_S)
    return float(slope), float(start), kept, sd
