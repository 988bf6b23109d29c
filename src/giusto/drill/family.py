"""Which family of the shelf a drill belongs to."""

from __future__ import annotations

from giusto.drill.file import Drill, FixedSilence
from giusto.drill.half_double import is_every_beat

SLOW_BPM = 50  # common practice: slow pulses are clicks of 20 to 50 a minute
LONG_SILENCES = 7  # ours: cycles alone after one heard, from which the click is but a start


def family_of(drill: Drill) -> str:
    """Return the family that fits a drill best; its player may choose another."""
    clicks = drill.clicks
    if not clicks.on:
        return "none"
    whole = all("+" not in place for place in clicks.on)
    if isinstance(clicks.silence, FixedSilence):
        return "none" if clicks.silence.heard == 1 and clicks.silence.silent >= LONG_SILENCES else "dropped"
    if clicks.silence:
        return "dropped"
    if clicks.shift or not whole:
        return "moved"
    if clicks.every > 1 or not is_every_beat(drill):
        return "sparse"
    if not isinstance(drill.part.play, str):
        return "figures"
    return "slow" if drill.tempo.bpm <= SLOW_BPM else "follow"
