"""Which sound is taken in: by its rate, its channels and its length; and how it is said."""

from __future__ import annotations

LOWEST_HZ, HIGHEST_HZ = 8_000, 192_000  # ours: rates that an instrument can be heard at, and that are in use
MOST_S, MOST_CHANNELS = 4 * 3600, 32  # ours
ALLOWED = ".wav, .flac, .aiff, .caf, .mp3, .ogg, .opus, .m4a, .aac, .mp4, .webm, .3gp and .amr"


def allowed_sound(rate_hz: int, channels: int, lasts_s: float) -> str:
    """Return what is not allowed about a sound, with what is; nothing where all is."""
    if not LOWEST_HZ <= rate_hz <= HIGHEST_HZ:
        return f"the recording has {rate_hz} samples a second, allowed are {LOWEST_HZ:,} to {HIGHEST_HZ:,}"
    if channels > MOST_CHANNELS:
        return f"the recording has {channels} channels, allowed are {MOST_CHANNELS}"
    if lasts_s > MOST_S:
        return f"the recording lasts {lasts_s:.0f} s, allowed are {MOST_S:,}"
    return ""
