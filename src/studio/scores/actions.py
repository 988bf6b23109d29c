"""A score's file taken in and put in line; put in line anew where its worker died."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from giusto.drill.passage.reader import MAX_BYTES
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.locks import SCORE, alone
from studio.queue import is_in_line
from studio.scores.models import ScoreFile
from studio.scores.policies import may_bring
from studio.scores.tasks import read

KEPT = timedelta(days=1)  # ours: what was made of a score leads nowhere new after that


@transaction.atomic
def take_in(*, player: Player, file: UploadedFile, words: dict[str, Any], maker: str, back: str) -> ScoreFile:
    """Keep a score's file until it is read, and have that done.

    Parameters
    ----------
    words : dict
        What is wanted of it, as JSON takes it.
    maker : str
        Dotted path of a function ``(player, content, name, words) -> (address, what to tell)``, which raises
        ``GiustoError`` or ``ValueError`` with a text for the player.
    back : str
        Address of the page where another file can be chosen.
    """
    require(may_bring(player))
    ScoreFile.objects.of(player).filter(made_at__lt=timezone.now() - KEPT).delete()
    content = file.read(MAX_BYTES + 1)  # one more than allowed, so that the reader refuses it
    score = ScoreFile.objects.create(
        player=player, name=str(file.name)[:120], content=content, words=words, maker=maker, back=back
    )
    read.enqueue(str(score.pk))
    return score


def read_again() -> int:
    """Put scores in line anew whose worker, server or database died; return how many."""
    found = 0
    for score in ScoreFile.objects.under_way().defer("content"):
        with alone(SCORE, score.pk.int) as free:
            if free and not is_in_line(read, str(score.pk)):
                read.enqueue(str(score.pk))
                found += 1
    return found
