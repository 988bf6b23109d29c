"""When a pause is due: by the time played, sooner where it was loud."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

REST = timedelta(minutes=5)  # ours: a gap that counts as a pause
MOST_PLAYED, MOST_LOUD = timedelta(minutes=25), timedelta(minutes=15)  # ours, on the careful side


@dataclass(frozen=True, slots=True)
class TakeLoad:
    """A take as hands and ears felt it: from when to when, and whether it was loud."""

    start: datetime
    end: datetime
    is_loud: bool = False


@dataclass(frozen=True, slots=True)
class Pause:
    """A pause that is due: how long was played without one, and whether loudness made it due."""

    minutes: int
    is_loud: bool


def pause_due(takes: Sequence[TakeLoad], now: datetime) -> Pause | None:
    """Return the pause that is due, or None.

    Parameters
    ----------
    takes : sequence of TakeLoad
        Of the day, ascending.
    now : datetime

    Notes
    -----
    Common practice: rest between long repetitions, and long loud sessions harm hearing; the numbers are ours. Only what
    was played since the last gap of five minutes counts; waiting between takes does not tire.
    """
    since: list[TakeLoad] = []
    for take in takes:
        if since and take.start - since[-1].end >= REST:
            since = []
        since.append(take)
    if not since or now - since[-1].end >= REST:
        return None
    played = sum((take.end - take.start for take in since), timedelta())
    loud = sum((take.end - take.start for take in since if take.is_loud), timedelta())
    if played < MOST_PLAYED and loud < MOST_LOUD:
        return None
    return Pause(round(played / timedelta(minutes=1)), is_loud=loud >= MOST_LOUD)
