"""The sentence as a form: its words checked, and the drill that they make."""

from __future__ import annotations

import re
from typing import Any

from django import forms
from django.http import QueryDict

from giusto.drill import Drill, validate
from giusto.drill.counting import SIXTEENTHS, beat_figures
from giusto.drill.family import family_of
from giusto.drill.file import MOST_CYCLES, MOST_SLOTS, NOTE_VALUE
from giusto.drill.identity import exercise_key
from giusto.errors import DrillError, Fault
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.drills.origin import Origin
from studio.drills.sentence.codec import counts, is_whole, plain_of, query, word_at, words_of
from studio.drills.sentence.fields import choice, number, printed
from studio.drills.sentence.length import cycles_for
from studio.drills.sentence.note_words import BEATS, beat_word, note_word
from studio.drills.sentence.places import FIGURE, MOST_DIGITS
from studio.drills.sentence.prose import title
from studio.drills.sentence.table import PLAIN, PLAYS, TABLE
from studio.drills.shelf import named_drill
from studio.vocabulary import spoken_parts
from studio.words import ordinal

PLAYERS = {"hands": "You play", "simulated": "A simulated player plays"}
LEANS = {
    "-2.5": "dragging",
    "-1": "dragging a little",
    "0": "without a lean",
    "1": "rushing a little",
    "2.5": "rushing",
}
SKILLS: dict[str, tuple[str, dict[str, float]]] = {
    "practised": ("practised", {"clock_percent": 1.2, "hand_ms": 6.0}),
    "fair": ("fair", {"clock_percent": 2.0, "hand_ms": 9.0}),
    "beginning": ("beginning", {"clock_percent": 3.5, "hand_ms": 14.0, "missed": 0.03, "extra": 0.02}),
}
LASTS = {"cycles": "bars", "minutes": "minutes"}
OFTEN = range(1, 9)  # the cycles of which a click may be for every one
# The core's words for a fault, where the sentence has better ones.
PLAINER = {
    ("on", "too_short"): "Mark at least one place.",
    ("notes", "too_short"): "Name at least one place to play.",
    ("turns", "too_short"): "Name at least one place to play.",
    ("places", "twice"): "Name each place once.",
    ("notes", "twice"): "Name each place once.",
    ("turns", "twice"): "Name each place once.",
    ("notes", "off_grid"): "Name places that the notes to the beat have, or take more notes to the beat.",
    ("turns", "off_grid"): "Name places that the notes to the beat have, or take more notes to the beat.",
    ("groups", "groups_sum"): "The groups must add up to the beats of a bar.",
    ("shift_by", "string_pattern_mismatch"): "A part of a beat such as 1/4, please.",
}


class SentenceForm(forms.Form):
    """A drill, each of its words open to change, and who plays it."""

    drill = forms.CharField(required=False, widget=forms.HiddenInput)
    name = forms.CharField(required=False, max_length=120, validators=[printed], widget=forms.HiddenInput)
    by = choice("Who plays", PLAYERS)
    skill = choice("Skill", {key: word for key, (word, _) in SKILLS.items()})
    lean = choice("Lean in the silence", LEANS)
    lasts = choice("Length in bars or minutes", LASTS)
    minutes = number("Minutes", least=0.1, most=120, whole=False)
    marks = forms.TypedChoiceField(
        label="Places to the beat on the row", coerce=int, empty_value=None, required=False, choices=[]
    )

    def __init__(self, data: QueryDict, *, origin: Origin) -> None:
        given = data.dict()
        start = words_of(origin.drill)
        base = {**start, **PLAIN} if is_whole(given) else start
        words: dict[str, Any] = {**base, "name": origin.name, **given, "drill": origin.key}
        for word in TABLE:
            if not counts(word, words):
                words[word.name] = PLAIN[word.name]
        super().__init__(words)
        self.given = words
        self.origin = origin
        self.fields |= {word.name: word.field() for word in TABLE}
        # Which words count, for the template: a word that doesn't has no place in the sentence.
        self.counting = {word.name: counts(word, words) for word in TABLE if word.counts}
        self._offer(words)

    def _offer(self, words: dict[str, Any]) -> None:
        """Offer the words that fit the others, the drill's own among them."""
        beat = words["beat"] if re.match(NOTE_VALUE, str(words["beat"])) else "1/4"
        beats = dict.fromkeys([*BEATS, self.origin.drill.tempo.beat, beat])
        notes = [(grid, note_word(beat, grid)) for grid in range(1, MOST_SLOTS + 1)]
        often = dict.fromkeys([*OFTEN, self.origin.drill.clicks.every, _whole(words["every"])])
        every = [
            (n, "every bar" if n == 1 else f"every {ordinal(n)} bar") for n in sorted(often) if 1 <= n <= MOST_CYCLES
        ]
        self._choices("beat", [(value, beat_word(value)) for value in beats])
        self._choices("grid", notes)
        self._choices("marks", [("", "the notes played"), *notes])
        self._choices("every", every)
        if words["grid"] == str(SIXTEENTHS):
            self._choices("play", [*PLAYS.items(), ("Figures of a beat", _figure_choices())])
        for field in self.fields.values():  # the sentence names its words by where they stand
            field.widget.attrs["aria-label"] = field.label
            field.widget.attrs["form"] = "words"  # wherever on the page it stands, the folded ones too

    def _choices(self, name: str, choices: list[Any]) -> None:
        field = self.fields[name]
        assert isinstance(field, forms.ChoiceField)  # noqa: S101 - a row of our own table
        field.choices = choices

    def clean(self) -> dict[str, Any]:
        """Make the drill, so that the core has the last word."""
        cleaned = super().clean() or {}
        if not self.errors:
            try:
                self.made = self._named(self._long_enough(validate(plain_of(cleaned))))
            except DrillError as error:
                words = dict(cleaned)  # as a word is refused, it leaves what is cleaned
                for fault in error.faults[:3]:
                    self._refuse(fault, words)
        return cleaned

    def _long_enough(self, drill: Drill) -> Drill:
        """Give a drill the cycles that its minutes come to, where its length was said so."""
        if self.cleaned_data["lasts"] == "cycles":
            return drill
        cycles = cycles_for(drill, self.cleaned_data["minutes"])
        self.given["cycles"] = str(cycles)  # what stands there once minutes are cycles again
        return validate(drill.plain() | {"cycles": cycles})

    def _named(self, drill: Drill) -> Drill:
        """Name the drill by its words where it is no rung of what it started from any more.

        A name of the shelf goes with that drill's clicks: *Two bars alone* is none with one silent.
        """
        origin, named = self.origin.drill, named_drill(drill.name)
        same = drill.clicks == origin.clicks and exercise_key(drill) == exercise_key(origin)
        keeps = self.origin.keeps_its_name and (named is None or named.clicks == drill.clicks)
        if drill.name and (same or keeps):
            return drill
        return drill.model_copy(update={"name": title(drill)})

    def _refuse(self, fault: Fault, words: dict[str, Any]) -> None:
        """Put a fault of the core beside its word, in a musician's words where there are some."""
        found = word_at(fault.path)
        name = found.name if found else None
        if name == "on" and words["on"] == "marked":
            name = "places"
        if name == "play":
            name = {"turns": "turns", "places": "notes"}.get(words["play"], "play")
        plainer = PLAINER.get((name or "", fault.code)) or PLAINER.get((found.name if found else "", fault.code))
        said = fault.problem.replace("is ", "", 1).replace(", allowed is ", " can’t be; allowed is ")
        said = said.replace("in a cycle of", "in a bar of")
        if not self.has_error(name or "__all__"):
            self.add_error(name, plainer or f"{said[0].upper()}{said[1:]}.")

    @property
    def is_simulated(self) -> bool:
        """Whether a simulated player shall play."""
        return bool(self.cleaned_data["by"] == "simulated")

    def simulated_player(self) -> SimulatedPlayer:
        """Return the simulated player that the words describe."""
        bias_percent = float(self.cleaned_data["lean"])
        return SimulatedPlayer(bias_percent=bias_percent, **SKILLS[self.cleaned_data["skill"]][1])

    def words(self) -> dict[str, str]:
        """Return the words of the drill made, and who plays it: what a link carries."""
        by = {name: str(self.cleaned_data[name]) for name in ("by", "lean", "skill", "lasts", "minutes")}
        marks = {"marks": str(marks)} if (marks := self.cleaned_data["marks"]) else {}
        return {"drill": self.origin.key, **words_of(self.made), **by, **marks}

    @property
    def is_of_origin(self) -> bool:
        """Whether the drill is still one of what it started from, so that its guide speaks of it."""
        return exercise_key(self.made) == exercise_key(self.origin.drill)

    def family(self) -> str:
        """Return the family that the drill would be kept in."""
        return self.origin.family if self.origin.own or self.is_of_origin else family_of(self.made)

    def link(self) -> str:
        """Return the query of an address that carries the whole drill."""
        return query(self.words())


def _figure_choices() -> list[tuple[str, str]]:
    spoken = ("1", *spoken_parts(SIXTEENTHS))
    return [
        (f"{FIGURE}{index}", " ".join(word if slot in figure else "·" for slot, word in enumerate(spoken)))
        for index, figure in enumerate(beat_figures())
    ]


def _whole(text: object) -> int:
    plain = str(text)
    return int(plain) if plain.isdecimal() and len(plain) <= MOST_DIGITS else 1
