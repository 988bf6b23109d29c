"""A passage of a score as a drill: chosen by part, bars and hand, and seen on the sheet before anything is kept."""

from __future__ import annotations

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from giusto.drill import Drill
from giusto.drill.passage import Part, Score, chosen_bars, passage_drill, read_score
from giusto.drill.passage.reader import MAX_BYTES
from giusto.errors import GiustoError
from studio.accounts.requests import PlayerRequest
from studio.drills.sentence.codec import query, words_of

HANDS = {"": "both hands", "upper": "the upper hand", "lower": "the lower hand"}


class ScoreForm(forms.Form):
    """A score's file, and what of it."""

    file = forms.FileField(label="The score", error_messages={"required": "Choose a file first."})
    part = forms.CharField(label="Part, by name or number", required=False, max_length=60)
    bars = forms.CharField(label="Bars, such as 5-8", required=False, max_length=20)
    hand = forms.ChoiceField(label="Hand", required=False, choices=list(HANDS.items()))

    def drill(self) -> tuple[Drill, int]:
        """Return the drill of the passage, and how many grace notes were left out.

        Raises
        ------
        GiustoError
            Where the score can't be read, or has no such passage.
        """
        words = self.cleaned_data
        score = read_score(words["file"].read(MAX_BYTES + 1))
        part = score.part(words["part"].strip() or None)
        if words["hand"] not in part.hands:
            raise GiustoError(f"“{part.name}” is on one staff, so that it has no hands apart", code="hand")
        bars = chosen_bars(part.hands[words["hand"]], words["bars"].strip() or None)
        name = self._name(score, part)
        drill = passage_drill(bars, quarters_a_minute=score.quarters_a_minute, name=name)
        return drill, sum(bar.grace for bar in bars)

    def _name(self, score: Score, part: Part) -> str:
        words = self.cleaned_data
        bars = f"bars {words['bars'].strip()}" if words["bars"].strip() else ""
        hand = HANDS[words["hand"]] if words["hand"] else ""
        return ", ".join(filter(None, (score.title or part.name, bars, hand)))


@require_http_methods(["GET", "HEAD", "POST"])
def from_score(request: PlayerRequest) -> HttpResponse:
    """Read a passage of a score, and show it in the sentence; or say what is wrong."""
    form = ScoreForm(request.POST or None, request.FILES or None)
    if form.is_bound and form.is_valid():
        try:
            drill, grace = form.drill()
        except GiustoError as error:
            form.add_error(None, f"{str(error)[0].upper()}{str(error)[1:]}.")
        else:
            if grace:
                messages.info(request, f"{grace} grace note{'' if grace == 1 else 's'} left out.")
            return redirect(f"{reverse('drills:set')}?{query({**words_of(drill), 'drill': ''})}")
    return render(request, "drills/score.html", {"form": form}, status=422 if form.errors else 200)
