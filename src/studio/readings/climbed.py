"""What a take did to the ladder of its exercise, and what that asks next, for the page of its reading."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from studio.ladders.models import Ladder
from studio.ladders.standing import Done, LadderStanding, done_by, standings
from studio.ladders.words import asked, effect, rung_word, why
from studio.takes.models import Take


@dataclass(frozen=True, slots=True)
class LadderWords:
    """A take's ladder in words.

    Attributes
    ----------
    standing : LadderStanding
    done : Done or None
        None where the take is on none of its rungs.
    effect, asked, why, here : str
        What the take did; what is asked now, and why; the rung of that.
    """

    standing: LadderStanding
    done: Done | None
    effect: str
    asked: str
    why: str
    here: str

    @property
    def leads(self) -> bool:
        """Whether the ladder says what to play next: it does until its top is reached."""
        return not self.standing.step.done

    @property
    def count(self) -> str:
        """How many clean takes of its rung there are, such as ``At 96: 0 of 3 clean``."""
        needs = self.standing.step.needs
        if not needs or "clean" not in needs:
            return ""
        return f"At {self.here}: {needs['so_far']:g} of {needs['clean']:g} clean"

    @property
    def is_asked(self) -> bool:
        """Whether the player is to say if the take was clean."""
        return self.done is not None and self.done.tried.is_asked


def climbed(take: Take) -> LadderWords | None:
    """Return what a take did to its ladder; None where its exercise has none."""
    ladders = Ladder.objects.visible_to(take.player).select_related("exercise", "player")
    ladder = ladders.filter(exercise=take.exercise_id).first() if take.exercise_id else None
    if ladder is None:
        return None
    today = timezone.localdate()
    standing = standings([ladder], timezone.now())[0]
    done, core, step = done_by(standing, take.pk), ladder.core, standing.step
    did = effect(done, core, today) if done else "Beside the exercise: this drill is none of its steps."
    return LadderWords(
        standing,
        done,
        did,
        asked(core, step),
        why(core, step, today, is_off=standing.is_off),
        rung_word(core, step.rung),
    )
