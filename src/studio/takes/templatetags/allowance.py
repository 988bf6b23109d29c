"""What a player may have of a studio's disk, for the page of their own."""

from typing import Any

from django import template
from django.conf import settings

from studio.takes.allowance import MEGABYTE, allowance_of

register = template.Library()


@register.inclusion_tag("takes/_allowance.html", takes_context=True)
def allowance(context: dict[str, Any]) -> dict[str, Any]:
    """Say what is kept, and how much may be."""
    return {
        "allowance": allowance_of(context["request"].user),
        "waiting": settings.RECORDINGS_A_PLAYER,
        "recording_mb": settings.MAX_RECORDING_BYTES / MEGABYTE,
    }
