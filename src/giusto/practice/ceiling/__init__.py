"""How fast at all: where notes and a climbing click part, and how long a burst without click lasts."""

from giusto.practice.ceiling.burst import Burst, burst
from giusto.practice.ceiling.probe import Ceiling, ceiling, is_probe
from giusto.practice.ceiling.working import WEEKLY_BPM, working_bpm

__all__ = ["WEEKLY_BPM", "Burst", "Ceiling", "burst", "ceiling", "is_probe", "working_bpm"]
