"""Words that a page underlines: each opens its two lines, and leads to where it is measured."""

from __future__ import annotations

from typing import NamedTuple

from django import template
from django.template.context import Context
from django.template.loader import render_to_string
from django.utils.html import conditional_escape
from django.utils.safestring import SafeString, mark_safe

register = template.Library()


class Term(NamedTuple):
    """What a word means, and the heading of the method page that says how it is measured."""

    anchor: str
    text: str


TERMS = {
    "clean": Term(
        "verdict",
        "It is likelier than not that you held every silence; or, where the click never stops, you were even and "
        "missed few notes. Your own word can take it back.",
    ),
    "held": Term(
        "figures-of-a-silence",
        "When the click came back you stood within a twentieth of a beat of your own place with it, and that is sure.",
    ),
    "on the edge": Term(
        "figures-of-a-silence",
        "So near the limit of held that the take can’t say on which side. A ladder counts it by its chance.",
    ),
    "give or take": Term(
        "figures-of-a-silence",
        "How sure the figure is: in 95 of 100 such takes the truth lies no further off than this.",
    ),
    "tendency": Term(
        "tendency",
        "The tempo you go to once the click is gone, from all silences of a take together.",
    ),
    "habit": Term(
        "habit",
        "What your takes share that are like this one: same hand, near this tempo, silences about as long. "
        "Told from three takes on.",
    ),
    "figures-of-a-silence": Term(
        "figures-of-a-silence",
        "How early or late you stood when the click came back, counted from your own place with it: "
        "the delay of a device is in neither.",
    ),
    "heard": Term(
        "heard",
        "Where your notes sit while the click sounds, on average, and how far they spread about that. "
        "The delay of your device is in it until it is measured.",
    ),
    "rhythm": Term(
        "rhythm",
        "How long each part of the beat is, against what the drill asks for; for swung halves, first to second.",
    ),
    "clock-hand-and-spread-alone": Term(
        "clock-hand-and-spread-alone",
        "Evenness: your clock’s own unsteadiness and your hand’s scatter, told apart in the silences, where no click "
        "helps.",
    ),
    "hands-and-accents": Term(
        "hands-and-accents",
        "Each hand, pad or key by itself: how evenly it strikes, and how far before or after the other. Struck twice: "
        "flams by two, doubles by one. Accents: how much stronger they are.",
    ),
    "correction": Term(
        "correction",
        "How much of an error your next note takes back while you hear the click: at none of it you stay where you "
        "are, at all of it you are home with the next note.",
    ),
    "together": Term(
        "together",
        "How often your note and the click fall so near each other that they are heard as one.",
    ),
    "fatigue": Term(
        "fatigue",
        "The first third of the take beside the last: whether it widened or drifted while it went on.",
    ),
    "places": Term("places", "Where in the bar your takes gain or lose, again and again."),
}
IN_SENTENCES = ("give or take", "on the edge")  # found in what a page says, and underlined once


@register.simple_tag(takes_context=True)
def term(context: Context, name: str, words: str = "") -> SafeString:
    """Return a word, underlined, that opens what it means; the words by themselves once the page has it.

    Raises
    ------
    KeyError
        Where there is no such term.
    """
    told = TERMS[name]
    seen = _seen(context)
    if name in seen:
        return conditional_escape(words or name)
    seen.add(name)
    key = name.replace(" ", "-")
    html = render_to_string("_term.html", {"key": key, "words": words or name, "term": told})
    return mark_safe(html.strip())  # noqa: S308 - nothing may stand between a word and what follows it


@register.simple_tag(takes_context=True)
def with_terms(context: Context, text: str) -> SafeString:
    """Return a sentence with the terms in it underlined, each once a page."""
    for name in IN_SENTENCES:
        before, found, after = text.partition(name)
        if found and name not in _seen(context):
            parts = (conditional_escape(before), term(context, name), with_terms(context, after))
            return mark_safe("".join(parts))  # noqa: S308 - each is escaped, or our own
    return conditional_escape(text)


def _seen(context: Context) -> set[str]:
    """Return the terms that a page has opened so far."""
    request = context.get("request")
    if request is None:
        return set()
    seen: set[str] = request.__dict__.setdefault("terms_seen", set())
    return seen
