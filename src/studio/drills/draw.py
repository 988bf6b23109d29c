"""The draw of a drill of chance: made when it is played, unless a number was chosen for it.

In what the site keeps and shows, the draw of number 0 stands for one that is still to be made. Whoever looks
at it sees an example: nobody plays that very draw.
"""

from __future__ import annotations

import secrets

from giusto.drill import Drill
from giusto.drill.file import RandomSilence

ANEW = 0
MOST_DRAW = 10**6  # a number that can still be told on the phone


def is_by_chance(drill: Drill) -> bool:
    """Whether clicks of a drill drop out by chance."""
    return isinstance(drill.clicks.silence, RandomSilence)


def is_anew(drill: Drill) -> bool:
    """Whether a drill is still to be drawn."""
    silence = drill.clicks.silence
    return isinstance(silence, RandomSilence) and silence.seed == ANEW


def anew(drill: Drill) -> Drill:
    """Return a drill to be drawn anew, whatever it was drawn as."""
    return _with(drill, seed=ANEW)


def drawn(drill: Drill) -> Drill:
    """Return a drill as it will be played: drawn, where it still was to be."""
    return _with(drill, seed=1 + secrets.randbelow(MOST_DRAW)) if is_anew(drill) else drill


def unseen(drill: Drill) -> Drill:
    """Return a drill with nothing missing: what may be seen of one of chance before it is played."""
    return _with(drill, probability=0.0)


def _with(drill: Drill, **changes: float) -> Drill:
    silence = drill.clicks.silence
    if not isinstance(silence, RandomSilence):
        return drill
    clicks = drill.clicks.model_copy(update={"silence": silence.model_copy(update=changes)})
    return drill.model_copy(update={"clicks": clicks})
