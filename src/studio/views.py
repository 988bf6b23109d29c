"""The way in, and signs of life: of this process, and of all that it needs."""

import logging
import os
import time
from collections.abc import Callable
from functools import lru_cache

from django.contrib.auth.decorators import login_not_required
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe
from django_tasks_db.models import DBTaskResult

from studio.limits import LIMITS

log = logging.getLogger(__name__)


@require_safe
def home(request: HttpRequest) -> HttpResponse:
    """Lead to today, whether anything is planned for it or not."""
    return redirect("plan:today")


@login_not_required
@require_safe
@ensure_csrf_cookie
def alive(request: HttpRequest) -> HttpResponse:
    """Answer that this process works, whatever the database does, with a new cookie for a browser that lost its own."""
    return JsonResponse({"alive": True, "ended": LIMITS.ended, "of": os.environ.get("GIUSTO_START", "")})


@login_not_required
@require_safe
def ready(request: HttpRequest) -> JsonResponse:
    """Say whether all that a page needs is there: database, storage, queue; 503 with what is not.

    Whoever asks again within a few seconds is told the same: nobody keeps the storage busy by asking.
    """
    found = _ready(int(time.monotonic() / ASKED_EVERY_S))
    return JsonResponse(found, status=200 if set(found.values()) == {WELL} else 503)


@lru_cache(maxsize=1)
def _ready(_: int) -> dict[str, str]:
    return {what: _asked(question) for what, question in NEEDED.items()}


def _asked(question: Callable[[], object]) -> str:
    try:
        question()
    except Exception as error:  # a database, a disk, an object store: each has errors of its own
        log.warning("not ready: %s", error)
        return type(error).__name__
    return WELL


def _database() -> None:
    with connection.cursor() as cursor:
        cursor.execute("select 1")


def _storage() -> None:
    default_storage.delete(default_storage.save("ready/word", ContentFile(b"ready")))


def _queue() -> None:
    DBTaskResult.objects.ready().exists()


WELL, ASKED_EVERY_S = "well", 3.0
NEEDED: dict[str, Callable[[], object]] = {"database": _database, "storage": _storage, "queue": _queue}
