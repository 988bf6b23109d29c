"""The rule of a ladder as a sentence whose words can be changed, and files brought in."""

from __future__ import annotations

from string import Formatter
from typing import Any

from django import forms

from giusto.errors import DrillError, Fault
from giusto.practice.ladder import Ladder as CoreLadder
from giusto.practice.ladder import ladder_of
from giusto.practice.ladder.rules.week import BY_NUMBERS
from studio.drills.sentence.fields import choice, number, printed, text
from studio.ladders.models import Ladder
from studio.ladders.schools import SCHOOLS, WORDS, School, falls_of, plain_rule, words_of_rule

NUMBER_OR_NOTCH = r"^(notch|[0-9]{1,3}(\.[0-9]+)?)$"
# Which word of the form a fault of the file belongs to, by the start of its path.
PATHS = {
    "vary.from": "start",
    "vary.to": "to",
    "vary.by": "step",
    "vary.steps": "steps",
    **{f"rule.{word.path}": name for name, word in WORDS.items()},
    "rule.kind": "kind",
    "fall.after": "falls",
    "fall.by": "fall_by",
    "next_day.back": "back",
}


# What a musician reads where the core's own words, of which one is named, speak of fields of the file.
STEP = "A step is more than nothing, and leaves at most a thousand of them."
SAID = {
    ("vary.to", "vary.from"): "The last step can’t lie below the first.",
    ("vary.by", "notch"): STEP,
    ("vary.by", "rungs"): STEP,
    ("rule.high", "rule.low"): "More than the other one, please.",
    ("vary.steps", ""): "One to eight notes to the beat, please.",
}


class RuleForm(forms.Form):
    """What is climbed, by which rule; a word that is not shown stays as it was."""

    name = forms.CharField(
        label="Name",
        max_length=120,
        validators=[printed],
        widget=forms.TextInput(attrs={"class": "word w-text", "autocomplete": "off"}),
    )
    kind = choice("The school", {kind: school.name for kind, school in SCHOOLS.items()})
    start = number("From", most=1000, least=1, whole=False)
    to = number("To", most=1000, least=1, whole=False)
    step = text("In steps of, or notch", allowed=NUMBER_OR_NOTCH, hint="4, or notch")
    steps = text("Notes to the beat, step by step", allowed=r"^[0-9]{1,2}([,\s]+[0-9]{1,2})*$", hint="1, 2, 4")
    falls = number("Takes in a row not clean before falling, nothing for never", most=100, blank="never")
    fall_by = number("Steps down", most=100)
    back = number("Steps that a new day begins below", least=0, most=100)
    spread = number("Spread, per cent of a slot", least=0.1, most=100, whole=False)
    missed = number("Missed notes, per cent", least=0, most=100, whole=False)
    place = number(
        "Place, ms from the click, nothing for wherever it lies", least=1, most=500, whole=False, blank="any"
    )
    fused = number("Bars with note and click as one, nothing for not asked", most=2000, blank="not asked")

    def __init__(self, data: Any = None, *, ladder: Ladder) -> None:
        self.ladder = ladder
        initial = words_of(ladder)
        given = None if data is None else {**_shown(initial), **data.dict()}
        if given and given["kind"] != ladder.core.rule.kind:  # another school brings its own falls and new days
            given |= falls_of(given["kind"]) if given["kind"] in SCHOOLS else {}
        super().__init__(given, initial=initial, auto_id="id_rule_%s")
        self.made: CoreLadder | None = None
        self.fields |= {name: word.field() for name, word in WORDS.items()}
        if ladder.core.vary.what not in BY_NUMBERS:
            schools = [(kind, school.name) for kind, school in SCHOOLS.items() if kind != "week"]
            self.fields["kind"].choices = schools  # type: ignore[attr-defined]
        for name, field in self.fields.items():
            field.widget.attrs["aria-label"] = field.label
            if name in self.errors:
                field.widget.attrs["aria-invalid"] = "true"

    @property
    def school(self) -> School:
        """The school that the sentence speaks of: what was chosen, else what the ladder has."""
        chosen = self.data.get("kind") if self.is_bound else None
        return SCHOOLS[chosen if chosen in SCHOOLS else self.ladder.core.rule.kind]

    @property
    def sentence(self) -> list[Any]:
        """The rule of its school, piece by piece: texts, and words that can be changed."""
        pieces: list[Any] = []
        for before, name, spec, _ in Formatter().parse(self.school.sentence):
            pieces.append(before)
            if name:
                pieces.append(("" if str(self[name].value()) == "1" else spec) if spec else self[name])
        return pieces

    def clean(self) -> dict[str, Any]:
        """Make the ladder that the words say; the core has the last word on it."""
        words = super().clean() or {}
        if self.errors:
            return words
        try:
            self.made = ladder_of(plain_of(words, self.ladder))
        except DrillError as error:
            for fault in error.faults:
                name = next((word for path, word in PATHS.items() if fault.path.startswith(path)), None)
                self.add_error(name, _said(fault))
        return words

    @property
    def limits(self) -> dict[str, Any]:
        """The limits that the words say, as the ladder keeps them."""
        words = self.cleaned_data
        return {
            "spread_percent": words["spread"],
            "missed_percent": words["missed"],
            "fused_cycles": words["fused"],
            "place_ms": words["place"],
        }


class LadderFileForm(forms.Form):
    """A ladder's file."""

    file = forms.FileField(label="A ladder’s file", error_messages={"required": "Choose a file first."})


def words_of(ladder: Ladder) -> dict[str, Any]:
    """Return a ladder as the words of its sentence; of schools that it does not keep, the usual ones."""
    core = ladder.core
    vary, rule = core.vary, core.rule
    words: dict[str, Any] = {"name": ladder.name, "kind": rule.kind, "start": 60, "to": 120, "step": "4", "steps": "1"}
    words |= words_of_rule(rule)
    if vary.what in ("tempo", "silence"):
        words |= {"start": f"{vary.start:g}", "to": f"{vary.to:g}", "step": _short(vary.by)}
    elif vary.what == "notes":
        words["steps"] = ", ".join(map(str, vary.steps))
    terms = core.terms
    words |= {"falls": terms.fall_after or "", "fall_by": terms.fall_by, "back": terms.back}
    words |= {"spread": _short(ladder.spread_percent), "missed": _short(ladder.missed_percent)}
    words |= {name: _short(words[name]) for name in ("minutes", "by")}
    return words | {"fused": ladder.fused_cycles or "", "place": _short(ladder.place_ms) if ladder.place_ms else ""}


def plain_of(words: dict[str, Any], ladder: Ladder) -> dict[str, Any]:
    """Return the plain ladder that the (checked) words make of another."""
    plain = {**ladder.spec, "name": words["name"], "vary": dict(ladder.spec["vary"])}
    vary, kind = plain["vary"], words["kind"]
    if vary["what"] == "tempo":
        by = words["step"] if words["step"] == "notch" else _whole(words["step"])
        vary |= {"from": _whole(words["start"]), "to": _whole(words["to"]), "by": by}
    elif vary["what"] == "silence":
        vary |= {"from": _whole(words["start"]), "to": _whole(words["to"]), "by": _whole(words["step"])}
    elif vary["what"] == "notes":
        vary["steps"] = [int(step) for step in words["steps"].replace(",", " ").split()]
    plain["rule"] = plain_rule(kind, words)
    plain["fall"] = {"after": words["falls"], "by": words["fall_by"]} if words["falls"] else None
    plain["next_day"] = {"back": words["back"]}
    return plain


def _said(fault: Fault) -> str:
    """Return what is wrong with a word, as a musician reads it."""
    for (path, word), told in SAID.items():
        if fault.path.startswith(path) and word in fault.problem:
            return told
    return f"{fault.problem[0].upper()}{fault.problem[1:]}."


def _shown(words: dict[str, Any]) -> dict[str, str]:
    return {name: str(value) for name, value in words.items()}


def _short(value: Any) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)


def _whole(value: Any) -> int | float:
    """Return a whole number as one; others as they are, for the core to refuse."""
    found = float(value)
    return int(found) if found == int(found) else found
