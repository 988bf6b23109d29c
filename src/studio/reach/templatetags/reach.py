"""Lengths in beats and seconds, for the pages that tell of reach."""

from __future__ import annotations

from django import template

from studio.reach import words

register = template.Library()
register.filter("beats_number", words.beats_number)
register.filter("beats", words.beats_words)
register.filter("seconds", words.seconds_words)
register.filter("reach_told", words.bound_of)
register.filter("reach_range", words.range_words)
register.filter("reach_short", words.short_words)
register.filter("held_words", words.held_words)
