"""A new piece, how it is worked on, marks and spots."""

from __future__ import annotations

from typing import Any

from django import forms

from giusto.errors import GiustoError
from giusto.plan.piece import MOST_BARS, even_begins, stretches
from studio.pieces.models import TEMPO, Mark, Piece

SIZES = {1: "one bar", 2: "two bars", 4: "four bars", 8: "eight bars"}
USUAL_GOAL_BPM, USUAL_BARS, USUAL_SIZE = 90.0, 16, 2
GRIDS = {1: "a note a beat", 2: "two notes a beat", 3: "three notes a beat", 4: "four notes a beat"}


class NewPieceForm(forms.Form):
    """A piece's score, or, where there is none, its name and size."""

    file = forms.FileField(label="A score: MusicXML or MIDI", required=False)
    part = forms.CharField(label="Part, by name or number", required=False, max_length=60)
    name = forms.CharField(label="Name", required=False, max_length=100)
    bars = forms.IntegerField(label="Bars", required=False, min_value=1, max_value=MOST_BARS)
    beats = forms.IntegerField(label="Beats in a bar", required=False, min_value=1, max_value=32)
    grid = forms.TypedChoiceField(
        label="Its notes to the beat, all alike",
        choices=list(GRIDS.items()),
        coerce=int,
        required=False,
        empty_value=None,
    )

    def clean(self) -> dict[str, Any]:
        """Refuse what is neither a score nor a name."""
        words: dict[str, Any] = dict(super().clean() or {})
        if not self.errors and not words.get("file") and not words["name"]:
            self.add_error("name", "A name, or a score, please.")
        return words

    def fields_of_piece(self) -> dict[str, Any]:
        """Return the columns of a piece without a score."""
        words = self.cleaned_data
        last = words.get("bars") or USUAL_BARS
        return {
            "name": words["name"],
            "goal_bpm": USUAL_GOAL_BPM,
            "first_bar": 1,
            "last_bar": last,
            "begins": even_begins(1, last, USUAL_SIZE),
            "beats": words.get("beats") or 4,
            "grid": words.get("grid") or 2,
        }


class WorkForm(forms.ModelForm):
    """How a piece is worked on, as a sentence."""

    size = forms.TypedChoiceField(
        label="In chunks of",
        coerce=int,
        required=False,
        choices=[(0, "its own bars"), *SIZES.items()],
        empty_value=None,
    )
    chunks = forms.CharField(
        label="Chunks begin in bars",
        required=False,
        max_length=400,
        widget=forms.TextInput(attrs={"placeholder": "1, 5, 9"}),
    )

    class Meta:
        model = Piece
        fields = ["name", "goal_bpm", "found_bpm", "school", "click", "by_hands", "note"]
        widgets = {
            "name": forms.TextInput(attrs={"class": "word w-text", "autocomplete": "off"}),
            "goal_bpm": forms.TextInput(attrs={"class": "word w-figure", "inputmode": "decimal"}),
            "found_bpm": forms.TextInput(
                attrs={"class": "word w-figure", "inputmode": "decimal", "placeholder": "not yet"}
            ),
            "note": forms.Textarea(attrs={"class": "note-field", "rows": 2}),
        }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        piece = self.instance
        begins = piece.begins or []
        size = next((n for n in SIZES if begins == even_begins(piece.first_bar, piece.last_bar, n)), 0)
        self.initial = {**self.initial, "size": size, "chunks": ", ".join(map(str, begins))}
        for name in ("goal_bpm", "found_bpm"):
            if self.initial.get(name) is not None:
                self.initial[name] = f"{self.initial[name]:g}"
        for name in ("school", "click", "size", "chunks"):
            self.fields[name].widget.attrs["class"] = "word"
        for field in self.fields.values():
            field.widget.attrs["aria-label"] = field.label

    def clean(self) -> dict[str, Any]:
        """Make the chunks of their size, or of the bars that were typed."""
        words: dict[str, Any] = dict(super().clean() or {})
        piece = self.instance
        if size := words.get("size"):
            self.begins = even_begins(piece.first_bar, piece.last_bar, size)
            return words
        try:
            self.begins = [int(word) for word in words.get("chunks", "").replace(",", " ").split()]
            if self.begins[:1] != [piece.first_bar]:
                raise GiustoError(f"the first chunk begins in bar {piece.first_bar}", code="bars")
            stretches(self.begins, piece.last_bar)
        except GiustoError as error:
            self.add_error("chunks", f"{str(error)[0].upper()}{str(error)[1:]}.")
        except ValueError:
            self.add_error("chunks", "Numbers of bars, please, such as 1, 5, 9.")
        return words

    def changed(self) -> dict[str, Any]:
        """Return the columns that the words set."""
        return {name: self.cleaned_data[name] for name in self.Meta.fields} | {"begins": self.begins}


class MarkForm(forms.ModelForm):
    """A place that is marked by hand."""

    class Meta:
        model = Mark
        fields = ["bar", "beat", "sort", "note"]


class SpotForm(forms.Form):
    """Bars that become an exercise."""

    first = forms.IntegerField(label="From bar", min_value=0, max_value=MOST_BARS)
    last = forms.IntegerField(label="to", min_value=0, max_value=MOST_BARS)


class FoundForm(forms.Form):
    """A tempo that was found."""

    bpm = forms.FloatField(validators=TEMPO)
