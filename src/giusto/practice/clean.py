"""Whether a take is clean, by its reading and by limits; the player's word has the last say of wrong notes."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from scipy.special import chdtrc

from giusto.errors import GiustoError
from giusto.figures.held import returns_of_take
from giusto.figures.silence import held_limit_ms
from giusto.reading import Reading
from giusto.returns.drift import NONE, Returns, drift_of, joined
from giusto.returns.held import held_chances
from giusto.schedule import Schedule
from giusto.tempo import slot_ms

FAR_INSIDE = 0.5  # common practice: bigger steps where it is easy; ours: within half of each limit
CLEAN_FROM = 0.5  # by the contract of advice/2: a take is called clean from this chance on
OPEN_CHANCES = (0.2, 0.8)  # by the contract as well: between these, and
OPEN_SD = 0.02  # of a beat: where returns are read no better than that, one take tells little
INDEPENDENT_SHARE = 1 / 3  # ours: of the notes with a click, as many as independent ones would say the same
Told = Literal["clean", "not-clean", "open"]


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
    place_ms : float or None
        How far the player's place may lie from the click, where that is asked for and the delay is known.
    """

    spread_percent: float = 4.0
    missed_percent: float = 5.0
    fused_cycles: int | None = None
    place_ms: float | None = None


LIMITS = Limits()


@dataclass(frozen=True, slots=True)
class Margins:
    """What a take shows of what is limited.

    Attributes
    ----------
    silences, held, unreadable : int
        How many silences it has, how many of them are called held, and how many can't be read.
    return_share : float or None
        Farthest end of the ranges of its returns, as a share of what counts as held; None without one.
    spread_percent, missed_percent : float or None
        As in ``Limits``; None where the reading doesn't say.
    fused_cycles : float
        Cycles running in which note and click sounded as one.
    chance : float or None
        That all silences were held, by this take and the player's earlier ones; None where one can't be read, or
        where there are none.
    return_sd : float or None
        Standard error of its returns, in beats, as their mean square has it.
    place_ms : float or None
    notes : int
        Those with a click, which tell spread and place.
    """

    silences: int
    held: int
    unreadable: int
    return_share: float | None
    spread_percent: float | None
    missed_percent: float | None
    fused_cycles: float = 0.0
    chance: float | None = None
    return_sd: float | None = None
    place_ms: float | None = None
    notes: int = 0

    def plain(self) -> dict[str, Any]:
        """Return them as what JSON takes."""
        return asdict(self)


@dataclass(frozen=True, slots=True)
class Cleanness:
    """How likely a take is clean, and what is told of it; None where its reading can't say."""

    chance: float | None
    told: Told | None

    @property
    def is_clean(self) -> bool | None:
        """Whether it is told to be; None where it is open, or can't be said."""
        return None if self.told in (None, "open") else self.told == "clean"


def margins(schedule: Schedule, reading: Reading, *, before: Returns = NONE) -> Margins:
    """Return what a take shows of what is limited.

    Parameters
    ----------
    schedule : Schedule
    reading : Reading
    before : Returns
        Of the player's earlier takes near the tempo: what is known of their clock.
    """
    drill = schedule.drill
    shares = [
        max(-back[0], back[1]) / held_limit_ms(schedule.bpm_in(span))
        for span, silence in zip(schedule.silences, reading.silences, strict=False)
        if (back := silence.return_ci95_ms)
    ]
    outcomes = [silence.outcome for silence in reading.silences]
    asked, together = reading.onsets.expected, reading.together
    returns = returns_of_take(reading.silences)
    is_told = bool(outcomes) and returns.beats.size == len(outcomes)
    return Margins(
        silences=len(outcomes),
        held=outcomes.count("held"),
        unreadable=outcomes.count("unreadable"),
        return_share=round(max(shares), 4) if shares else None,
        spread_percent=_percent(reading.heard.sd_ms, slot_ms(drill.tempo.bpm, drill.part.grid)),
        missed_percent=_percent(reading.onsets.missed, asked) if asked else None,
        fused_cycles=round(together.longest / max(_notes_with_click(schedule), 1), 3) if together else 0.0,
        chance=round(held_chances(drift_of(joined(before, returns)), returns).all, 4) if is_told else None,
        return_sd=round(float(np.sqrt(np.mean(returns.sd_beats**2))), 5) if returns.beats.size else None,
        place_ms=reading.heard.mean_error_ms,
        notes=reading.heard.n,
    )


def cleanness(found: Margins, limits: Limits = LIMITS) -> Cleanness:
    """Return how likely a take is clean.

    Notes
    -----
    With silences, the chance that all true returns lie within 5 % of a beat; where returns are read so badly that one
    take tells little, it is open. Without, the chance that the spread keeps its limit, by χ² of as many notes as
    independent ones would say the same, and none where too many notes were missed. Where note and click are to sound
    as one for so many cycles running, or the place is to lie near the click, none where they don't.
    """
    if limits.fused_cycles and found.fused_cycles < limits.fused_cycles:
        return Cleanness(0.0, "not-clean")
    if limits.place_ms is not None and found.place_ms is not None and abs(found.place_ms) > limits.place_ms:
        return Cleanness(0.0, "not-clean")
    chance = found.chance if found.silences else _spread_chance(found, limits)
    if chance is None:
        return _as_counted(found, limits)
    low, high = OPEN_CHANCES
    if (found.return_sd or 0.0) > OPEN_SD and low <= chance <= high:
        return Cleanness(chance, "open")
    return Cleanness(chance, "clean" if chance >= CLEAN_FROM else "not-clean")


def is_clean(found: Margins, limits: Limits = LIMITS) -> bool | None:
    """Return whether a take is told to be clean; None where it is open, or its reading can't say."""
    return cleanness(found, limits).is_clean


def is_easy(found: Margins, limits: Limits = LIMITS) -> bool:
    """Return whether a take lies far inside the limits: the whole range within half of them."""
    if is_clean(found, limits) is not True:
        return False
    if found.silences:
        return (found.return_share or 0.0) <= FAR_INSIDE
    within = [
        value is not None and value <= FAR_INSIDE * limit
        for value, limit in (
            (found.spread_percent, limits.spread_percent),
            (found.missed_percent, limits.missed_percent),
        )
    ]
    return all(within)


def in_the_end(by_reading: bool | None, *, is_whole: bool, said: bool | None) -> bool | None:
    """Return whether a take counts as clean in the end; None where it is open, or its player is still to be asked.

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


def _spread_chance(found: Margins, limits: Limits) -> float | None:
    """Return the chance that the true spread keeps its limit; 0 where too many notes were missed."""
    if found.spread_percent is None or found.missed_percent is None or not found.notes:
        return None
    if found.missed_percent > limits.missed_percent:
        return 0.0
    free = max(INDEPENDENT_SHARE * found.notes - 1, 1.0)
    return round(float(chdtrc(free, free * (found.spread_percent / limits.spread_percent) ** 2)), 4)


def _as_counted(found: Margins, limits: Limits) -> Cleanness:
    """Return what words and figures alone tell, where no chance can be had: one silence not held is enough."""
    if found.silences:
        if found.held + found.unreadable < found.silences:
            return Cleanness(None, "not-clean")
        return Cleanness(None, None if found.unreadable else "clean")
    if found.spread_percent is None or found.missed_percent is None:
        return Cleanness(None, None)
    within = found.spread_percent <= limits.spread_percent and found.missed_percent <= limits.missed_percent
    return Cleanness(None, "clean" if within else "not-clean")


def _percent(value: float | None, of: float) -> float | None:
    return None if value is None else round(100 * value / of, 3)


def _notes_with_click(schedule: Schedule) -> int:
    """Return how many places of a cycle have both a click and an asked note."""
    body = (schedule.clicks.cycle >= 1) & (schedule.clicks.cycle <= schedule.drill.cycles)
    return int(np.intersect1d(schedule.clicks.offset[body], schedule.playable.offset).size)
