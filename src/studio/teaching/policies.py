"""Who may do what as teacher and as pupil: a function a verb, deny by default."""

from studio.accounts.models import Player
from studio.takes.models import Take
from studio.teaching.models import Assignment, Consent, Remark, consent_of


def may_teach(player: Player) -> bool:
    """Whether the player may have pupils: make codes for them, see them at a glance."""
    return player.is_authenticated and player.teaches


def may_speak(player: Player, pupil: Player) -> bool:
    """Whether the player may say something of what a pupil played, and ask for more."""
    return may_teach(player) and consent_of(pupil, player) is not None


def may_let_in(player: Player, pupil: Player) -> bool:
    """Whether the player may make a code for a pupil's new password: never for whoever has rights of their own.

    Whoever has such a code can be that player.
    """
    return may_speak(player, pupil) and not pupil.teaches


def may_change_remark(player: Player, remark: Remark) -> bool:
    """Whether the player may change what was said: whoever said it, for as long as they may look."""
    return remark.by_id == player.pk and may_speak(player, remark.player)


def may_put_away(player: Player, remark: Remark) -> bool:
    """Whether the player may put a remark away: whom it was said to."""
    return player.is_authenticated and player.is_active and remark.player_id == player.pk


def may_answer(player: Player, assignment: Assignment) -> bool:
    """Whether the player may take on, or put away, what was asked: who was asked."""
    return player.is_authenticated and player.is_active and assignment.player_id == player.pk


def may_take_back(player: Player, assignment: Assignment) -> bool:
    """Whether the player may take back what was asked: who asked."""
    return player.is_authenticated and player.is_active and assignment.by_id == player.pk


def may_withdraw(player: Player, consent: Consent) -> bool:
    """Whether the player may end a consent: the pupil, or the teacher who does not want it any more."""
    return player.is_authenticated and player.is_active and player.pk in (consent.player_id, consent.teacher_id)


def may_show(player: Player, take: Take) -> bool:
    """Whether the player may show a take by a link."""
    return player.is_authenticated and player.is_active and take.player_id == player.pk
