"""Takes whose sound waits to be heard: put in line, and again where their worker died."""

from __future__ import annotations

from studio.locks import TAKE, alone
from studio.queue import is_in_line
from studio.takes.models import Take
from studio.takes.reading import read_take
from studio.takes.sources import source_of
from studio.takes.tasks import read


def read_soon(take: Take) -> bool:
    """Read a take that is over: at once, or by the worker where sound waits; return whether it is read."""
    if source_of(take).waits(take):
        read_later(take)
        return False
    read_take(take.pk)
    return True


def read_later(take: Take) -> None:
    """Put a take in line to be heard and read."""
    read.enqueue(str(take.pk))


def read_again() -> int:
    """Put takes in line anew whose worker, server or database died before they were read; return how many."""
    found = 0
    for take in Take.objects.ended().filter(reading=None, pieces__isnull=False).distinct():
        with alone(TAKE, take.pk.int) as free:
            if free and not is_in_line(read, str(take.pk)):
                read_later(take)
                found += 1
    return found
