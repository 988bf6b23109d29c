"""Takes whose sound waits to be heard: put in line, and again where their worker died."""

from __future__ import annotations

from time import monotonic
from uuid import UUID

from django.db.models import Exists, Max, Min, OuterRef

from giusto.hearing.allowed import HIGHEST_HZ
from giusto.hearing.inputs import Input
from studio.locks import TAKE, alone
from studio.queue import DEFAULT, LONG, MOST_DEATHS, deaths, is_in_line
from studio.takes.models import SoundPiece, Take
from studio.takes.reading import give_up, read_take
from studio.takes.sources import source_of
from studio.takes.tasks import read

LEFT_S = 30.0  # ours: no request lasts so long
MOST_AT_ONCE = 200
SEEN: dict[UUID, float] = {}  # unread takes without sound, and when this worker first saw them so
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
    is_long = frames > LONG_S * (take.sound_rate_hz or HIGHEST_HZ)
    read.using(queue_name=LONG if is_long else DEFAULT).enqueue(str(take.pk))


def read_again() -> int:
    """Put takes in line anew whose worker, server or database died before they were read; return how many.

    A take without sound is read where its end comes in. One that is still unread a while later was left by a web server
    that was killed just then.
    """
    found = 0
    unread = Take.objects.ended().filter(reading=None)
    with_sound = Exists(SoundPiece.objects.filter(take=OuterRef("pk")))
    waiting = list(unread.annotate(has_sound=with_sound)[:MOST_AT_ONCE])
    for gone in SEEN.keys() - {take.pk for take in waiting}:
        del SEEN[gone]
    for take in waiting:
        still_comes = not take.has_sound or take.input == Input.PHONE
        if still_comes and monotonic() - SEEN.setdefault(take.pk, monotonic()) < LEFT_S:
            continue
        with alone(TAKE, take.pk.int) as free:
            if not free or is_in_line(read, str(take.pk)):
                continue
            if deaths(read, str(take.pk)) >= MOST_DEATHS:
                give_up(take.pk)
            else:
                read_later(take)
                found += 1
    return found
