"""A passage of a score as a drill: chosen by part, bars and hand, and seen on the sheet before anything is kept."""

from __future__ import annotations

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from giusto.drill.passage import Score, ScorePart, chosen_bars, passage_drill, read_score_apart
from giusto.errors import GiustoError
from studio.accounts.models import Player
from studio.accounts.requests import PlayerRequest
from studio.drills.sentence.codec import query, words_of
from studio.scores.actions import take_in

MAKER = "studio.drills.scores.make"
HANDS = {"": "both hands", "upper": "the upper hand", "lower": "the lower hand"}


class ScoreForm(forms.Form):
    """A score's file, and what of it."""

    file = forms.FileField(label="The score", error_messages={"required": "Choose a file first."})
    part = forms.CharField(label="Part, by name or number", required=False, max_length=60)
    bars = forms.CharField(label="Bars, such as 5-8", required=False, max_length=20)
    hand = forms.ChoiceField(label="Hand", required=False, choices=list(HANDS.items()))


def make(player: Player, content: bytes, name: str, words: dict[str, str]) -> tuple[str, str]:
    """Make a drill of a passage of a score; return the address of its sentence, and which notes were left out.

    Raises
    ------
    GiustoError
        Where the score can't be read, or has no such passage.
    """
    score = read_score_apart(content)
    part = score.part(words["part"].strip() or None)
    if words["hand"] not in part.hands:
        raise GiustoError(f"“{part.name}” is on one staff, so that it has no hands apart", code="hand")
    bars = chosen_bars(part.hands[words["hand"]], words["bars"].strip() or None)
    made = passage_drill(bars, quarters_a_minute=score.quarters_a_minute, name=_name(score, part, words))
    grace = sum(bar.grace for bar in bars)
    told = f"{grace} grace note{'' if grace == 1 else 's'} left out." if grace else ""
    return f"{reverse('drills:set')}?{query({**words_of(made), 'drill': ''})}", told


@require_http_methods(["GET", "HEAD", "POST"])
def from_score(request: PlayerRequest) -> HttpResponse:
    """Take in a score, to show a passage of it in the sentence; or say what is wrong."""
    form = ScoreForm(request.POST or None, request.FILES or None)
    if form.is_bound and form.is_valid():
        words = dict(form.cleaned_data)
        file = words.pop("file")
        score = take_in(player=request.user, file=file, words=words, maker=MAKER, back=reverse("drills:score"))
        return redirect(score)
    return render(request, "drills/score.html", {"form": form}, status=422 if form.errors else 200)


def _name(score: Score, part: ScorePart, words: dict[str, str]) -> str:
    bars = f"bars {words['bars'].strip()}" if words["bars"].strip() else ""
    hand = HANDS[words["hand"]] if words["hand"] else ""
    return ", ".join(filter(None, (score.title or part.name, bars, hand)))
