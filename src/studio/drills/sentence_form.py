"""The words of the drill's sentence that can be changed."""

from __future__ import annotations

import re
from typing import Any

from django import forms
from django.core.validators import RegexValidator

from giusto.drill import NOTE_VALUE, Drill, validate
from giusto.errors import DrillError, Fault
from giusto.figures import SIXTEENTHS, figures, syllables
from giusto.simulate import Player as SimulatedPlayer
from studio.drills.family import family_of
from studio.drills.link import FIGURE, PLAIN_WORDS, plain_of, query, words_of
from studio.drills.note_words import BEATS, beat_word, note_word
from studio.drills.origin import Origin
from studio.drills.sentence import CLICK_WORDS, ordinal, title

DROPS = {
    "no": "all the way",
    "fixed": "and drops out",
    "growing": "and drops out, longer each time",
    "random": "and drops out by chance",
}
ACCENTS = {"none": "alike", "first": "accented on beat 1", "groups": "accented on each group"}
SHIFTS = {"no": "stays in place", "moving": "moves"}
UNITS = {"beat": "beat", "cycle": "cycle"}
PLAYS = {"grid": "throughout", "places": "at places you mark:", "turns": "in turns:", "free": "as you like"}
PLAYERS = {"hands": "You play", "simulated": "A simulated player plays"}
LEANS = {
    "-2.5": "dragging",
    "-1": "dragging a little",
    "0": "without a lean",
    "1": "rushing a little",
    "2.5": "rushing",
}
SKILLS = {
    "practised": ("practised", {"clock_percent": 1.2, "hand_ms": 6.0}),
    "fair": ("fair", {"clock_percent": 2.0, "hand_ms": 9.0}),
    "beginning": ("beginning", {"clock_percent": 3.5, "hand_ms": 14.0, "missed": 0.03, "extra": 0.02}),
}
# Words that count only beside certain others: which word, and what it must say.
DEPENDS = {
    "places": ("on", {"marked"}),
    "heard": ("drop", {"fixed", "growing"}),
    "silent": ("drop", {"fixed", "growing"}),
    "step": ("drop", {"growing"}),
    "longest": ("drop", {"growing"}),
    "unit": ("drop", {"random"}),
    "chance": ("drop", {"random"}),
    "most": ("drop", {"random"}),
    "seed": ("drop", {"random"}),
    "shift_by": ("shift", {"moving"}),
    "shift_every": ("shift", {"moving"}),
    "notes": ("play", {"places"}),
    "turns": ("play", {"turns"}),
    "skill": ("by", {"simulated"}),
    "lean": ("by", {"simulated"}),
}
# Where a fault of the core stands in the sentence: by the start of its path.
WORD_OF_PATH = {
    "name": "name",
    "tempo.bpm": "bpm",
    "tempo.beat": "beat",
    "cycle.beats": "beats",
    "cycle.groups": "groups",
    "clicks.on": "on",
    "clicks.every": "every",
    "clicks.silence.heard": "heard",
    "clicks.silence.silent": "silent",
    "clicks.silence.step": "step",
    "clicks.silence.max": "longest",
    "clicks.silence.probability": "chance",
    "clicks.silence.longest": "most",
    "clicks.silence.seed": "seed",
    "clicks.shift.by": "shift_by",
    "part.grid": "grid",
    "part.play": "notes",
}


def _number(label: str, *, least: float = 1, most: float, whole: bool = True) -> forms.Field:
    """Return a number that stands as a word of the sentence."""
    kind = forms.IntegerField if whole else forms.FloatField
    attrs = {"class": "word w-count", "inputmode": "numeric" if whole else "decimal", "step": 1 if whole else "any"}
    return kind(label=label, min_value=least, max_value=most, widget=forms.NumberInput(attrs=attrs))


def _choice(label: str, words: dict[str, str]) -> forms.ChoiceField:
    """Return a choice that stands as a word of the sentence."""
    return forms.ChoiceField(label=label, choices=list(words.items()), widget=forms.Select(attrs={"class": "word"}))


def _whole_choice(label: str, words: dict[int, str]) -> forms.TypedChoiceField:
    choices = list(words.items())
    return forms.TypedChoiceField(
        label=label, coerce=int, choices=choices, widget=forms.Select(attrs={"class": "word"})
    )


def _text(label: str, *, allowed: str, hint: str, placeholder: str = "") -> forms.CharField:
    """Return a short text that stands as a word of the sentence."""
    attrs = {"class": "word w-text", "autocomplete": "off", "spellcheck": "false", "placeholder": placeholder}
    checks = [RegexValidator(allowed, message=f"Allowed is a text such as {hint}.")]
    widget = forms.TextInput(attrs=attrs)
    return forms.CharField(label=label, required=False, max_length=20_000, validators=checks, widget=widget)


class SentenceForm(forms.Form):
    """A drill, each of its words open to change, and who plays it."""

    drill = forms.CharField(required=False, widget=forms.HiddenInput)
    name = forms.CharField(required=False, max_length=120, widget=forms.HiddenInput)

    beat = _choice("Note value of a beat", {})
    bpm = _number("Tempo, beats a minute", least=10, most=400, whole=False)
    beats = _number("Beats in a cycle", most=64)
    on = _choice("Where the click sounds", CLICK_WORDS)
    places = _text("Places that click", allowed=r"^[0-9+/,;\s]*$", hint="1, 2+1/2")
    drop = _choice("Whether the click drops out", DROPS)
    heard = _number("Cycles with the click", most=2000)
    silent = _number("Cycles alone", most=2000)
    step = _number("Cycles that each silence is longer", most=2000)
    longest = _number("Longest silence, cycles", most=2000)
    unit = _choice("What drops out", UNITS)
    chance = _number("Chance to drop out, per cent", least=0, most=100, whole=False)
    most = _number("Most in a row", most=2000)
    seed = _number("Number of the draw", least=0, most=2**53 - 1)
    cycles = _number("Cycles", most=2000)

    by = _choice("Who plays", PLAYERS)
    grid = _whole_choice("Notes to the beat", {})
    play = _choice("Which notes", PLAYS)
    notes = _text("Places to play", allowed=r"^[0-9+/,;\s]*$", hint="1, 2+1/2")
    turns = _text("Turns to play", allowed=r"^[0-9+/,;:\s]*$", hint="4: 1; 4: 1, 3")
    skill = _choice("Skill", {key: word for key, (word, _) in SKILLS.items()})
    lean = _choice("Lean in the silence", LEANS)

    groups = _text("Groups of beats", allowed=r"^[0-9+\s]*$", hint="4+2+2", placeholder="one group")
    accent = _choice("Accents", ACCENTS)
    split = _whole_choice("Quiet clicks", {1: "undivided", **{n: f"in {n} quiet parts" for n in range(2, 9)}})
    every = _whole_choice("Which cycles the click is for", {})
    shift = _choice("Whether the click moves", SHIFTS)
    shift_by = _text("Part of a beat that it moves", allowed=r"^[0-9/\s]*$", hint="1/4")
    shift_every = _number("Cycles between moves", most=2000)
    count_in = _number("Cycles of count-in", least=0, most=8)
    close = _number("Closing cycles", least=0, most=8)

    marks = forms.TypedChoiceField(
        label="Places to the beat on the row", coerce=int, empty_value=None, required=False, choices=[]
    )

    def __init__(self, data: Any, *, origin: Origin) -> None:
        given = data.dict()
        start = words_of(origin.drill)
        base = {**start, **PLAIN_WORDS} if is_whole(given) else start
        words = {**base, "name": origin.name, **given}
        for name, (other, values) in DEPENDS.items():
            if words[other] not in values:
                words[name] = PLAIN_WORDS[name]
        super().__init__(words)
        self.origin = origin
        self._offer(words)

    def _offer(self, words: dict[str, Any]) -> None:
        """Offer the words that fit the others, the drill's own among them."""
        beat = words["beat"] if re.match(NOTE_VALUE, words["beat"]) else "1/4"
        beats = dict.fromkeys([*BEATS, self.origin.drill.tempo.beat, beat])
        self.fields["beat"].choices = [(value, beat_word(value)) for value in beats]
        notes = [(grid, note_word(beat, grid)) for grid in range(1, 9)]
        self.fields["grid"].choices = notes
        self.fields["marks"].choices = [("", "the notes played"), *notes]
        often = dict.fromkeys([*range(1, 9), self.origin.drill.clicks.every, _whole(words["every"])])
        self.fields["every"].choices = [
            (n, "every cycle" if n == 1 else f"every {ordinal(n)} cycle") for n in sorted(often) if 1 <= n <= 2000
        ]
        if words["grid"] == str(SIXTEENTHS):
            self.fields["play"].choices = [*PLAYS.items(), ("Figures of a beat", _figure_choices())]
        for field in self.fields.values():  # the sentence names its words by where they stand
            field.widget.attrs["aria-label"] = field.label

    def clean(self) -> dict[str, Any]:
        """Make the drill, so that the core has the last word."""
        cleaned = super().clean() or {}
        if not self.errors:
            try:
                self.made = self._named(validate(plain_of(cleaned)))
            except DrillError as error:
                for fault in error.faults:
                    self._refuse(fault, cleaned)
        return cleaned

    def _named(self, drill: Drill) -> Drill:
        """Name the drill by its words where its click is no longer the built-in one's."""
        origin = self.origin.drill
        same = drill.clicks == origin.clicks and drill.cycle.beats == origin.cycle.beats
        if drill.name and (same or not self.origin.is_built_in):
            return drill
        return drill.model_copy(update={"name": title(drill)})

    def _refuse(self, fault: Fault, cleaned: dict[str, Any]) -> None:
        word = next((word for path, word in WORD_OF_PATH.items() if fault.path.startswith(path)), None)
        marked = {"on": "places" if cleaned["on"] == "marked" else "on"}
        if cleaned["play"] == "turns":
            marked["notes"] = "turns"
        if fault.code == "too_short":
            text = "Mark at least one place." if word == "on" else "Name at least one place to play."
        else:
            at = "" if fault.path in WORD_OF_PATH else f"{fault.path}: "
            text = f"{at}{fault.problem}."
        self.add_error(marked.get(word or "", word), text)

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
        by = {name: str(self.cleaned_data[name]) for name in ("by", "lean", "skill")}
        marks = {"marks": str(marks)} if (marks := self.cleaned_data["marks"]) else {}
        return {"drill": self.origin.key, **words_of(self.made), **by, **marks}

    def family(self) -> str:
        """Return the family that the drill would be kept in."""
        changed = self.made.clicks != self.origin.drill.clicks
        return family_of(self.made) if changed and not self.origin.own else self.origin.family

    def link(self) -> str:
        """Return the query of an address that carries the whole drill."""
        return query(self.words())


def is_whole(words: dict[str, Any]) -> bool:
    """Whether an address carries a whole drill; what it leaves out is then plain."""
    return {"bpm", "beats", "grid", "cycles"} <= words.keys()


def _figure_choices() -> list[tuple[str, str]]:
    spoken = ("1", *syllables(SIXTEENTHS))
    return [
        (f"{FIGURE}{index}", " ".join(word if slot in figure else "·" for slot, word in enumerate(spoken)))
        for index, figure in enumerate(figures())
    ]


def _whole(text: object) -> int:
    return int(str(text)) if str(text).isdecimal() else 1
