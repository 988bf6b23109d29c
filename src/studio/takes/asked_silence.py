"""A silence that is heard by the worker while its take is played: asked for, and answered once it is there."""

from __future__ import annotations

import numpy as np
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult
from pydantic import TypeAdapter

from giusto.figures.silence import SilenceReading
from studio.takes.last_silence import ToldSilence
from studio.takes.models import Take
from studio.takes.tasks import tell_silence
from studio.takes.thread import thread_of

SILENCE = TypeAdapter(SilenceReading)


def ask(take: Take, number: int) -> None:
    """Have a silence heard; asked twice, it is heard once."""
    if not _asked(take, number):
        tell_silence.enqueue(str(take.pk), number)


def answer(take: Take, number: int) -> tuple[bool, ToldSilence | None]:
    """Return whether a silence that was asked for is still to be heard, and what it came to."""
    asked = _asked(take, number)
    if not asked:
        return False, None
    result = asked[0]
    if result.status != TaskResultStatus.SUCCESSFUL:
        return result.status in (TaskResultStatus.READY, TaskResultStatus.RUNNING), None
    found = result.return_value
    if found is None:
        return False, None
    silence = SILENCE.validate_python(found["silence"])
    return False, ToldSilence(silence, thread_of(found["thread"]), np.array(found["onset_s"], dtype=np.float64))


def _asked(take: Take, number: int) -> list[DBTaskResult]:
    path = tell_silence.module_path
    arguments = [str(take.pk), number]
    return list(DBTaskResult.objects.filter(task_path=path, args_kwargs__args=arguments).order_by("-enqueued_at")[:1])
