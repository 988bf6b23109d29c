"""The routine as a sentence: when, how long, which blocks, and what is practised in them."""

from __future__ import annotations

import re
from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.forms import BaseFormSet, formset_factory

from giusto.errors import DrillError
from giusto.plan.routine import MOST_BLOCKS, MOST_EXERCISES, WEEKDAYS, routine_of
from giusto.plan.routine import Routine as CoreRoutine
from studio.drills.sentence.fields import number
from studio.ladders.part_forms import TWELVE
from studio.plans.entries import named_now
from studio.plans.models import HIGH, LOW, REPEATS, Routine

DAYS = dict(zip(WEEKDAYS, ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"), strict=True))
MOST_TOLD = 20
PLACE = re.compile(r"(exercise|block)s\[([0-9]+)\]\.?(.*)")


def words(
    label: str, *, most: int = 120, hint: str = "", required: bool = False, kind: str = "w-text", names: str = ""
) -> forms.CharField:
    """Return a text that stands as a word of the sentence."""
    attrs = {"class": f"word {kind}", "autocomplete": "off", "placeholder": hint}
    if names:
        attrs["list"] = names
    return forms.CharField(label=label, required=required, max_length=most, widget=forms.TextInput(attrs=attrs))


class SpokenForm(forms.Form):
    """A form whose words stand in a sentence: each says its label to those who hear the page."""

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        for field in self.fields.values():
            if field.label:
                field.widget.attrs.setdefault("aria-label", field.label)


class RoutineForm(SpokenForm):
    """When and how long; how often each pattern comes; the goal and the reminder."""

    days = forms.MultipleChoiceField(
        label="Days",
        choices=list(DAYS.items()),
        widget=forms.CheckboxSelectMultiple,
        error_messages={"required": "A day at least, please."},
    )
    start = words("From", most=5, hint="18:00", required=True, kind="w-figure")
    minutes = number("Minutes", most=600)
    zone = forms.ChoiceField(
        label="By the clock of",
        choices=[(zone, zone.replace("_", " ")) for zone in sorted(available_timezones())],
        widget=forms.Select(attrs={"class": "word"}),
    )
    repeats = number("Times each", most=20)
    low = number("Of a hundred takes clean, at least", most=99)
    high = number("at most", most=99)
    weekly_minutes = number("Minutes a week, nothing for no goal", most=5000, blank="any")
    alarm_minutes = number("Minutes before, nothing for no reminder", most=1000, least=0, blank="not")

    def clean(self) -> dict[str, Any]:
        """Refuse a band that has no width."""
        given: dict[str, Any] = dict(super().clean() or {})
        if not self.errors and given["low"] >= given["high"]:
            self.add_error("high", "More than the other one, please.")
        return given


class BlockForm(SpokenForm):
    """A part of the session."""

    name = words("Block", hint="another block")
    least = number("At least", most=600, blank="5")
    most = number("at most", most=600, blank="10")
    flexible = forms.BooleanField(label="stretches and shrinks first", required=False)


class ExerciseForm(SpokenForm):
    """What is practised in a block."""

    name = words("Exercise", hint="another exercise", names="names")
    block = words("Block")
    minutes = number("Minutes", most=600, blank="8")
    keys = words("Keys", most=400, hint="no keys", kind="w-text")
    per_session = number("Keys a session", most=24, blank="1")
    season_from = words("On from", most=40, hint="always", kind="w-text")
    weeks_on = number("Weeks on", most=520, blank="4")
    weeks_off = number("weeks off", most=520, least=0, blank="4")


TOO_MANY = {"too_many_forms": "allowed are %(num)d at most."}
# Of what a page says it has, no more are read than a routine may have, and one too many to be refused.
BlockForms = formset_factory(BlockForm, extra=1, max_num=MOST_BLOCKS, absolute_max=MOST_BLOCKS + 1)
ExerciseForms = formset_factory(ExerciseForm, extra=1, max_num=MOST_EXERCISES, absolute_max=MOST_EXERCISES + 1)


class WholeRoutine:
    """The three forms of a routine, and what they make."""

    def __init__(self, data: Any = None, *, row: Routine | None = None) -> None:
        core = named_now(row).core if row else None
        self.form = RoutineForm(data, initial=_initial(row, core))
        blocks = [_block(block) for block in core.blocks] if core else []
        exercises = [_exercise(one) for one in core.exercises] if core else []
        self.blocks: BaseFormSet[BlockForm] = BlockForms(data, initial=blocks, prefix="block", error_messages=TOO_MANY)
        self.exercises: BaseFormSet[ExerciseForm] = ExerciseForms(
            data, initial=exercises, prefix="exercise", error_messages=TOO_MANY
        )
        # A file may call an exercise otherwise than its ladder; pages have one name for it, and the file keeps its own.
        self.titles = {(one.ladder, one.block): one.name for one in core.exercises if one.ladder} if core else {}
        self.faults: list[str] = []
        self.is_asked = False

    def make(self) -> CoreRoutine | None:
        """Return the routine that the words say, or None where something is wrong; the core has the last word."""
        self.is_asked = True
        if not (self.form.is_valid() and self.blocks.is_valid() and self.exercises.is_valid()):
            return None
        try:
            return routine_of(self._plain())
        except DrillError as error:
            self.faults = [_said(str(fault)) for fault in error.faults[:MOST_TOLD]]
            return None

    @property
    def errors(self) -> list[str]:
        """All that is wrong, each with its word; nothing before it was to be kept."""
        if not self.is_asked:
            return []
        forms_ = (self.form, *self.blocks.forms, *self.exercises.forms)
        found = [
            f"{form.fields[name].label if name in form.fields else ''}: {error}".lstrip(": ")
            for form in forms_
            for name, errors in form.errors.items()
            for error in errors
        ]
        sets = (("Blocks", self.blocks), ("Exercises", self.exercises))
        found += [f"{name}: {error}" for name, some in sets for error in some.non_form_errors()]
        return [*found, *self.faults]

    @property
    def columns(self) -> dict[str, Any]:
        """What the routine's row keeps beside its file."""
        names = ("repeats", "low", "high", "weekly_minutes", "alarm_minutes")
        return {name: self.form.cleaned_data[name] for name in names}

    def _plain(self) -> dict[str, Any]:
        given = self.form.cleaned_data
        blocks = [form.cleaned_data for form in self.blocks.forms if form.cleaned_data.get("name")]
        exercises = [form.cleaned_data for form in self.exercises.forms if form.cleaned_data.get("name")]
        return {
            "giusto": "routine/1",
            "days": [day for day in WEEKDAYS if day in given["days"]],
            "minutes": given["minutes"],
            "start": given["start"],
            "zone": given["zone"],
            "blocks": [_plain_block(one) for one in blocks],
            "exercises": [self._titled(_plain_exercise(one)) for one in exercises],
        }

    def _titled(self, plain: dict[str, Any]) -> dict[str, Any]:
        title = self.titles.get((plain["name"], plain["block"]))
        return plain if title is None else {**plain, "name": title, "ladder": plain["name"]}


def _initial(row: Routine | None, core: CoreRoutine | None) -> dict[str, Any]:
    if row is None or core is None:
        return {"repeats": REPEATS, "low": LOW, "high": HIGH}
    found = {name: getattr(row, name) for name in ("repeats", "low", "high", "weekly_minutes", "alarm_minutes")}
    return found | {"days": list(core.days), "start": core.start, "minutes": core.minutes, "zone": core.zone}


def _block(block: Any) -> dict[str, Any]:
    return {"name": block.name, "least": block.least, "most": block.most, "flexible": block.flexible}


def _exercise(one: Any) -> dict[str, Any]:
    """Return an exercise under the one name that all pages give it: its ladder's, where a file calls it otherwise."""
    found = {"name": one.ladder or one.name, "block": one.block, "minutes": one.minutes}
    if one.keys:
        found |= {"keys": ", ".join(one.keys.all), "per_session": one.keys.per_session}
    if one.season:
        season = one.season
        found |= {"season_from": season.start, "weeks_on": season.weeks_on, "weeks_off": season.weeks_off}
    return found


def _plain_block(one: dict[str, Any]) -> dict[str, Any]:
    least = one["least"] or 5
    plain = {"name": one["name"].strip(), "minutes": [least, one["most"] or max(least, 10)]}
    return plain | ({"flexible": True} if one["flexible"] else {})


def _plain_exercise(one: dict[str, Any]) -> dict[str, Any]:
    plain: dict[str, Any] = {"name": one["name"].strip(), "block": one["block"].strip(), "minutes": one["minutes"] or 8}
    if keys := _keys(one["keys"]):
        plain["keys"] = {"all": keys, "per_session": one["per_session"] or 1}
    if start := one["season_from"].strip():
        off = one["weeks_off"]
        plain["season"] = {"from": start, "weeks_on": one["weeks_on"] or 4, "weeks_off": 4 if off is None else off}
    return plain


def _keys(text: str) -> list[str]:
    if text.strip().casefold() in ("all", "twelve", "12"):
        return list(TWELVE)
    return list(dict.fromkeys(word.strip() for word in text.split(",") if word.strip()))


def _said(fault: str) -> str:
    """Return a fault of the file in the words of the sentence: which block or exercise, counted from one."""
    path, colon, problem = fault.partition(": ")
    match = PLACE.match(path)
    if not colon or not match:
        return fault
    word, number, rest = match.groups()
    return f"{word.capitalize()} {int(number) + 1}, {rest or 'all of it'}: {problem}"


class RoutineFileForm(forms.Form):
    """A routine's file."""

    file = forms.FileField(label="A routine’s file", error_messages={"required": "Choose a file first."})
