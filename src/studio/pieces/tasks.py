"""Notation of the bars of a piece: engraved behind the page that shows them (``./giusto manage work``)."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from django_tasks import task

from giusto.drill.passage.engraving import engrave_apart
from giusto.errors import GiustoError
from studio.pieces.models import Stretch
from studio.queue import MOST_DEATHS, NOW, deaths, is_in_line


@task(queue_name=NOW)
def engrave(stretch_id: int) -> None:
    """Engrave the bars of a stretch once; what can't be engraved is not tried again."""
    stretch = Stretch.objects.filter(pk=stretch_id, engraved__isnull=True).select_related("piece").first()
    if stretch is None:
        return
    piece = stretch.piece
    found: dict[str, Any] = {}
    if piece.score and deaths(engrave, stretch_id) < MOST_DEATHS:
        try:
            part = piece.music["part"] if piece.music else ""
            found = asdict(engrave_apart(bytes(piece.score), part, stretch.first_bar, stretch.last_bar))
        except GiustoError:
            pass  # its bars stand on the page as posts and ticks, as those of a piece without a score
    Stretch.objects.filter(pk=stretch_id).update(engraved=found)


def engrave_soon(stretch: Stretch) -> None:
    """Have a stretch engraved, unless that is in line."""
    if not is_in_line(engrave, stretch.pk):
        engrave.enqueue(stretch.pk)
