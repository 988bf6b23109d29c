"""How fast at all: where notes and a climbing click part, and how long a burst without click lasts."""

from giusto.practice.ceiling.burst import Burst, burst
from giusto.practice.ceiling.probe import Ceiling, ceiling, has_parted, is_probe, probe_of
from giusto.practice.ceiling.working import WEEKLY_BPM, Working, working_at

__all__ = [
    "WEEKLY_BPM",
    "Burst",
    "Ceiling",
    "Working",
    "burst",
    "ceiling",
    "has_parted",
    "is_probe",
    "probe_of",
    "working_at",
]
