"""Figures of a reading as words."""

from django import template

from studio.sheet.words import signed_ms, span_ms

register = template.Library()


@register.filter
def signed(ms: float) -> str:
    """Return an error with its direction as a word."""
    return signed_ms(ms)


@register.filter
def span(ends: list[float]) -> str:
    """Return a range of errors as ``12 early to 34 late``."""
    return span_ms(ends)


@register.filter
def less(ms: float, place_ms: float) -> float:
    """Return an error against a place."""
    return ms - place_ms


@register.filter
def slip(beats: int) -> str:
    """Return whole beats against the count: ``one beat lost``."""
    size = abs(beats)
    return f"{'one beat' if size == 1 else f'{size} beats'} {'gained' if beats > 0 else 'lost'}"
