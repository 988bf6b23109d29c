"""The stretches of a long take that stand for all of it where sizes are estimated."""

from __future__ import annotations

import numpy as np

from giusto.timekeeper.take import Chain, joined

EXCERPT, EXCERPTS = 700, 3  # ours: a longer take is sized from three stretches of 700 moments
MIN_NOTES = 4  # ours: fewer caught notes say nothing of three sizes


def excerpt(take: Chain, *, most: int = EXCERPT * EXCERPTS) -> Chain:
    """Return the stretches of a take that its sizes are estimated from, cut between silences, as one."""
    each = most // EXCERPTS
    n = take.error_ms.size
    if n <= most:
        return take
    cuts = take.ends if take.ends.size > 1 else np.arange(0, n, each // 4)
    parts, after = [], 0
    for wanted in np.linspace(0, n - each, EXCERPTS):
        first = cuts[min(np.searchsorted(cuts, max(wanted, after)), cuts.size - 2)]
        last = cuts[min(np.searchsorted(cuts, first + each), cuts.size - 1)]
        part = take.between(int(first), int(last))
        if first >= after and np.count_nonzero(part.caught) >= MIN_NOTES:  # no note counts twice
            parts.append(part)
            after = int(last) + 1
    return joined(parts) if parts else take
