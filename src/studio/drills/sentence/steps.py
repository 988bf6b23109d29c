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
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.places import CLICK_WORDS, click_places
from studio.drills.sentence.table import BESIDE
from studio.vocabulary import spoken_parts

LONGEST_QUERY = 1_500  # characters: some hundred places
MOST_MARKS = 128  # places on one row; more would be too small to touch


@dataclass(frozen=True, slots=True)
class Link:
    """A link that changes some words: its id on the page, what it shows, what it says, its key."""

    id: str
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


@dataclass(frozen=True, slots=True)
class StepRow:
    """Steps of one thing, as they stand in a row."""

    name: str
    steps: list[Link]
    shows_keys: bool = True


def step_rows(drill: Drill, words: dict[str, str]) -> list[StepRow]:
    """Return the steps at hand: tempo, silence where it has a length, notes."""
    silences = list(_silence_steps(drill, words))
    rows = [StepRow("Tempo", list(_tempo_steps(drill, words)), shows_keys=False)]
    return [
        *rows,
        *([StepRow("Silence", silences)] if silences else []),
        StepRow("Notes", list(_note_steps(drill, words))),
    ]


def _tempo_steps(drill: Drill, words: dict[str, str]) -> Iterator[Link]:
    for id_, by, key in (("tempo-1", -5, "<"), ("tempo-2", -1, "-"), ("tempo-3", 1, "+"), ("tempo-4", 5, ">")):
        other = min(max(drill.tempo.bpm + by, LOWEST_BPM), HIGHEST_BPM)
        sign, way = ("+", "Faster") if by > 0 else ("−", "Slower")
        yield Link(id_, f"{sign}{abs(by)}", f"{way} by {abs(by)}", query(words, bpm=f"{other:g}"), key)


def _silence_steps(drill: Drill, words: dict[str, str]) -> Iterator[Link]:
    silence = drill.clicks.silence
    if isinstance(silence, FixedSilence | GrowingSilence):
        if silence.silent > 1:
            yield Link("silence-1", "shorter", "Shorter silence", query(words, silent=silence.silent - 1), "[")
        yield Link("silence-2", "longer", "Longer silence", query(words, silent=silence.silent + 1), "]")


def _note_steps(drill: Drill, words: dict[str, str]) -> Iterator[Link]:
    grid = drill.part.grid
    if grid > 1:
        yield Link("notes-1", "fewer", "Fewer notes to the beat", query(words, grid=grid - 1), ",")
    if grid < MOST_SLOTS:
        yield Link("notes-2", "more", "More notes to the beat", query(words, grid=grid + 1), ".")


def feel_steps(drill: Drill, words: dict[str, str]) -> list[Link]:
    """Return the click half and twice as fast, the notes as they are."""
    return [
        *_feel_step(drill, words, halved, "feel-1", "half as fast"),
        *_feel_step(drill, words, doubled, "feel-2", "twice as fast"),
    ]


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


def _feel_step(
    drill: Drill, words: dict[str, str], change: Callable[[Drill], Drill], id_: str, text: str
) -> Iterator[Link]:
    """Yield the step to half or double tempo, where the drill allows it; as many clicks count in as before."""
    try:
        other = change(drill)
    except GiustoError:
        return
    cycles = min(-(-drill.count_in * drill.cycle.beats // other.cycle.beats), MOST_OUTER)
    other = other.model_copy(update={"count_in": cycles})
    kept = {name: words[name] for name in ("drill", "name", *BESIDE)}
    label = f"The click {text}, the notes as they are"
    yield Link(id_, f"click {text}, {other.tempo.bpm:g}", label, query({**words_of(other), **kept}))


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
