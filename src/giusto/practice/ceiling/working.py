"""The tempo to work at: well below what can just be kept."""

from __future__ import annotations

from giusto.missing import Missing
from giusto.practice.ceiling.burst import Burst
from giusto.practice.ceiling.probe import Ceiling

WORKING_SHARE = 0.8  # ours; common practice: work well below the ceiling
WEEKLY_BPM = 5  # common practice: five a week


def working_bpm(
    probe: Ceiling | Missing | None, fast: Burst | Missing | None, share: float = WORKING_SHARE
) -> int | None:
    """Return the tempo to work at: a share of the lower of ceiling and kept tempo; None without either.

    Examples
    --------
    >>> working_bpm(Ceiling(140.0, 138.0, (131.0, 146.0), 20), None)
    110
    """
    known = []
    if isinstance(probe, Ceiling):
        known.append(probe.bpm or (probe.ci95_bpm[0] if probe.reason == "all-kept" else probe.ci95_bpm[1]))
    if isinstance(fast, Burst):
        known.append(fast.kept_bpm)
    return int(share * min(known)) if known else None
