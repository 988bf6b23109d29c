"""What stands at hand beside the sentence: steps of tempo, half and double, places to touch.

Each is a link to the sentence with some words changed, so that all works without scripts too.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import lcm

from giusto.drill import Drill, position
from giusto.drill.file import HIGHEST_BPM, LOWEST_BPM, MOST_OUTER, MOST_SLOTS, FixedSilence, GrowingSilence
from giusto.drill.half_double import doubled, halved
from giusto.errors import GiustoError
from giusto.tempo_scale import notch
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.places import CLICK_WORDS, click_places
from studio.drills.sentence.table import BESIDE
from studio.vocabulary import spoken_parts

LONGEST_QUERY = 1_500  # characters: some hundred places
MOST_MARKS = 128  # places on one row; more would be too small to touch


@dataclass(frozen=True, slots=True)
class Link:
    """A link that changes some words: what it shows, what it says, its key."""

    text: str
    label: str
    query: str
    key: str = ""


@dataclass(frozen=True, slots=True)
class StepMark:
    """A place of the cycle: whether the click sounds there, whether a note is asked for, and both turned."""

    text: str
    place: str
    is_beat: bool
    clicks: bool
    click_query: str
    plays: bool
    note_query: str


def tempo_steps(drill: Drill, words: dict[str, str]) -> list[Link]:
    """Return the ways to another tempo."""
    bpm = drill.tempo.bpm

    def to(other: float, text: str, label: str, key: str = "") -> Link:
        return Link(text, label, query(words, bpm=f"{min(max(other, LOWEST_BPM), HIGHEST_BPM):g}"), key)

    return [
        to(bpm - 5, "−5", "Slower by 5", "<"),
        to(bpm - 1, "−1", "Slower by 1", "-"),
        to(bpm + 1, "+1", "Faster by 1", "+"),
        to(bpm + 5, "+5", "Faster by 5", ">"),
        *[
            to(notch(bpm, steps), f"a notch {way}, {notch(bpm, steps):g}", f"A notch {way} the traditional scale")
            for steps, way in ((-1, "down"), (1, "up"))
            if notch(bpm, steps) != bpm  # none beyond the ends of the scale
        ],
        *_feel_step(drill, words, halved, "half as fast"),
        *_feel_step(drill, words, doubled, "twice as fast"),
    ]


def key_steps(drill: Drill, words: dict[str, str]) -> list[Link]:
    """Return what has a key but no place of its own: a silence longer or shorter, more or fewer notes."""
    steps = []
    silence = drill.clicks.silence
    if isinstance(silence, FixedSilence | GrowingSilence):
        if silence.silent > 1:
            steps.append(Link("shorter silence", "Shorter silence", query(words, silent=silence.silent - 1), "["))
        steps.append(Link("longer silence", "Longer silence", query(words, silent=silence.silent + 1), "]"))
    grid = drill.part.grid
    if grid > 1:
        steps.append(Link("fewer notes", "Fewer notes to the beat", query(words, grid=grid - 1), ","))
    if grid < MOST_SLOTS:
        steps.append(Link("more notes", "More notes to the beat", query(words, grid=grid + 1), "."))
    return steps


def marks(drill: Drill, words: dict[str, str], *, parts: int | None = None) -> list[list[StepMark]]:
    """Return the places of the cycle that can be touched, beat by beat.

    Parameters
    ----------
    drill : Drill
    words : dict
        Of the sentence as it stands.
    parts : int, optional
        How many places a beat; without it, as many as notes and clicks need.

    Returns
    -------
    list of list of StepMark
        None where there are so many places that each link would be a page by itself.
    """
    grid, beats = drill.part.grid, drill.cycle.beats
    on = {position.parse(place) for place in drill.clicks.on}
    fits = lcm(parts or grid, *(place.denominator for place in on))
    if len(query(words)) > LONGEST_QUERY:
        return []
    parts = fits if fits <= MOST_SLOTS else parts or grid
    if beats * parts > MOST_MARKS:
        parts = 1
    said = {Fraction(slot, parts): text for slot, text in enumerate(spoken_parts(parts), start=1)}
    rows = []
    for beat in range(beats):
        # A click between the places is a place too: what sounds is never hidden.
        places = {beat + Fraction(slot, parts) for slot in range(parts)} | {at for at in on if int(at) == beat}
        texts = {beat + part: text for part, text in said.items()} | {Fraction(beat): str(beat + 1)}
        rows.append([_mark(drill, words, place, texts.get(place, "")) for place in sorted(places)])
    return rows


def _feel_step(drill: Drill, words: dict[str, str], change: Callable[[Drill], Drill], text: str) -> Iterator[Link]:
    """Yield the step to half or double tempo, where the drill allows it; as many clicks count in as before."""
    try:
        other = change(drill)
    except GiustoError:
        return
    cycles = min(-(-drill.count_in * drill.cycle.beats // other.cycle.beats), MOST_OUTER)
    other = other.model_copy(update={"count_in": cycles})
    kept = {name: words[name] for name in ("drill", "name", *BESIDE)}
    label = f"The click {text}, the notes as they are"
    yield Link(f"click {text}, {other.tempo.bpm:g}", label, query({**words_of(other), **kept}))


def _mark(drill: Drill, words: dict[str, str], place: Fraction, text: str) -> StepMark:
    grid = drill.part.grid
    name = position.write(place)
    slots = [Fraction(slot, grid) for slot in range(drill.cycle.beats * grid)]
    play = drill.part.play
    played = set(slots) if play == "grid" else set()
    if not isinstance(play, str) and isinstance(play[0], str):
        played = {position.parse(str(at)) for at in play}
    can_play = bool(played) and place in slots
    return StepMark(
        text=text,
        place=name,
        is_beat=place.denominator == 1,
        clicks=name in drill.clicks.on,
        click_query=query(words, **_clicks(_turned(list(drill.clicks.on), name), drill.cycle.beats)),
        plays=place in played,
        note_query=query(words, **_notes(played ^ {place}, slots)) if can_play else "",
    )


def _turned(on: list[str], name: str) -> list[str]:
    """Return the places with one of them added or taken away, in order."""
    turned = [place for place in on if place != name] if name in on else [*on, name]
    return sorted(turned, key=position.parse)


def _clicks(on: list[str], beats: int) -> dict[str, str]:
    """Return the words for clicks at these places."""
    for word in CLICK_WORDS:
        if word != "marked" and click_places(word, beats) == on:
            return {"on": word, "places": ""}
    return {"on": "marked", "places": ", ".join(on)}


def _notes(played: set[Fraction], slots: list[Fraction]) -> dict[str, str]:
    """Return the words for notes at these places."""
    if played == set(slots):
        return {"play": "grid", "notes": ""}
    return {"play": "places", "notes": ", ".join(position.write(at) for at in sorted(played))}
