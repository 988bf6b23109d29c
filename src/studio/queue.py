"""The queue in the database: whether some work waits there already."""

from __future__ import annotations

from typing import Any

from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult


def is_in_line(task: Any, *arguments: Any) -> bool:
    """Return whether a task waits with these arguments, so that some worker comes to it by itself."""
    waiting = DBTaskResult.objects.filter(task_path=task.module_path, status=TaskResultStatus.READY)
    return waiting.filter(args_kwargs__args=[*arguments]).exists()
