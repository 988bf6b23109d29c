"""Work of takes that waits in the database for a worker (``./giusto manage work``): whatever listens to sound."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django_tasks import task

from studio.locks import TAKE, alone
from studio.queue import NOW
from studio.takes.last_silence import hear_silence
from studio.takes.models import Reading
from studio.takes.reading import hear_and_read


@task()
def read(take_id: str) -> None:
    """Hear a take that is over, and read it; done twice, it is done once."""
    number = UUID(take_id)
    with alone(TAKE, number.int) as mine:
        if mine and not Reading.objects.filter(take_id=number).exists():
            hear_and_read(number)


@task(queue_name=NOW)
def tell_silence(take_id: str, number: int) -> dict[str, Any] | None:
    """Hear the sound about one silence of a take that is still played; return its reading, as JSON takes it."""
    return hear_silence(UUID(take_id), number)
