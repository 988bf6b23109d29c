"""How the click reaches a player, as the browser needs it."""

from __future__ import annotations

from typing import Any

from giusto.click.said import LEAD_S
from giusto.click.voice import LEVELS
from studio.drills.models import Delivery

# Share of full scale; soft is about −18 dB at the peak of a click.
LEVEL_GAIN = {"faint": 0.07, "soft": 0.18, "plain": 0.35, "loud": 0.62, "full": 1.0}
# An accent against a click, 0, 3 and 6 dB.
ACCENT_RATIO = {"equal": 1.0, "some": 1.41, "more": 2.0}


def delivery_plan(delivery: Delivery) -> dict[str, Any]:
    """Return what the browser needs: voices, side, gains of each kind of click at each level, what is seen and felt."""
    return {
        "voice": delivery.voice,
        "accent_voice": delivery.accent_voice or delivery.voice,
        "counted": delivery.counted,
        "word_lead_s": LEAD_S,
        "side": delivery.side,
        "gains": gains(delivery),
        "levels": [[level, gains(delivery, level)] for level in LEVEL_GAIN],
        "level": delivery.level,
        "heard": delivery.heard,
        "seen": delivery.seen,
        "felt": delivery.felt,
    }


def gains(delivery: Delivery, loudness: str = "") -> dict[str, float]:
    """Return the gain of each kind of click, on top of the levels that are in the sounds themselves."""
    level = LEVEL_GAIN[loudness or delivery.level] if delivery.heard else 0.0
    found = dict.fromkeys(LEVELS, level)
    found["accent"] = level * ACCENT_RATIO[delivery.accent] * LEVELS["click"] / LEVELS["accent"]
    found["word"] = level  # beside the click, not above it
    return {kind: round(min(gain, 1.0), 4) for kind, gain in found.items()}
