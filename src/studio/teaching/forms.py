"""Forms of teacher and pupil."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils import timezone

from studio.accounts.models import Player
from studio.teaching.copies import offered
from studio.teaching.models import TEXT_LENGTH, Scope, latest_until


class ConsentForm(forms.Form):
    """What a pupil lets a teacher see."""

    scopes = forms.MultipleChoiceField(
        choices=[(Scope.WORDS, Scope.WORDS.label), (Scope.SOUND, Scope.SOUND.label)],
        required=False,
        widget=forms.CheckboxSelectMultiple,
        label="Besides",
    )
    since = forms.ChoiceField(
        choices=[("", "from the first one on"), ("today", "from today on")], required=False, label="Single takes"
    )
    until = forms.DateField(label="Until", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"))

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.initial.setdefault("until", latest_until())

    @property
    def since_day(self) -> Any:
        """The day from which single takes are shown, None from the first."""
        return timezone.localdate() if self.cleaned_data["since"] == "today" else None


class RemarkForm(forms.Form):
    """What a teacher says, and of what: one of a take, a ladder or a piece."""

    text = forms.CharField(max_length=TEXT_LENGTH, widget=forms.Textarea(attrs={"rows": 2}), label="What you say")
    take = forms.UUIDField(required=False)
    silence = forms.IntegerField(required=False, min_value=1, max_value=1000)
    ladder = forms.UUIDField(required=False)
    rung = forms.IntegerField(required=False, min_value=1, max_value=1000)
    piece = forms.UUIDField(required=False)
    bar = forms.IntegerField(required=False, min_value=1, max_value=9999)

    def clean(self) -> dict[str, Any]:
        """Refuse what is about nothing, or about two things."""
        found = super().clean() or {}
        if sum(found.get(name) is not None for name in ("take", "ladder", "piece")) != 1:
            raise forms.ValidationError("A remark is about a take, a ladder or a piece.")
        return found


class AssignmentForm(forms.Form):
    """What a teacher asks for: something of their own, with a goal and a date."""

    what = forms.ChoiceField(label="Ask for")
    goal = forms.CharField(max_length=300, required=False, label="until")
    due = forms.DateField(required=False, label="by", widget=forms.DateInput(attrs={"type": "date"}))

    def __init__(self, *args: Any, teacher: Player, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        groups: dict[str, list[tuple[str, str]]] = {}
        for one in offered(teacher):
            groups.setdefault(one.kind, []).append((one.word, one.name))
        self.fields["what"].choices = list(groups.items())  # type: ignore[attr-defined]

    @property
    def has_any(self) -> bool:
        """Whether the teacher has anything to ask for."""
        return bool(self.fields["what"].choices)  # type: ignore[attr-defined]
