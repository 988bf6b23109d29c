"""Scores read by the worker, as their player sees it."""

from __future__ import annotations

from contextlib import ExitStack
from typing import Any
from unittest.mock import patch

from giusto.drill.passage import read_score
from studio.scores.models import ScoreFile
from studio.scores.tasks import read


def read_all(*, apart: bool = False) -> None:
    """Read what waits, as the worker does; in this process, unless it is about that: a new one takes two seconds."""
    with ExitStack() as here:
        for room in () if apart else ("pieces", "drills"):
            here.enter_context(patch(f"studio.{room}.scores.read_score_apart", read_score))
        for score in ScoreFile.objects.under_way():
            read.call(str(score.pk))


def read_and_shown(client: Any, answer: Any) -> Any:
    """Return the page that a score leads to once the worker has read it; an answer that leads nowhere as it is."""
    if answer.status_code != 302:
        return answer
    waits = client.get(answer.url)
    assert "is being read" in waits.content.decode(), waits.content
    read_all()
    return client.get(answer.url, follow=True)
