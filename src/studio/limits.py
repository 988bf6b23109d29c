"""No request is long: one that is ends with a word, and is counted; a disk without room is told in a sentence."""

from __future__ import annotations

import ctypes
import logging
import os
import signal
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from typing import Any, TypeVar

from django.http import Http404, HttpRequest, HttpResponse
from django.urls import resolve

from studio.memory import resident_mb
from studio.refusals import refusal
from studio.room import is_full

LONGEST_S = 20.0  # ours
DEAF_S = 20.0  # more: after that its whole process ends, since nothing in Python's reach can end it
LOOK_S = 0.5
BLOCK = 1 << 20
RENEWED_MB = 280  # ours
TOO_LONG = (
    "This took longer than {:.0f} s and was ended, so that it holds up nobody. Nothing was half done, and what you"
    " played is kept. The log says which page it was."
)
FULL = (
    "The disk of the machine that Giusto runs on is full. Nothing was half done, and what you played stays in this"
    " browser until there is room."
)
log = logging.getLogger(__name__)
V = TypeVar("V", bound=Callable[..., Any])


class TooLongError(BaseException):
    """A request takes too long; no ``except Exception`` on its way stops it."""


@dataclass
class _Request:
    path: str
    began: float = field(default_factory=time.monotonic)
    is_ended: bool = False


class RequestsUnderWay:
    """The requests under way in this process, each with its thread; a thread beside them ends what is too long."""

    def __init__(self) -> None:
        self.requests: dict[int, _Request] = {}
        self.ended = 0
        self.lock = threading.Lock()
        self.is_renewed = False
        self.watching = 0  # the process that has a thread for it: one that was forked has none

    @contextmanager
    def on(self, path: str) -> Iterator[None]:
        """Look on while a request is answered."""
        self._watch()
        mine, thread = _Request(path), threading.get_ident()
        with self.lock:
            self.requests[thread] = mine
        try:
            yield
        finally:
            try:
                with self.lock:
                    self.requests.pop(thread, None)
            finally:  # also where what ends it comes in just there: left behind, it would end the process
                self.requests.pop(thread, None)
            if mine.is_ended:
                time.sleep(0.01)  # what ends it, where it is still on its way, ends it here and not the next request

    def _watch(self) -> None:
        if self.watching != os.getpid():
            self.watching = os.getpid()
            threading.Thread(target=self._look_on, name="limits", daemon=True).start()

    def _look_on(self) -> None:
        while True:
            time.sleep(LOOK_S)
            self.look()
            self.renew()

    def look(self) -> None:
        """End what takes too long, now."""
        now = time.monotonic()
        with self.lock:
            for thread, request in list(self.requests.items()):
                took = now - request.began
                if took > LONGEST_S and not request.is_ended:
                    request.is_ended, self.ended = True, self.ended + 1
                    log.error("a request took over %.0f s and is ended: %s", LONGEST_S, request.path[:200])
                    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), ctypes.py_object(TooLongError))
                elif took > LONGEST_S + DEAF_S:
                    log.critical("a request can't be ended: its process ends: %s", request.path[:200])
                    os.kill(os.getpid(), signal.SIGKILL)  # gunicorn starts another

    def renew(self) -> None:
        """Have this process begin anew where it came to hold too much: it ends after the requests under way."""
        if "GIUSTO_START" in os.environ and not self.is_renewed and resident_mb() > RENEWED_MB:
            self.is_renewed = True
            log.info("a web worker with %.0f MB of memory is renewed", resident_mb())
            os.kill(os.getpid(), signal.SIGTERM)  # gunicorn's word for that; it starts another


LIMITS = RequestsUnderWay()


def takes_its_time(view: V) -> V:
    """Mark a view that a large file comes in or goes out through."""
    view.takes_its_time = True  # type: ignore[attr-defined]
    return view


def takes_time(request: HttpRequest) -> bool:
    """Whether the view of a request is marked so: asked before anything of its body is read."""
    try:
        return getattr(resolve(request.path_info).func, "takes_its_time", False)
    except Http404:
        return False


class LimitsMiddleware:
    """Answer within a limit, and in one sentence where there is no room left."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, or say that it took too long; those take their time that say so of themselves."""
        if takes_time(request):
            return self.get_response(request)
        try:
            with LIMITS.on(request.path):
                return self.get_response(request)
        except TooLongError:
            return refusal(request, status=503, title="That took too long.", text=TOO_LONG.format(LONGEST_S))

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Say that the disk is full, where that is what failed."""
        return full_disk(request, error) if is_full(error) else None


def full_disk(request: HttpRequest, error: Exception) -> HttpResponse:
    """Say that the disk is full; what is still being sent is taken in and dropped, else nobody reads the answer."""
    log.error("the disk is full: %s: %s", request.path[:200], error)
    with suppress(OSError):
        while request.read(BLOCK):
            pass
    return refusal(request, status=507, title="The disk is full.", text=FULL)
