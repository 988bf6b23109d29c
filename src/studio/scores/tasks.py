"""Scores that wait in the database for a worker (``./giusto manage work``)."""

from __future__ import annotations

import logging
from uuid import UUID

from django.db import DatabaseError, transaction
from django.db.models import F
from django.utils.module_loading import import_string
from django_tasks import task

from giusto.errors import GiustoError
from studio.locks import SCORE, alone
from studio.queue import MOST_DEATHS, deaths
from studio.scores.models import ScoreFile

log = logging.getLogger(__name__)

FAILED = "Something in this file could not be worked with; the log says more."


@task()
def read(score_id: str) -> None:
    """Read a score and make of it what its page wants; done twice, it is done once."""
    number = UUID(score_id)
    with alone(SCORE, number.int) as mine:
        score = ScoreFile.objects.under_way().filter(pk=number).select_related("player").first()
        if mine and score:
            ScoreFile.objects.filter(pk=number).update(tries=F("tries") + 1)
            _read(score)


def _read(score: ScoreFile) -> None:
    try:
        if deaths(read, str(score.pk)) >= MOST_DEATHS:
            score.problem = FAILED
        else:
            with transaction.atomic():
                made = import_string(score.maker)(score.player, bytes(score.content), score.name, score.words)
                score.leads_to, score.told = made
    except DatabaseError:  # it comes back, and somebody takes the score up again
        raise
    except (GiustoError, ValueError) as error:
        score.problem = f"{str(error)[:1].upper()}{str(error)[1:].rstrip('.')}."[:400]
    except Exception:
        log.exception("score %s can't be read", score.pk)
        score.problem = FAILED
    score.content = b""
    score.save(update_fields=["leads_to", "told", "problem", "content"])
