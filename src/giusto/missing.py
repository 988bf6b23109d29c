"""A figure that can't be given: which one, why, and what it would need."""

from __future__ import annotations

from dataclasses import dataclass

# One sentence a code, as ``reading/1`` has them in its notes; {have} and {need} are what was found and what it takes.
WORDS = {
    "few-notes": "{have} notes were caught; a reading needs at least {need}",
    "no-silence": "no silence can be read",
    "few-silence-notes": "{have} notes were caught in silences; telling clock and hand apart needs {need}",
    "vague-sizes": "the notes in silences can't tell clock and hand apart:"
    " each would be known to a factor of two at best",
    "few-heard-steps": "{have} steps with the click were caught; how you correct needs {need}",
    "vague-correction": "the notes with the click do not say how you correct",
    "sizes-given": "the sizes were given, not estimated",
    "not-found": "the search for the likeliest sizes did not end",
    "few-on-the-beat": "too few notes on the beat: the other notes have nothing to lean against",
    "beats-only": "no notes between the beats",
    "few-bends": "no silence has notes enough to show how its drift came",
    "few-steps": "{have} steps from note to note were caught; the tempo all the way needs {need}",
    "few-with-click": "{have} notes were caught together with a click; {need} are needed",
    "short-take": "the take lasted {have} s; fatigue is looked for from {need} s on",
    "few-in-a-third": "{have} notes in a third of the take; fatigue needs {need}",
    "one-beat": "a bar of one beat has no places",
    "few-cycles": "{have} bars have a note on every beat; places need {need}",
    "few-climbed": "{have} bars of the climbing click were played; a ceiling needs {need}",
    "few-struck": "{have} notes before the first pause; a burst needs {need}",
    "few-days": "takes of {have} day; a change needs {need}",
    "few-takes": "{have} takes like this one; a habit needs {need}",
    "by-chance": "the notes fit this drill no better than chance would",
    "stopped": "silence {have} was not played to its end",
    "no-place": "no note was caught while the click sounded, so the player's place and the returns are not known",
}


@dataclass(frozen=True, slots=True)
class Missing:
    """Why a figure is not there.

    Attributes
    ----------
    figure : str
        The name of the figure, as in ``reading/1``.
    code : str
        A key of ``WORDS``.
    have, need : float
        What was found of what it takes, and how much of it is needed; 0 where it is no matter of number.
    """

    figure: str
    code: str
    have: float = 0.0
    need: float = 0.0

    @property
    def reason(self) -> str:
        """The reason as a sentence.

        Examples
        --------
        >>> Missing("correction", "few-heard-steps", 3, 12).reason
        '3 steps with the click were caught; how you correct needs 12'
        """
        return WORDS[self.code].format(have=f"{self.have:.0f}", need=f"{self.need:.0f}")
