"""The tempo to work at: well below what can just be kept."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.missing import Missing
from giusto.practice.ceiling.burst import Burst
from giusto.practice.ceiling.probe import Ceiling

WORKING_SHARE = 0.8  # ours; common practice: work well below the ceiling
WEEKLY_BPM = 5  # common practice: five a week


@dataclass(frozen=True, slots=True)
class Working:
    """The tempo to work at, and between which tempi it lies."""

    bpm: int
    low_bpm: int
    high_bpm: int


def working_at(
    probe: Ceiling | Missing | None, fast: Burst | Missing | None = None, share: float = WORKING_SHARE
) -> Working | None:
    """Return the tempo to work at: a share of the lower of ceiling and kept tempo; None without either.

    Examples
    --------
    >>> working_at(Ceiling(140.0, 138.0, (131.0, 146.0), 20))
    Working(bpm=110, low_bpm=104, high_bpm=116)
    """
    known = []
    if isinstance(probe, Ceiling):
        low, high = probe.ci95_bpm
        if probe.reason:  # all that is sure is one end
            low = high = low if probe.reason == "all-kept" else high
        known.append((probe.bpm or low, low, high))
    if isinstance(fast, Burst):
        known.append((fast.kept_bpm, *fast.kept_ci95_bpm))
    return Working(*(int(share * bpm) for bpm in min(known))) if known else None
