"""What is said of how an instrument is heard."""

from __future__ import annotations

from giusto.hearing.level import Level

LEVELS = {
    "silent": "Nothing is heard yet. Play as you will.",
    "soft": "Too soft. Come nearer, or turn the microphone up.",
    "noise": "Noise behind. Something else sounds nearly as loud.",
    "clipping": "Too loud, it clips. Go farther away, or turn the microphone down.",
    "good": "Good. Every stroke stands clear.",
}


FAR = (
    "So long a way is usually a wireless one, and may change from one take to the next: your silences are measured true"
    " all the same, your place with the click is not."
)


def level_words(level: Level) -> str:
    """Return the sentence for a level."""
    return LEVELS[level.code]
