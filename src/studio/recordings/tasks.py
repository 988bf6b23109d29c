"""Recordings that wait in the database for a worker (``./giusto manage work``)."""

from __future__ import annotations

from django_tasks import task

from studio.queue import LONG, deaths
from studio.recordings.work import hear_upload


@task(queue_name=LONG)
def hear(upload_id: str) -> None:
    """Hear a recording and make a take of it."""
    hear_upload(upload_id, died=deaths(hear, upload_id))
