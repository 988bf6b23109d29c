"""The words of the drill's sentence that can be changed."""

from __future__ import annotations

from typing import Any

from django import forms

from giusto.drill import Drill, FixedSilence, validate
from giusto.errors import DrillError
from giusto.simulate import Player as SimulatedPlayer
from studio.drills.sentence import CLICK_WORDS, click_places, click_word, title
from studio.drills.shelf import BuiltIn, shelf

NOTE_WORDS = {
    1: "quarters",
    2: "eighths",
    3: "triplets",
    4: "sixteenths",
    5: "quintuplets",
    6: "sextuplets",
    7: "septuplets",
    8: "thirty-seconds",
}
DROPS = {"no": "all the way", "yes": "and drops out"}
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


def _count(label: str, *, most: int) -> forms.IntegerField:
    """Return a whole number that stands as a word of the sentence."""
    word = forms.NumberInput(attrs={"class": "word w-count", "inputmode": "numeric"})
    return forms.IntegerField(label=label, min_value=1, max_value=most, widget=word)


def _choice(label: str, words: dict[str, str]) -> forms.ChoiceField:
    """Return a choice that stands as a word of the sentence."""
    return forms.ChoiceField(label=label, choices=list(words.items()), widget=forms.Select(attrs={"class": "word"}))


class SentenceForm(forms.Form):
    """A built-in drill, each of its words open to change, and who plays it."""

    drill = forms.ChoiceField(widget=forms.HiddenInput)
    bpm = forms.DecimalField(
        label="Tempo, beats a minute",
        min_value=10,
        max_value=400,
        max_digits=6,
        decimal_places=2,
        widget=forms.NumberInput(attrs={"class": "word w-figure", "step": "any", "inputmode": "decimal"}),
    )
    beats = _count("Beats in a cycle", most=64)
    on = _choice("Where the click sounds", CLICK_WORDS)
    drop = _choice("Whether the click drops out", DROPS)
    heard = _count("Cycles with the click", most=2000)
    silent = _count("Cycles alone", most=2000)
    cycles = _count("Cycles", most=2000)
    by = _choice("Who plays", PLAYERS)
    grid = forms.TypedChoiceField(
        label="Notes to the beat",
        coerce=int,
        choices=list(NOTE_WORDS.items()),
        widget=forms.Select(attrs={"class": "word"}),
    )
    skill = _choice("Skill", {key: word for key, (word, _) in SKILLS.items()})
    lean = _choice("Lean in the silence", LEANS)

    def __init__(self, data: Any, **kwargs: Any) -> None:
        chosen = shelf().get(data.get("drill", ""), default_drill())
        super().__init__({**self.start_values(chosen), **data.dict()}, **kwargs)
        self.built_in = chosen
        self.fields["drill"].choices = [(slug, slug) for slug in shelf()]
        for field in self.fields.values():  # the sentence names its words by where they stand
            field.widget.attrs["aria-label"] = field.label

    @staticmethod
    def start_values(chosen: BuiltIn) -> dict[str, Any]:
        """Return the sentence of a drill as it lies on the shelf."""
        drill = chosen.drill
        silence = drill.clicks.silence if isinstance(drill.clicks.silence, FixedSilence) else None
        return {
            "drill": chosen.slug,
            "bpm": f"{drill.tempo.bpm:g}",
            "beats": drill.cycle.beats,
            "on": click_word(drill) or "every",
            "drop": "yes" if silence else "no",
            "heard": silence.heard if silence else 2,
            "silent": silence.silent if silence else 2,
            "grid": drill.part.grid,
            "cycles": drill.cycles,
            "by": "hands",
            "lean": "-1",
            "skill": "fair",
        }

    def clean(self) -> dict[str, Any]:
        """Make the drill, so that the core has the last word."""
        cleaned = super().clean() or {}
        if not self.errors:
            try:
                self.made = self._made(cleaned)
            except DrillError as error:
                raise forms.ValidationError([str(fault) for fault in error.faults]) from None
        return cleaned

    def _made(self, cleaned: dict[str, Any]) -> Drill:
        plain = self.built_in.drill.plain()
        plain["tempo"]["bpm"] = float(cleaned["bpm"])
        plain["cycle"] = {"beats": cleaned["beats"], "groups": None}
        plain["clicks"]["on"] = click_places(cleaned["on"], cleaned["beats"])
        plain["clicks"]["silence"] = (
            {"kind": "fixed", "heard": cleaned["heard"], "silent": cleaned["silent"]}
            if cleaned["drop"] == "yes"
            else None
        )
        plain["part"]["grid"] = cleaned["grid"]
        plain["cycles"] = cleaned["cycles"]
        drill = validate(plain)
        return drill if self._is_as_on_the_shelf(drill) else drill.model_copy(update={"name": title(drill)})

    def _is_as_on_the_shelf(self, drill: Drill) -> bool:
        shelf_drill = self.built_in.drill
        return drill.clicks == shelf_drill.clicks and drill.cycle.beats == shelf_drill.cycle.beats

    @property
    def is_simulated(self) -> bool:
        """Whether a simulated player shall play."""
        return bool(self.cleaned_data["by"] == "simulated")

    def simulated_player(self) -> SimulatedPlayer:
        """Return the simulated player that the words describe."""
        bias_percent = float(self.cleaned_data["lean"])
        return SimulatedPlayer(bias_percent=bias_percent, **SKILLS[self.cleaned_data["skill"]][1])


def default_drill() -> BuiltIn:
    """Return the drill that a new player starts with."""
    return shelf()["two-heard-two-silent"]
