"""Hands that stay on the instrument: what a page needs to hear strokes and pads."""

from typing import Any

from django import template

from giusto.hearing.inputs import Input
from studio.hearing.models import ear_of
from studio.hearing.plan import ear_plan

register = template.Library()


@register.inclusion_tag("hearing/_hands.html", takes_context=True)
def hands(context: dict[str, Any]) -> dict[str, Any]:
    """Listen on this page for four strokes that begin what is next, and for the pads that were chosen."""
    return {"plan": {"ear": ear_plan(context["request"].user)}}


@register.inclusion_tag("hearing/_strokes.html", takes_context=True)
def strokes(context: dict[str, Any], begin: str) -> dict[str, Any]:
    """Say what four strokes on the instrument begin here, where they begin anything."""
    request = context["request"]
    ear = ear_of(request.user)
    waited = ear.counts_in and Input(ear.by) not in (Input.KEYS, Input.PHONE)  # strokes that a phone hears come late
    return {"waited": waited, "ear": ear, "begin": begin, "here": request.get_full_path(), "request": request}
