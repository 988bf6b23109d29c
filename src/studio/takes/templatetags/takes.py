"""Figures of a reading as words."""

from django import template

from studio.sheet.words import signed_ms

register = template.Library()


@register.filter
def signed(ms: float) -> str:
    """Return an error with its direction as a word."""
    return signed_ms(ms)


@register.filter
def span(ends: list[float]) -> str:
    """Return a range as ``−12 to 34``."""
    return " to ".join(f"{round(end)}".replace("-", "−") for end in ends)
