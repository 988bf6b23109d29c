"""Lengths in beats and seconds, for the page of reach."""

from __future__ import annotations

from django import template

register = template.Library()


@register.filter
def beats_number(value: float) -> str:
    """Return a number of beats: whole from ten on, else to a half.

    Examples
    --------
    >>> beats_number(13.4), beats_number(4.6), beats_number(1.0)
    ('13', '4.5', '1')
    """
    return f"{value:.0f}" if value >= 10 else f"{round(2 * value) / 2:g}"


@register.filter
def beats(value: float) -> str:
    """Return a length in beats with its unit."""
    text = beats_number(value)
    return f"{text} beat{'' if text == '1' else 's'}"


@register.filter
def seconds(value: float, beat_s: float) -> str:
    """Return how long so many beats last."""
    length_s = value * beat_s
    return f"{length_s:.0f}\u00a0s" if length_s >= 10 else f"{length_s:.1f}\u00a0s"
