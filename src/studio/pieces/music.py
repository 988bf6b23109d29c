"""The bars of a piece as drills: from its score, or in even notes where it has none."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from math import ceil
from typing import Any

from giusto.drill import Drill, validate
from giusto.drill.file import LOWEST_BPM, MOST_CYCLES
from giusto.drill.passage import Bar, ScorePart, chosen_bars, passage_drill
from giusto.drill.passage.bars import bar_from
from giusto.errors import GiustoError
from giusto.practice.clean import LIMITS
from giusto.practice.ladder import Ladder, ladder_of
from studio.pieces.models import Piece, Stretch

FEWEST_ROUNDS = 3  # common practice: each pattern three times
LEAST_BEATS = 32  # ours: less shows little of anyone's time
STEP_BPM = 4  # common practice: by 2 to 4
HANDS = {"left": "lower", "right": "upper", "together": "", "": ""}  # of a keyboard or mallets


@dataclass(frozen=True, slots=True)
class Passage:
    """A stretch as a drill.

    Attributes
    ----------
    drill : Drill
        At the piece's goal.
    ratio : float
        Beats of the drill to one of the piece's.
    bars : int
        That it plays before it begins again.
    beats : tuple of int
        Of each bar, where all of them are one cycle of the drill; else empty.
    """

    drill: Drill
    ratio: float
    bars: int
    beats: tuple[int, ...]

    @property
    def rounds(self) -> int:
        """How often a take goes through it."""
        return self.drill.cycles if self.beats else self.drill.cycles // self.bars


def kept_music(part: ScorePart) -> dict[str, Any]:
    """Return the bars of a part as a piece keeps them."""
    return {"part": part.name, "hands": {hand: [bar.plain() for bar in bars] for hand, bars in part.hands.items()}}


def bars_of(music: Mapping[str, Any] | None, hand: str = "") -> list[Bar]:
    """Return the bars that a piece keeps of a hand."""
    return [bar_from(plain) for plain in music["hands"].get(hand, music["hands"][""])] if music else []


def plays(piece: Piece, stretch: Stretch, hand: str) -> bool:
    """Return whether a hand has a note anywhere in the bars of a stretch."""
    bars = chosen_bars(bars_of(piece.music, HANDS[hand]), f"{stretch.first_bar}-{stretch.last_bar}")
    return any(bar.onsets for bar in bars)


def passage_of(piece: Piece, stretch: Stretch, hand: str = "") -> Passage:
    """Return the drill of a stretch, for one hand or both.

    Raises
    ------
    GiustoError
        Where its bars can't be a drill; with the bar.
    """
    name = f"{piece.name}, {stretch.bars_name}{f', {hand} hand' if hand in ('left', 'right') else ''}"[:120]
    if piece.music:
        asked = f"{stretch.first_bar}-{stretch.last_bar}"
        bars = chosen_bars(bars_of(piece.music, HANDS[hand]), asked)
        quarters = piece.goal_bpm * float(bars[0].beat / Fraction(1, 4))
        made = passage_drill(bars, quarters_a_minute=quarters, name=name)
        count = len(bars)
    else:
        count = stretch.last_bar - stretch.first_bar + 1
        made = _even(piece, count, name)
    is_one_cycle = made.cycles == 1 and count > 1
    beats = made.cycle.grouping if is_one_cycle else ()
    drill = _practised(made, piece.click, 1 if is_one_cycle else count)
    return Passage(drill, ratio_of(piece, made), count, beats)


def ladder_for(piece: Piece, passage: Passage, start_bpm: float) -> Ladder:
    """Return the ladder of a passage, from a tempo of the piece up to its goal: three clean in a row."""
    to = round(passage.drill.tempo.bpm, 3)
    start = round(min(start_bpm, piece.goal_bpm) * passage.ratio)
    plain = passage.drill.plain()
    plain["tempo"]["bpm"] = max(min(float(start), to), float(LOWEST_BPM))
    vary = {"what": "tempo", "from": plain["tempo"]["bpm"], "to": to, "by": round(STEP_BPM * passage.ratio, 3)}
    return ladder_of(
        {
            "giusto": "ladder/1",
            "name": passage.drill.name,
            "drill": plain,
            "vary": vary,
            "rule": {"kind": "streak", "clean": 3},
        }
    )


def spread_limit(ladder: Ladder) -> float:
    """Return the limit of a passage's spread in percent of its slot.

    A few fast notes make all slots of a passage small: the usual limit then is one of half a beat (ours).
    """
    return LIMITS.spread_percent * max(ladder.drills[0].part.grid / 2, 1.0)


def ratio_of(piece: Piece, drill: Drill) -> float:
    """Return how many beats of a drill are one of a piece's: more than one where fast notes halve its beat."""
    value = Fraction(piece.music["hands"][""][0]["beat"]) if piece.music else Fraction(1, 4)
    return float(value / Fraction(drill.tempo.beat))


def _practised(made: Drill, click: str, cycles: int) -> Drill:
    """Return a passage as it is practised: often enough to show something, with the click that was chosen."""
    plain = made.plain()
    beats = made.cycle.beats * cycles
    rounds = max(FEWEST_ROUNDS, ceil(LEAST_BEATS / beats))
    if click == Piece.Click.ALTERNATE:
        rounds += 1 + rounds % 2  # an odd number: it ends with the click, and every time alone is landed on one
        plain["clicks"]["silence"] = {"kind": "fixed", "heard": cycles, "silent": cycles}
    elif click == Piece.Click.BARS:
        starts = [1 + sum(made.cycle.grouping[:group]) for group in range(len(made.cycle.grouping))]
        plain["clicks"]["on"] = [str(start) for start in (starts if cycles == 1 else starts[:1])]
    plain["cycles"] = rounds * cycles
    if plain["cycles"] > MOST_CYCLES:
        problem = f"they are {plain['cycles']} cycles to be played, allowed are {MOST_CYCLES}"
        raise GiustoError(f"the bars are too many: {problem}", code="bars")
    return validate(plain)


def _even(piece: Piece, bars: int, name: str) -> Drill:
    return validate(
        {
            "giusto": "drill/1",
            "name": name,
            "tempo": {"bpm": piece.goal_bpm, "beat": "1/4"},
            "cycle": {"beats": piece.beats},
            "clicks": {"on": [str(beat) for beat in range(1, piece.beats + 1)]},
            "part": {"grid": piece.grid},
            "cycles": bars,
        }
    )
