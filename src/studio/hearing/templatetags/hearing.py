"""Hands that stay on the instrument: what a page needs to hear strokes and pads."""

from typing import Any

from django import template

from studio.hearing.plan import ear_plan

register = template.Library()


@register.inclusion_tag("hearing/_hands.html", takes_context=True)
def hands(context: dict[str, Any]) -> dict[str, Any]:
    """Listen on this page for four strokes that begin what is next, and for the pads that were chosen."""
    return {"plan": {"ear": ear_plan(context["request"].user)}}
