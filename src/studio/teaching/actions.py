"""All that teacher and pupil do: each an action, whole or not at all."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, timedelta

from django.db import transaction
from django.utils import timezone

from studio.accounts.models import Player
from studio.accounts.policies import require
from studio.joining.models import note
from studio.takes.models import Take
from studio.teaching import copies
from studio.teaching.models import Assignment, Consent, Remark, Scope, Shown, latest_until
from studio.teaching.policies import (
    may_answer,
    may_change_remark,
    may_put_away,
    may_show,
    may_speak,
    may_take_back,
    may_withdraw,
)

SHOWN_DAYS = (1, 7, 30)


class ConsentError(ValueError):
    """A consent can't be given as it was asked; the text is for the pupil."""


@transaction.atomic
def agree(*, player: Player, teacher: Player, scopes: Iterable[str], since: date | None, until: date) -> Consent:
    """Let a teacher look, in place of what was agreed with them before.

    Raises
    ------
    ConsentError
        Where the teacher is oneself or teaches no more, or the end is past or more than a year away.
    """
    if teacher.pk == player.pk or not teacher.teaches:
        raise ConsentError("Only somebody else, who teaches here, can be your teacher.")
    if not timezone.localdate() <= until <= latest_until():
        raise ConsentError(f"It ends by {latest_until():%d %B %Y} at the latest; then you can agree again.")
    found = {Scope.TAKES.value, *(one for one in scopes if one in Scope.values)}
    Consent.objects.now().of(player).to(teacher).update(withdrawn_at=timezone.now())
    return Consent.objects.create(
        player=player,
        teacher=teacher,
        scopes=[one for one in Scope.values if one in found],
        since=since,
        until=until,
    )


def withdraw(*, player: Player, consent: Consent) -> None:
    """End a consent at once; what was said stays with the pupil."""
    require(may_withdraw(player, consent))
    Consent.objects.filter(pk=consent.pk, withdrawn_at=None).update(withdrawn_at=timezone.now())


@transaction.atomic
def say(*, player: Player, pupil: Player, text: str, **about: object) -> Remark:
    """Say something of a take, a silence, a rung or a bar of a pupil's."""
    require(may_speak(player, pupil))
    name = player.display_name or player.username
    remark = Remark.objects.create(player=pupil, by=player, by_name=name, text=text, **about)
    note(pupil, player, f"said something of {remark.about}")
    return remark


def change_remark(*, player: Player, remark: Remark, text: str) -> None:
    """Say it otherwise; the pupil finds it anew."""
    require(may_change_remark(player, remark))
    remark.text, remark.changed_at, remark.put_away_at = text, timezone.now(), None
    remark.save(update_fields=["text", "changed_at", "put_away_at"])


def put_remark_away(*, player: Player, remark: Remark) -> None:
    """Put a remark away from Today; it stays where it belongs."""
    require(may_put_away(player, remark))
    remark.put_away_at = timezone.now()
    remark.save(update_fields=["put_away_at"])


@transaction.atomic
def assign(*, player: Player, pupil: Player, what: str, goal: str, due: date | None) -> Assignment:
    """Ask a pupil to play something of one's own: a copy of it, with a goal and a date.

    Raises
    ------
    ObjectDoesNotExist, ValueError
        Where it is nothing of the teacher's.
    """
    require(may_speak(player, pupil))
    copy = copies.copy_of(player, what)
    name = player.display_name or player.username
    return Assignment.objects.create(player=pupil, by=player, by_name=name, goal=goal, due=due, **copy._asdict())


@transaction.atomic
def accept(*, player: Player, assignment: Assignment) -> None:
    """Take on what was asked: from then on it is one's own.

    Raises
    ------
    KeepError, ClimbError, PieceError, GiustoError
        Where one has too many of its kind.
    """
    require(may_answer(player, assignment))
    held = Assignment.objects.select_for_update().get(pk=assignment.pk)
    if not held.is_open:
        return
    copies.keep_copy(player, held)
    held.accepted_at = timezone.now()
    held.save(update_fields=["accepted_at", "ladder", "piece"])


def put_away(*, player: Player, assignment: Assignment) -> None:
    """Put away what was asked, before it was taken on or after; what was played of it stays."""
    require(may_answer(player, assignment))
    Assignment.objects.filter(pk=assignment.pk, put_away_at=None).update(put_away_at=timezone.now())


def take_back(*, player: Player, assignment: Assignment) -> None:
    """Take back what was asked."""
    require(may_take_back(player, assignment))
    Assignment.objects.filter(pk=assignment.pk, taken_back_at=None).update(taken_back_at=timezone.now())


@transaction.atomic
def show(*, player: Player, take: Take, days: int) -> Shown:
    """Show a take's reading to whoever has the link, for some days; a link that is there is made anew."""
    require(may_show(player, take))
    Shown.objects.filter(take=take).delete()
    ends_at = timezone.now() + timedelta(days=days if days in SHOWN_DAYS else SHOWN_DAYS[0])
    return Shown.objects.create(player=player, take=take, token=Shown.new_token(), ends_at=ends_at)


def hide(*, player: Player, take: Take) -> None:
    """End the link to a take now."""
    require(may_show(player, take))
    Shown.objects.filter(take=take).delete()
