"""Scores read by the worker, as their player sees it."""

from __future__ import annotations

from typing import Any

from studio.scores.models import ScoreFile
from studio.scores.tasks import read


def read_all() -> None:
    """Read what waits, as the worker does."""
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
