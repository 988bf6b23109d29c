"""A slot of the plan as something to play: what it is now, why, and where it is played."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from django.urls import reverse
from django.utils import timezone

from giusto.drill import Drill
from giusto.plan.day import challenge, leaning_lately, takes_in
from giusto.plan.days import Slot
from giusto.practice.ladder import Why
from giusto.schedule import schedule
from studio.accounts.models import Player
from studio.drills.origin import REACH
from studio.drills.sentence.codec import query, words_of
from studio.drills.sentence.prose import drill_words
from studio.ladders.parts import following, in_key
from studio.ladders.standing import LadderStanding, play_address
from studio.ladders.words import asked, counted, day_word, reason, rung_word
from studio.pieces.standing import PieceStanding
from studio.pieces.words import next_in
from studio.plans.known import Known, KnownDrill
from studio.plans.models import HIGH, LOW, Entry
from studio.reach.tested import silences_until, to_try
from studio.reach.words import beats_words
from studio.words import number, takes_words, times

NOT_OFFERED = (Why.EDGE, Why.STAYED, Why.WEEK_REACHED, Why.BAND)  # reasons why another rung is not offered


@dataclass(frozen=True, slots=True)
class Item:
    """What a slot asks for.

    Attributes
    ----------
    slot : Slot
    word : str
        What names it within its day, whatever is played in its place.
    head, part, bars : str
        What is played, and of it: a key, a hand, a section; of a piece its bars; ``""`` for all of it.
    what, why : str
    url : str
        Where it is played; ``""`` for what is done without the click, or away from the page.
    page : str
        Where more of it stands.
    exercises : frozenset of int
        Whose takes count for it.
    drill : Drill or None
    so_far, wanted : int
        Clean takes that are there, and that pass its rung.
    then : str
        What comes after that, such as ``88``.
    exercise : int or None
        What a line for the next time is kept on.
    wrote : str
        That line.
    target : int, UUID or None
        The exercise of the ladder, or the piece, that its plan's entry stands for.
    is_repeated : bool
        Whether it is played so often, and not until its minutes are over.
    offer, offer_url : str
        A rung that would bring it back into the band of challenge, and where that is played.
    """

    slot: Slot
    word: str
    head: str
    what: str
    why: str
    part: str = ""
    bars: str = ""
    url: str = ""
    page: str = ""
    exercises: frozenset[int] = frozenset()
    drill: Drill | None = None
    so_far: int = 0
    wanted: int = 0
    then: str = ""
    exercise: int | None = None
    wrote: str = ""
    target: int | UUID | None = None
    is_repeated: bool = False
    offer: str = ""
    offer_url: str = ""

    @property
    def name(self) -> str:
        """As one speaks of it."""
        return f"{self.head}, {self.part}" if self.part else self.head


@dataclass(frozen=True, slots=True)
class SlotEntry:
    """A slot, its word, and the entry that is played in it: its plan's, or its player's for today; None for neither."""

    slot: Slot
    word: str
    entry: Entry | None


def item_of(player: Player, asked: SlotEntry, known: Known, now: datetime, band: tuple[int, int] = (LOW, HIGH)) -> Item:
    """Return what a slot asks for."""
    today = timezone.localtime(now).date()
    slot, entry = asked.slot, asked.entry
    if entry is None and not slot.exercise:
        return Item(slot, asked.word, slot.block.capitalize(), "Yours to fill.", slot.why)
    if entry:
        if standing := known.climbs.by_exercise.get(entry.exercise_id or 0):
            return _climbed(asked, standing, known, today, band)
        if entry.piece_id in known.pieces:
            return _piece(asked, known.pieces[entry.piece_id])
        if drill := known.drill(entry, slot.key):
            return _drill(asked, drill, today)
        if entry.name.casefold() == REACH:
            return _reach(player, asked, now)
    name = entry.name if entry else slot.exercise
    return Item(slot, asked.word, name, "In your own way.", "nothing of that name is here: a time of your own")


def _climbed(asked_: SlotEntry, whole: LadderStanding, known: Known, today: date, band: tuple[int, int]) -> Item:
    slot = asked_.slot
    parts = in_key(known.climbs.parts.get(whole.ladder.exercise_id, []), slot.key)
    one = following(parts) or whole
    core, step = one.ladder.core, one.step
    part = one.ladder.exercise.part_name
    needs = step.needs if step.needs and "clean" in step.needs else None
    wanted = int(needs["clean"] - needs["so_far"]) if needs else 0
    then = rung_word(core, step.rung + 1) if needs and step.rung < len(core.values) else ""
    offer, rung = _offered(one, band)
    return Item(
        slot,
        asked_.word,
        head=whole.ladder.name,
        part=part or (f"in {slot.key}" if slot.key else ""),
        what=f"{asked(core, step)}{f', then {then}' if then else ''}.{_room(slot, step.drill, wanted)}",
        why=reason(one, today),
        url=play_address(one.ladder, step.rung),
        page=one.ladder.get_absolute_url(),
        exercises=frozenset({one.ladder.exercise_id, *(other.ladder.exercise_id for other in parts)}),
        drill=step.drill,
        so_far=int(needs["so_far"]) if needs else 0,
        wanted=int(needs["clean"]) if needs else 0,
        then=then,
        target=whole.ladder.exercise_id,
        exercise=one.ladder.exercise_id,
        wrote=one.ladder.exercise.next_time,
        offer=offer,
        offer_url=play_address(one.ladder, rung) if offer else "",
    )


def _room(slot: Slot, drill: Drill, wanted: int) -> str:
    """Say how many takes a slot has room for, where it asks for more of them."""
    lasts = schedule(drill)
    fits = takes_in(slot.minutes, float(lasts.seconds(lasts.end_tick)) / 60)
    return f" {number(fits).capitalize()} fit{'s' if fits == 1 else ''} in today." if fits < wanted else ""


def _offered(one: LadderStanding, band: tuple[int, int]) -> tuple[str, int]:
    """Return a rung that is offered where the last takes were clean more, or less, often than the band of challenge."""
    step, core = one.step, one.ladder.core
    if step.done or step.why in NOT_OFFERED:
        return "", step.rung
    found = challenge([attempt.cleanness for attempt in one.attempts], low=band[0] / 100, high=band[1] / 100)
    rung = step.rung + (found.steps if found else 0)
    if found is None or not 1 <= rung <= len(core.values):
        return "", step.rung
    told = "easy" if found.steps > 0 else "hard"
    return f"{told} lately, {found.clean} of {found.attempts} clean: {rung_word(core, rung)} instead", rung


def _piece(asked_: SlotEntry, standing: PieceStanding) -> Item:
    slot, word = asked_.slot, asked_.word
    following_ = next_in(standing)
    exercises = frozenset(pk for one in standing.stretches for pk in one.exercises)
    page = standing.piece.get_absolute_url()
    if following_ is None:
        what = f"Held at {standing.piece.goal_bpm:g}: play it for someone."
        return Item(
            slot,
            word,
            standing.piece.name,
            what,
            "every stretch is at the goal",
            page=page,
            exercises=exercises,
            target=standing.piece.pk,
        )
    climb = following_.standing.climb
    leaning = _lately(climb) if climb else ""
    step = climb.step if climb else None
    return Item(
        slot,
        word,
        head=standing.piece.name,
        bars=following_.standing.stretch.bars_name,
        what=f"{following_.what}.",
        why=leaning or following_.why,
        target=standing.piece.pk,
        exercise=climb.ladder.exercise_id if climb else None,
        wrote=climb.ladder.exercise.next_time if climb else "",
        url=following_.url,
        page=page if not following_.url else following_.standing.stretch.get_absolute_url(),
        exercises=exercises,
        drill=step.drill if step else None,
    )


def _lately(climb: LadderStanding) -> str:
    """Return how the last takes leaned: ``twice early``."""
    sign, count = leaning_lately(one.verdict for one in climb.tried)
    if not sign:
        return f"{counted(climb.step)} at {rung_word(climb.ladder.core, climb.step.rung)}"
    return f"{times(count)} {'early' if sign < 0 else 'late'}"


def _reach(player: Player, asked_: SlotEntry, now: datetime) -> Item:
    known = silences_until(player, now)
    trial = to_try(known, None, now)
    drill = trial.drill
    why = "that length tells most now" if known else "nothing is known yet"
    return Item(
        asked_.slot,
        asked_.word,
        head="Reach",
        what=f"{drill_words(drill)}: how long a silence do you bridge?",
        why=f"try {beats_words(trial.beats)} alone: {why}",
        url=f"{reverse('takes:play')}?{query({**words_of(drill), 'drill': REACH})}",
        page=reverse("reach:page"),
        exercises=frozenset(player.exercises.filter(shelf_slug=REACH).values_list("pk", flat=True)),
        drill=drill,
        is_repeated=True,
    )


def _drill(asked_: SlotEntry, one: KnownDrill, today: date) -> Item:
    address = query({**words_of(one.drill), "drill": one.origin})
    why = f"{takes_words(one.takes)} so far, the last {_on(one.last, today)}" if one.last else "not played yet"
    if one.working:
        why = f"four fifths of your ceiling, {one.working.low_bpm} to {one.working.high_bpm}; {why}"
    return Item(
        asked_.slot,
        asked_.word,
        head=one.name,
        exercise=one.exercise,
        wrote=one.wrote,
        what=f"{drill_words(one.drill)}.",
        why=why,
        url=f"{reverse('takes:play')}?{address}",
        page=f"{reverse('drills:set')}?{address}",
        exercises=frozenset({one.exercise} if one.exercise else ()),
        drill=one.drill,
        is_repeated=True,
    )


def _on(day: date, today: date) -> str:
    word = day_word(day, today)
    return word if word in ("today", "yesterday") else f"on {word}"
