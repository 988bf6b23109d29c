"""The queue in the database: its lanes, whether some work waits there already, and what its workers' deaths cost."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db.models import QuerySet
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

# Lanes: what is played just now; what a page waits for; what takes long, a lane that one worker alone looks at.
NOW, DEFAULT, LONG = "now", "default", "long"
LANES = (NOW, DEFAULT, LONG)
MOST_DEATHS = 3  # ours: what killed so many workers kills the next one too
DIED, LOST = "died", "lost"  # with its worker; when the database went away, which is nobody's fault
KEPT = timedelta(days=1)  # done work; its outcome stands where it belongs


def is_in_line(task: Any, *arguments: Any) -> bool:
    """Return whether a task waits with these arguments, so that some worker comes to it by itself."""
    return _of(task, *arguments).filter(status=TaskResultStatus.READY).exists()


def deaths(task: Any, *arguments: Any) -> int:
    """Return how many workers died at a task with these arguments, lately."""
    return _of(task, *arguments).filter(status=TaskResultStatus.FAILED, exception_class_path=DIED).count()


def bury(worker: str, why: str = DIED) -> int:
    """Mark as failed what a worker of this name was at when it died; return how many tasks that were."""
    left = DBTaskResult.objects.running().filter(worker_ids__contains=[worker])
    return left.update(status=TaskResultStatus.FAILED, finished_at=timezone.now(), exception_class_path=why)


def prune() -> int:
    """Forget tasks that were done a while ago; return how many."""
    done = DBTaskResult.objects.filter(finished_at__lt=timezone.now() - KEPT)
    return done.exclude(status__in=(TaskResultStatus.READY, TaskResultStatus.RUNNING)).delete()[0]


def _of(task: Any, *arguments: Any) -> QuerySet[DBTaskResult]:
    return DBTaskResult.objects.filter(task_path=task.module_path, args_kwargs__args=[*arguments])
