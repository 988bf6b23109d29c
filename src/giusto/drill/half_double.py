"""The click half or twice as fast, while the music keeps its speed.

A beat of twice the length, half as many of them in a cycle, and twice the slots to a beat: every note
stays where it was in time, and a click on every beat comes half as often.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

from giusto.drill import position
from giusto.drill.file import MOST_SLOTS, STRAIGHT, Drill, validate
from giusto.errors import GiustoError


def halved(drill: Drill) -> Drill:
    """Return the drill with beats of twice the length, at half the number a minute.

    Parameters
    ----------
    drill : Drill

    Returns
    -------
    Drill
        The same notes at the same times. Clicks on every beat stay on every (longer) beat; others
        keep their times.

    Raises
    ------
    GiustoError
        ``feel``, where beats, slots or clicks can't be halved; the core's own faults where the
        result breaks a rule of ``drill/1``.
    """
    if drill.cycle.beats % 2:
        raise GiustoError(f"a cycle of {drill.cycle.beats} beats can't be halved", code="feel")
    if max(drill.part.grid, drill.clicks.subdivide if drill.clicks.subdivide > 1 else 0) * 2 > MOST_SLOTS:
        raise GiustoError(f"a beat twice as long would have more than {MOST_SLOTS} parts", code="feel")
    plain = _scaled(drill, Fraction(1, 2))
    plain["part"]["grid"] = drill.part.grid * 2
    plain["clicks"]["subdivide"] = drill.clicks.subdivide * 2 if drill.clicks.subdivide > 1 else 1
    return validate(plain)


def doubled(drill: Drill) -> Drill:
    """Return the drill with beats of half the length, at twice the number a minute.

    The reverse of ``halved``; where a beat has an odd number of slots, the part names its places.

    Raises
    ------
    GiustoError
        As ``halved``.
    """
    if drill.clicks.subdivide > 1 and drill.clicks.subdivide % 2:
        raise GiustoError(f"{drill.clicks.subdivide} quiet clicks a beat can't be halved", code="feel")
    plain = _scaled(drill, Fraction(2))
    plain["clicks"]["subdivide"] = max(drill.clicks.subdivide // 2, 1)
    if drill.part.grid % 2 == 0:
        plain["part"]["grid"] = drill.part.grid // 2
    elif drill.part.play == "grid":
        slots = range(drill.cycle.beats * drill.part.grid)
        plain["part"]["play"] = [position.write(Fraction(2 * slot, drill.part.grid)) for slot in slots]
    return validate(plain)


def is_every_beat(drill: Drill) -> bool:
    """Whether the click has a place on every beat and on nothing else."""
    return list(drill.clicks.on) == [str(beat + 1) for beat in range(drill.cycle.beats)]


def _scaled(drill: Drill, factor: Fraction) -> dict[str, Any]:
    """Return the plain drill with ``factor`` times the beats; slots a beat are left to the caller."""
    if drill.clicks.swing != STRAIGHT:
        raise GiustoError(
            "a click that swings can't be halved or doubled: its halves would be other notes", code="feel"
        )
    plain = drill.plain()
    beats = int(drill.cycle.beats * factor)
    groups = [size * factor for size in drill.cycle.grouping]
    kept = all(size.denominator == 1 for size in groups)
    plain["cycle"] = {"beats": beats, "groups": [int(size) for size in groups] if kept else None}
    plain["tempo"] |= {"bpm": float(drill.tempo.bpm * factor), "beat": _note_value(Fraction(drill.tempo.beat) / factor)}
    if drill.tempo.steps:
        steps = plain["tempo"]["steps"]
        steps["to"] *= float(factor)
        if steps["by"] == "notch":
            raise GiustoError("a tempo that goes by notches of the scale can't be halved or doubled", code="feel")
        steps["by"] *= float(factor)

    def moved(places: list[str]) -> list[str]:
        return [position.write(position.parse(text) * factor) for text in places]

    clicks = plain["clicks"]
    every = [str(beat + 1) for beat in range(beats)]
    clicks["on"] = every if is_every_beat(drill) else moved(clicks["on"])
    if clicks["shift"]:
        clicks["shift"]["by"] = str(Fraction(clicks["shift"]["by"]) * factor)
    plain["part"]["play"] = _moved_play(plain["part"]["play"], moved)
    return plain


def _moved_play(play: Any, moved: Callable[[list[str]], list[str]]) -> Any:
    if isinstance(play, str):
        return play
    if isinstance(play[0], dict):
        return [{**segment, "at": moved(segment["at"])} for segment in play]
    return moved(play)


def _note_value(value: Fraction) -> str:
    return f"{value.numerator}/{value.denominator}"
