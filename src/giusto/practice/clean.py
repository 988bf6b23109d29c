"""Whether a take is clean, by its reading and by limits; the player's word has the last say of wrong notes."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from giusto.errors import GiustoError
from giusto.figures.silence import held_limit_ms
from giusto.reading import Reading
from giusto.schedule import Schedule
from giusto.tempo import slot_ms

FAR_INSIDE = 0.5  # common practice: bigger steps where it is easy; ours: within half of each limit


@dataclass(frozen=True, slots=True)
class Limits:
    """What a take must stay within; ours, adjustable.

    Attributes
    ----------
    spread_percent : float
        Spread about the player's place, of a slot; of a take without silences.
    missed_percent : float
        Asked notes not caught; of a take without silences.
    fused_cycles : int or None
        Cycles running whose notes with the click all sound as one with it, where that is asked for as
        well: a stage of a build-up.
    """

    spread_percent: float = 4.0
    missed_percent: float = 5.0
    fused_cycles: int | None = None


LIMITS = Limits()


@dataclass(frozen=True, slots=True)
class Margins:
    """What a take shows of what is limited.

    Attributes
    ----------
    silences, held, unreadable : int
        How many silences it has, how many of them were held, and how many can't be read.
    return_share : float or None
        Farthest end of the ranges of its returns, as a share of what counts as held; None without one.
    spread_percent, missed_percent : float or None
        As in ``Limits``; None where the reading doesn't say.
    fused_cycles : float
        Cycles running in which note and click sounded as one.
    """

    silences: int
    held: int
    unreadable: int
    return_share: float | None
    spread_percent: float | None
    missed_percent: float | None
    fused_cycles: float = 0.0

    def plain(self) -> dict[str, Any]:
        """Return them as what JSON takes."""
        return asdict(self)


def margins(schedule: Schedule, reading: Reading) -> Margins:
    """Return what a take shows of what is limited."""
    drill = schedule.drill
    shares = [
        max(-back[0], back[1]) / held_limit_ms(schedule.bpm_in(span))
        for span, silence in zip(schedule.silences, reading.silences, strict=False)
        if (back := silence.return_ci95_ms)
    ]
    outcomes = [silence.outcome for silence in reading.silences]
    asked, together = reading.onsets.expected, reading.together
    return Margins(
        silences=len(outcomes),
        held=outcomes.count("held"),
        unreadable=outcomes.count("unreadable"),
        return_share=round(max(shares), 4) if shares else None,
        spread_percent=_percent(reading.heard.sd_ms, slot_ms(drill.tempo.bpm, drill.part.grid)),
        missed_percent=_percent(reading.onsets.missed, asked) if asked else None,
        fused_cycles=round(together.longest / max(_notes_with_click(schedule), 1), 3) if together else 0.0,
    )


def is_clean(found: Margins, limits: Limits = LIMITS) -> bool | None:
    """Return whether a take is clean, None where its reading can't say.

    Notes
    -----
    All silences held; where a drill has none, spread and missed notes within the limits. A silence that
    can't be read leaves it open. Where note and click are to sound as one, for so many cycles running.
    """
    if limits.fused_cycles and found.fused_cycles < limits.fused_cycles:
        return False
    return _within(found, limits, 1.0)


def is_easy(found: Margins, limits: Limits = LIMITS) -> bool:
    """Return whether a take lies far inside the limits: the whole range within half of them."""
    return is_clean(found, limits) is True and _within(found, limits, FAR_INSIDE) is True


def in_the_end(by_reading: bool | None, *, is_whole: bool, said: bool | None) -> bool | None:
    """Return whether a take counts as clean in the end; None where its player is still to be asked.

    Parameters
    ----------
    by_reading : bool or None
        ``is_clean``.
    is_whole : bool
        Whether it was played to its end: what was broken off is clean only by its player's word.
    said : bool or None
        The player's word: not clean always counts, clean only where the reading can't say.

    Examples
    --------
    >>> in_the_end(True, is_whole=True, said=False), in_the_end(None, is_whole=True, said=True)
    (False, True)
    >>> in_the_end(False, is_whole=True, said=True), in_the_end(True, is_whole=False, said=None)
    (False, None)
    """
    if said is False or by_reading is False:
        return False
    return said if by_reading is None or not is_whole else True


def margins_of(plain: dict[str, Any]) -> Margins:
    """Return the margins that ``plain`` wrote.

    Raises
    ------
    GiustoError
        ``margins``, where another version wrote them.
    """
    try:
        return Margins(**plain)
    except TypeError as error:
        raise GiustoError(f"margins can't be read: {error}", code="margins") from None


def _within(found: Margins, limits: Limits, share: float) -> bool | None:
    if found.silences:
        if found.held + found.unreadable < found.silences or (share < 1 and (found.return_share or 0.0) > share):
            return False
        return None if found.unreadable else True
    if found.spread_percent is None or found.missed_percent is None:
        return None
    spread, missed = share * limits.spread_percent, share * limits.missed_percent
    return found.spread_percent <= spread and found.missed_percent <= missed


def _percent(value: float | None, of: float) -> float | None:
    return None if value is None else round(100 * value / of, 3)


def _notes_with_click(schedule: Schedule) -> int:
    """Return how many places of a cycle have both a click and an asked note."""
    body = (schedule.clicks.cycle >= 1) & (schedule.clicks.cycle <= schedule.drill.cycles)
    return int(np.intersect1d(schedule.clicks.offset[body], schedule.playable.offset).size)
