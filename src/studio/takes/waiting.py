"""Takes whose sound waits to be heard: put in line, and again where their worker died."""

from __future__ import annotations

from django.db.models import Max, Min

from giusto.hearing.sound import HIGHEST_HZ
from studio.locks import TAKE, alone
from studio.queue import DEFAULT, LONG, MOST_DEATHS, deaths, is_in_line
from studio.takes.models import Take
from studio.takes.reading import give_up, read_take
from studio.takes.sources import source_of
from studio.takes.tasks import read

LONG_S = 600.0  # ours: of sound; more is heard in a lane of its own


def read_soon(take: Take) -> bool:
    """Read a take that is over: at once, or by the worker where sound waits; return whether it is read."""
    if source_of(take).waits(take):
        read_later(take)
        return False
    read_take(take.pk)
    return True


def read_later(take: Take) -> None:
    """Put a take in line to be heard and read: a long one where it holds up no other."""
    ends = take.pieces.aggregate(first=Min("frame"), last=Max("frame"))
    frames = (ends["last"] or 0) - (ends["first"] or 0)
    is_long = frames > LONG_S * (take.device.sample_rate_hz or HIGHEST_HZ)
    read.using(queue_name=LONG if is_long else DEFAULT).enqueue(str(take.pk))


def read_again() -> int:
    """Put takes in line anew whose worker, server or database died before they were read; return how many."""
    found = 0
    for take in Take.objects.ended().filter(reading=None, pieces__isnull=False).distinct():
        with alone(TAKE, take.pk.int) as free:
            if not free or is_in_line(read, str(take.pk)):
                continue
            if deaths(read, str(take.pk)) >= MOST_DEATHS:
                give_up(take.pk)
            else:
                read_later(take)
                found += 1
    return found
