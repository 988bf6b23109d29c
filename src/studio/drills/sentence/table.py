"""The words of the drill's sentence: one row a word, from which form, address, codec and faults are made.

A new field of a drill takes three places: the drill file's model, a row here, and its place in the sentence
(``_sentence.html``).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, TypeAlias

from django import forms

from giusto.drill import Drill
from giusto.drill.counting import SIXTEENTHS, beat_figure_places, beat_figures
from giusto.drill.file import (
    HIGHEST_BPM,
    LOWEST_BPM,
    MOST_BEATS,
    MOST_CYCLES,
    MOST_OUTER,
    MOST_SLOTS,
    MOST_SWING,
    STRAIGHT,
    Segment,
)
from studio.drills.draw import ANEW, is_anew
from studio.drills.sentence.fields import choice, number, text, whole_choice
from studio.drills.sentence.places import (
    FIGURE,
    click_places,
    click_word,
    click_words,
    places,
    turns,
    whole,
    written_turns,
)

Words: TypeAlias = dict[str, Any]

DROPS = {
    "no": "all the way",
    "fixed": "and drops out",
    "growing": "and drops out, longer each time",
    "random": "and drops out by chance",
}
ACCENTS = {"none": "alike", "first": "accented on beat 1", "groups": "accented on each group"}
SHIFTS = {"no": "stays in place", "moving": "moves"}
CLIMBS = {"no": "steady", "moving": "at first"}
CLIMBS_ON = {"sounding": "where it sounds", "any": "in silences too"}
UNITS = {"beat": "beat", "cycle": "bar"}
PLAYS = {"grid": "throughout", "places": "at places you mark:", "turns": "in turns:", "free": "as you like"}
PLACES = r"^[0-9+/,;\s]*$"
MOST_SEED = 2**53 - 1


@dataclass(frozen=True, slots=True)
class Word:
    """One word of the sentence.

    Attributes
    ----------
    name : str
        As in the form and in an address.
    field : callable
        Makes its form field.
    path : str
        Where it stands in the drill file; ``""`` for a word that says nothing of the drill by itself.
    plain : str
        What it says where an address leaves it out; None for a word that every address has.
    counts : (str, set of str) or None
        Beside which other word it counts, and what that must say.
    read : callable, optional
        Its text from a drill; without it, the value at its path.
    write : callable, optional
        The value at its path, from its cleaned value and all words; without it, the value itself.
    """

    name: str
    field: Callable[[], forms.Field]
    path: str = ""
    plain: str | None = None
    counts: tuple[str, frozenset[str]] | None = None
    read: Callable[[Drill], str | None] | None = None
    write: Callable[[Any, Words], Any] | None = None


def _number(label: str, **limits: Any) -> Callable[[], forms.Field]:
    return lambda: number(label, **limits)


def _cycles(label: str) -> Callable[[], forms.Field]:
    return lambda: number(label, most=MOST_CYCLES)


def when(other: str, *values: str) -> tuple[str, frozenset[str]]:
    """Return that a word counts where another says one of these."""
    return other, frozenset(values)


def _chance(drill: Drill) -> str | None:
    """Return a chance in percent, as a person would write it."""
    silence = drill.clicks.silence
    if silence is None or silence.kind != "random":
        return None
    return f"{(Decimal(str(silence.probability)) * 100).normalize():f}"


def _draw(drill: Drill) -> str | None:
    silence = drill.clicks.silence
    if silence is None or silence.kind != "random":
        return None
    return "" if is_anew(drill) else str(silence.seed)


def _groups(drill: Drill) -> str:
    whole = drill.cycle.grouping == (drill.cycle.beats,)
    return "" if whole else "+".join(str(size) for size in drill.cycle.grouping)


def _play(drill: Drill) -> str:
    """Return which word stands for the part: its own, a beat figure's, or places and turns by name."""
    play = drill.part.play
    if isinstance(play, str):
        return play
    if isinstance(play[0], Segment):
        return "turns"
    for index, figure in enumerate(beat_figures()):
        if drill.part.grid == SIXTEENTHS and list(play) == beat_figure_places(figure, beats=drill.cycle.beats):
            return f"{FIGURE}{index}"
    return "places"


def _written_play(value: str, words: Words) -> Any:
    if value == "places":
        return places(words["notes"])
    if value == "turns":
        return turns(words["turns"])
    if value.startswith(FIGURE):
        return beat_figure_places(beat_figures()[int(value.removeprefix(FIGURE))], beats=words["beats"])
    return value


def _written_on(value: str, words: Words) -> list[str]:
    return places(words["places"]) if value == "marked" else click_places(value, words["beats"])


def _written_by(value: str, words: Words) -> float | str:
    return value if value == "notch" else float(value)


COUNTS_DROPPED = when("drop", "fixed", "growing")
CLICKING = ("on", frozenset({*click_words()} - {"nowhere"}))
RANDOM, GROWING, MOVING, CLIMBING = (
    when("drop", "random"),
    when("drop", "growing"),
    when("shift", "moving"),
    when("climb", "moving"),
)

# In the order in which a drill is put together: a word that makes an object comes before those in it.
TABLE: tuple[Word, ...] = (
    Word("beat", lambda: choice("Note value of a beat", {}), "tempo.beat", "1/4"),
    Word(
        "bpm",
        _number("Tempo, beats a minute", least=LOWEST_BPM, most=HIGHEST_BPM, whole=False),
        "tempo.bpm",
    ),
    Word(
        "climb",
        lambda: choice("Whether the tempo changes", CLIMBS),
        "tempo.steps",
        "no",
        read=lambda drill: "moving" if drill.tempo.steps else "no",
        write=lambda value, _: {} if value == "moving" else None,
    ),
    Word(
        "climb_by",
        lambda: text("Beats a minute more each time, or notch", allowed=r"^(notch|-?[0-9]{1,3}(\.[0-9]+)?)$", hint="2"),
        "tempo.steps.by",
        "2",
        CLIMBING,
        write=_written_by,
    ),
    Word(
        "climb_every",
        _cycles("Bars between changes"),
        "tempo.steps.every_cycles",
        "8",
        CLIMBING,
    ),
    Word(
        "climb_to",
        _number("Last tempo", least=LOWEST_BPM, most=HIGHEST_BPM, whole=False),
        "tempo.steps.to",
        "120",
        CLIMBING,
    ),
    Word("climb_on", lambda: choice("Where the tempo may change", CLIMBS_ON), "tempo.steps.on", "sounding", CLIMBING),
    Word("beats", _number("Beats in a bar", most=MOST_BEATS), "cycle.beats"),
    Word(
        "groups",
        lambda: text("Groups of beats", allowed=r"^[0-9+\s]*$", hint="4+2+2", placeholder="one group"),
        "cycle.groups",
        "",
        read=_groups,
        write=lambda value, _: [whole(size) for size in value.replace("+", " ").split()] or None,
    ),
    Word(
        "on",
        lambda: choice("Where the click sounds", click_words()),
        "clicks.on",
        "every",
        read=click_word,
        write=_written_on,
    ),
    Word(
        "places",
        lambda: text("Places that click", allowed=PLACES, hint="1, 2+1/2"),
        "",
        "",
        when("on", "marked"),
        read=lambda drill: ", ".join(drill.clicks.on),
    ),
    Word("every", lambda: whole_choice("Which bars the click is for", {}), "clicks.every", "1"),
    Word(
        "drop",
        lambda: choice("Whether the click drops out", DROPS),
        "clicks.silence",
        "no",
        read=lambda drill: drill.clicks.silence.kind if drill.clicks.silence else "no",
        write=lambda value, _: None if value == "no" else {"kind": value},
    ),
    Word("heard", _cycles("Bars with the click"), "clicks.silence.heard", "2", COUNTS_DROPPED),
    Word("silent", _cycles("Bars alone"), "clicks.silence.silent", "2", COUNTS_DROPPED),
    Word(
        "step",
        _cycles("Bars that each silence is longer"),
        "clicks.silence.step",
        "1",
        GROWING,
    ),
    Word("longest", _cycles("Longest silence, bars"), "clicks.silence.max", "6", GROWING),
    Word("unit", lambda: choice("What drops out", UNITS), "clicks.silence.unit", "beat", RANDOM),
    Word(
        "chance",
        _number("Chance to drop out, per cent", least=0, most=100, whole=False),
        "clicks.silence.probability",
        "30",
        RANDOM,
        read=_chance,
        write=lambda value, _: float(Decimal(str(value)) / 100),
    ),
    Word("most", _cycles("Most in a row"), "clicks.silence.longest", "3", RANDOM),
    Word(
        "seed",
        _number("Number of the draw, nothing to draw anew each time", most=MOST_SEED, blank="anew"),
        "clicks.silence.seed",
        "",
        RANDOM,
        read=_draw,
        write=lambda value, _: value or ANEW,
    ),
    Word(
        "shift",
        lambda: choice("Whether the click moves", SHIFTS),
        "clicks.shift",
        "no",
        read=lambda drill: "moving" if drill.clicks.shift else "no",
        write=lambda value, _: {} if value == "moving" else None,
    ),
    Word(
        "shift_by",
        lambda: text("Part of a beat that it moves", allowed=r"^[0-9]{1,4}/[0-9]{1,4}$", hint="1/4"),
        "clicks.shift.by",
        "1/2",
        MOVING,
    ),
    Word(
        "shift_every",
        _cycles("Bars between moves"),
        "clicks.shift.every_cycles",
        "2",
        MOVING,
    ),
    Word("accent", lambda: choice("Accents", ACCENTS), "clicks.accent", "none"),
    Word(
        "split",
        lambda: whole_choice(
            "Quiet clicks", {1: "undivided", **{n: f"in {n} quiet parts" for n in range(2, MOST_SLOTS + 1)}}
        ),
        "clicks.subdivide",
        "1",
    ),
    Word(
        "swing",
        _number("Swing, long to short", least=STRAIGHT, most=MOST_SWING, whole=False),
        "clicks.swing",
        "1",
        CLICKING,
    ),
    Word("grid", lambda: whole_choice("Notes to the beat", {}), "part.grid"),
    Word("play", lambda: choice("Which notes", PLAYS), "part.play", "grid", read=_play, write=_written_play),
    Word(
        "notes",
        lambda: text("Places to play", allowed=PLACES, hint="1, 2+1/2"),
        "",
        "",
        when("play", "places"),
        read=lambda drill: "" if isinstance(drill.part.play, str) else ", ".join(str(at) for at in drill.part.play),
    ),
    Word(
        "turns",
        lambda: text("Turns to play", allowed=r"^[0-9+/,;:\s]*$", hint="4: 1; 4: 1, 3"),
        "",
        "",
        when("play", "turns"),
        read=written_turns,
    ),
    Word("count_in", _number("Bars of count-in", least=0, most=MOST_OUTER), "count_in", "1"),
    Word("cycles", _cycles("Bars"), "cycles"),
    Word("close", _number("Closing bars", least=0, most=MOST_OUTER), "close", "1"),
)
# Words that a drill's address carries beside them: its name, who plays it, and a length in minutes.
BESIDE: dict[str, str] = {"name": "", "by": "hands", "lean": "-1", "skill": "fair", "lasts": "cycles", "minutes": "5"}
PLAIN: dict[str, str] = BESIDE | {word.name: word.plain for word in TABLE if word.plain is not None}
NEEDED = frozenset(word.name for word in TABLE if word.plain is None)
