"""Finding any take: by words, exercise, family, tempo, date, length of silence, key, and whether it was clean."""

from __future__ import annotations

import re
from typing import Any

from django import forms
from django.db.models import Q

from giusto.practice.clean import LIMITS
from studio.accounts.looking import hides_words
from studio.accounts.models import Player
from studio.drills.shelf import FAMILIES
from studio.ladders.models import Ladder
from studio.takes.choice import exercises_of
from studio.takes.facts import facts_of
from studio.takes.models import Take, TakeQuerySet

TEMPO = re.compile(r"\s*([0-9]{1,3}(?:\.[0-9]+)?)\s*(?:(?:-|–|to)\s*([0-9]{1,3}(?:\.[0-9]+)?))?\s*")
HALF_BPM = 0.5  # a whole number stands for all that round to it
LIMITED = ("spread_percent", "missed_percent", "fused_cycles")
CLEAN = {"": "clean or not", "clean": "clean", "not-clean": "not clean", "word": "by my word"}


class SearchForm(forms.Form):
    """What is looked for; whatever is left empty is not asked."""

    q = forms.CharField(label="Words", required=False, max_length=100)
    exercise = forms.ChoiceField(label="Exercise", required=False)
    family = forms.ChoiceField(
        label="Family",
        required=False,
        choices=[("", "any family"), *((key, name) for key, (name, _) in FAMILIES.items())],
    )
    tempo = forms.CharField(label="Tempo", required=False, max_length=20)
    since = forms.DateField(label="From", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    until = forms.DateField(label="to", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    silent = forms.IntegerField(label="Bars alone, at least", required=False, min_value=0, max_value=2000)
    key = forms.CharField(label="Key", required=False, max_length=20)
    was = forms.ChoiceField(label="Clean", required=False, choices=list(CLEAN.items()))

    def __init__(self, data: Any, *, player: Player) -> None:
        super().__init__(data)
        self.player = player
        self.fields["exercise"].choices = [("", "any exercise"), *exercises_of(player)]  # type: ignore[attr-defined]
        for field in self.fields.values():
            field.widget.attrs |= {"class": "field"}

    def clean_tempo(self) -> tuple[float, float] | None:
        """Return the lowest and the highest tempo."""
        text = self.cleaned_data["tempo"]
        if not text.strip():
            return None
        match = TEMPO.fullmatch(text)
        if not match:
            raise forms.ValidationError("A tempo such as 96, or 80-100, please.")
        low, high = float(match[1]), float(match[2] or match[1])
        return (low - HALF_BPM, high + HALF_BPM) if match[2] is None else (min(low, high), max(low, high))

    @property
    def is_asked(self) -> bool:
        """Whether anything is looked for."""
        return self.is_valid() and any(value not in (None, "") for value in self.cleaned_data.values())

    def found(self, takes: TakeQuerySet) -> TakeQuerySet:
        """Leave only the takes that are looked for; all where a word is wrong."""
        if not self.is_valid():
            return takes
        found = takes.filter(*(asked for name, value in self.cleaned_data.items() if (asked := _asked(name, value))))
        return self._as_clean(found) if self.cleaned_data["was"] else found

    def _as_clean(self, takes: TakeQuerySet) -> TakeQuerySet:
        """Leave only takes that count as clean, or not, by their ladder's limits; or those with their player's word."""
        if self.cleaned_data["was"] == "word":
            return takes.exclude(said_clean=None)
        ladders = Ladder.objects.visible_to(self.player).only("exercise", *LIMITED)
        limits = {ladder.exercise_id: ladder.limits for ladder in ladders}
        is_asked = self.cleaned_data["was"] == "clean"
        counted = facts_of(takes.exclude(reading=None))
        alike = [one.take for one in counted if one.clean(limits.get(one.exercise or 0, LIMITS)) is is_asked]
        return Take.objects.filter(pk__in=alike)


def _asked(name: str, value: Any) -> Q | None:
    """Return what one word asks of a take."""
    if value in (None, "") or name == "was":
        return None
    if name == "q":
        words = Q()
        for word in value.split():
            here = Q(drill_name__icontains=word) | Q(exercise__name__icontains=word)
            words &= here if hides_words() else here | Q(note__icontains=word)
        return words
    return {
        "exercise": lambda: Q(exercise=value),
        "family": lambda: Q(family=value),
        "tempo": lambda: Q(tempo_bpm__range=value),
        "since": lambda: Q(session__day__gte=value),
        "until": lambda: Q(session__day__lte=value),
        "silent": lambda: Q(silent_cycles__gte=value),
        "key": lambda: Q(exercise__music_key__iexact=value),
    }[name]()
