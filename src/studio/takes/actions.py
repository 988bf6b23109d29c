"""All that changes takes: each an action, whole or not at all, and safe to repeat."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from giusto.drill import validate
from giusto.drill.family import family_of
from giusto.drill.identity import drill_key, rung_key, rung_of
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.exercises.actions import exercise_for, session_for
from studio.exercises.models import Exercise
from studio.hearing.models import Delay
from studio.takes.heard import Device, Hearing
from studio.takes.messages import Begin, End, MessageError, Notes
from studio.takes.models import Batch, KeptSound, Take
from studio.takes.pieces import keep_pieces
from studio.takes.policies import may_change, may_play

EARLIEST, AHEAD = datetime(2000, 1, 1, tzinfo=UTC), timedelta(days=2)  # ours: what a clock may be off
BATCH_NOTES = 1000  # of what was heard
MAX_BATCHES = 1_000_000  # ours: four days of batches


class EndedError(MessageError):
    """Something came to a take that is over, and read without it."""


class BatchesMissingError(Exception):
    """A take can't end yet: these batches have not arrived."""

    def __init__(self, numbers: list[int]) -> None:
        super().__init__(f"batches {numbers[:20]} are missing")
        self.numbers = numbers


@transaction.atomic
def begin_take(*, player: Player, take_id: UUID, message: Begin) -> Take:
    """Make a take; one that is there already stays as it is.

    Raises
    ------
    DrillError, GiustoError
        Where the drill or the simulated player breaks a rule.
    """
    require(may_play(player))
    drill = validate(message.drill)
    if message.simulated:
        _check_simulated(message.simulated.player)
    rung = rung_of(drill)
    started_at = _believable(message.started_at)
    take, _ = Take.objects.get_or_create(
        id=take_id,
        defaults={
            "player": player,
            "exercise": exercise_for(player=player, drill=drill, origin=message.origin),
            "session": session_for(player=player, at=started_at),
            "drill": drill.plain(),
            "drill_key": drill_key(drill),
            "rung_key": rung_key(drill),
            "silent_cycles": rung.silent_cycles,
            "slots": rung.slots,
            "drill_name": drill.name,
            "family": family_of(drill),
            "tempo_bpm": drill.tempo.bpm,
            "beats": drill.cycle.beats,
            "cycles": drill.cycles,
            "input": message.input,
            "simulated": message.simulated and message.simulated.model_dump(),
            "device": Device(**message.device.model_dump(exclude_unset=True)),
            "hearing": _hearing(player, message),
            "zero_audio_s": message.zero_audio_s,
            "started_at": started_at,
        },
    )
    require(may_change(player, take))
    return take


@transaction.atomic
def add_batch(*, player: Player, take: Take, number: int, message: Notes) -> bool:
    """Keep a batch of notes; the same again changes nothing. Return whether it is new.

    Raises
    ------
    MessageError
        Where the take has ended without it, or has other notes under its number.
    """
    take = Take.objects.select_for_update().get(pk=take.pk)  # so that it does not end in between
    require(may_change(player, take))
    if number > MAX_BATCHES:
        raise MessageError(f"batch number is {number}, allowed is at most {MAX_BATCHES}", code="range")
    is_over = take.batch_count is not None
    if is_over and not take.batches.filter(number=number).exists():  # what is acknowledged is in the reading
        raise EndedError(f"the take has ended with {take.batch_count} batches", code="ended")
    notes = [note.model_dump(exclude_none=True) for note in message.notes]
    pairs = [list(pair) for pair in message.pairs]
    new = {"player_id": take.player_id, "notes": notes, "pairs": pairs}
    kept, is_new = Batch.objects.get_or_create(take=take, number=number, defaults=new)
    if not is_over or (kept.notes == notes and take.pieces.exists()):  # what was heard, or forgotten, stays gone
        keep_pieces(take, message.sound)
    if all(note in kept.notes for note in notes):
        return is_new
    if not all(note in notes for note in kept.notes):
        raise MessageError(f"batch {number} is here already, with other notes", code="taken")
    if is_over:
        raise EndedError("the take has ended with other notes under that number", code="ended")
    kept.notes, kept.pairs = notes, pairs  # what came before was the part that a closing tab had kept
    kept.save(update_fields=["notes", "pairs"])
    return True


def keep_notes(take: Take, records: Sequence[dict[str, Any]]) -> int:
    """Keep notes that were heard as batches of their own, behind those that came; return how many batches there are."""
    number = max(take.batches.values_list("number", flat=True), default=-1) + 1
    parts = [list(records[at : at + BATCH_NOTES]) for at in range(0, len(records), BATCH_NOTES)]
    Batch.objects.bulk_create(
        Batch(take=take, player_id=take.player_id, number=number + index, notes=part, pairs=[])
        for index, part in enumerate(parts)
    )
    return number + len(parts)


@transaction.atomic
def end_take(*, player: Player, take: Take, message: End) -> Take:
    """Close a take whose batches are all here; reading it is another action (``reading.read_take``).

    Raises
    ------
    BatchesMissingError
    """
    take = Take.objects.select_for_update().get(pk=take.pk)
    require(may_change(player, take))
    if take.ended_how:
        return take
    have = set(take.batches.values_list("number", flat=True))
    if missing := sorted(set(range(message.batches)) - have):
        raise BatchesMissingError(missing)
    take.ended_how, take.batch_count = message.how, max(message.batches, max(have, default=-1) + 1)
    take.save(update_fields=["ended_how", "batch_count"])
    return take


def end_left(*, player: Player) -> list[Take]:
    """End the takes whose browser never came back, with the notes that arrived; return those with any."""
    found = []
    for take in Take.objects.visible_to(player).left():
        message = End(how="broken", batches=0)
        ended = end_take(player=player, take=take, message=message)
        if ended.has_notes:
            found.append(ended)
        else:
            delete_take(player=player, take=ended)
    return found


@transaction.atomic
def annotate_take(*, player: Player, take: Take, note: str) -> None:
    """Write the player's note beside a take."""
    require(may_change(player, take))
    take.note = note
    take.save(update_fields=["note"])


@transaction.atomic
def mark_sections(*, player: Player, take: Take, sections: list[int]) -> None:
    """Mark a take's sections, each by its cycles; none for quarters."""
    require(may_change(player, take))
    take.sections = sections
    take.save(update_fields=["sections"])


@transaction.atomic
def say_clean(*, player: Player, take: Take, said: bool | None) -> None:
    """Keep the player's word on whether a take was clean, or take it back."""
    require(may_change(player, take))
    take.said_clean = said
    take.save(update_fields=["said_clean"])


@transaction.atomic
def move_take(*, player: Player, take: Take, exercise: Exercise) -> None:
    """Call a take one of another exercise; what follows from it follows there."""
    require(may_change(player, take) and exercise.player_id == player.pk)
    take.exercise = exercise
    take.save(update_fields=["exercise"])


@transaction.atomic
def delete_take(*, player: Player, take: Take) -> None:
    """Put a take away; its raw material stays until it is restored."""
    require(may_change(player, take))
    take.deleted_at = timezone.now()
    take.save(update_fields=["deleted_at"])


@transaction.atomic
def restore_take(*, player: Player, take: Take) -> None:
    """Undo the deletion of a take."""
    require(may_change(player, take))
    take.deleted_at = None
    take.save(update_fields=["deleted_at"])


@transaction.atomic
def empty_deleted(*, player: Player) -> int:
    """Forget deleted takes for good, raw material and all; return how many there were."""
    require(may_play(player))
    gone = Take.objects.deleted(player)
    for sound in KeptSound.objects.filter(take__in=gone):
        _delete_file(sound)
    return gone.delete()[1].get("takes.Take", 0)


@transaction.atomic
def delete_sound(*, player: Player, take: Take) -> None:
    """Forget the sound of a take for good; its notes stay."""
    require(may_change(player, take))
    for sound in KeptSound.objects.filter(take=take):
        _delete_file(sound)
        sound.delete()


def _delete_file(sound: KeptSound) -> None:
    """Delete a sound's file once its row is gone for good."""
    transaction.on_commit(partial(sound.file.storage.delete, str(sound.file.name)))


def _believable(told: datetime) -> datetime:
    """Return when a take began; by our own clock where the browser's can't be right."""
    now = timezone.now()
    try:
        return told if timezone.is_aware(told) and EARLIEST <= told <= now + AHEAD else now
    except OverflowError:  # at the ends of the calendar
        return now


def _hearing(player: Player, message: Begin) -> Hearing:
    """Return by what a take is heard, with the delay that holds for it, where it was measured."""
    told = message.hearing
    if told is None:
        return Hearing()
    delay = Delay.objects.holding(player, by=told.by, device=told.device, browser=message.device.browser)
    measured = {"delay_ms": delay.delay_ms, "delay_ci95_ms": (delay.low_ms, delay.high_ms)} if delay else {}
    return Hearing(**told.model_dump(exclude_none=True), **measured)


def _check_simulated(figures: dict[str, float]) -> None:
    try:
        SimulatedPlayer(**figures)
    except TypeError:
        raise MessageError(f"simulated.player has unknown figures in {sorted(figures)}", code="unknown_field") from None
