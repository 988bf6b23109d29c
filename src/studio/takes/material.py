"""A take's raw material, brought into drill time as note records, whatever its notes came from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.notes.record import Played, notes_of
from giusto.schedule import Schedule
from studio.takes.models import Take
from studio.takes.plan import plan_of
from studio.takes.sources import source_of


@dataclass(frozen=True, slots=True)
class Material:
    """A take as it lies in the database, brought into drill time.

    Attributes
    ----------
    plan : Schedule
    notes : Played
    remarks : tuple of str
        What a reading has to say of how the notes came.
    """

    plan: Schedule
    notes: Played
    remarks: tuple[str, ...] = ()

    @property
    def played_s(self) -> float:
        """How long was played, from the first note to the last."""
        return float(np.ptp(self.notes.onset_s)) if self.notes.onset_s.size else 0.0


def material_of(take: Take) -> Material:
    """Return a take's plan and its notes in drill time, so far as they have arrived.

    Raises
    ------
    GiustoError
        Where the raw material makes no notes.
    """
    notes, remarks = source_of(take).notes(take)
    plan = plan_of(take)
    return Material(plan, notes if len(plan.clicks) else from_first(notes, plan), remarks)


def from_first(notes: Played, plan: Schedule) -> Played:
    """Return notes of a take without any click in a drill time of their own: the first that is asked is the first."""
    if not len(notes) or not len(plan.playable):
        return notes
    moved_s = float(plan.seconds(plan.playable.tick[0])) - float(notes.onset_s[0])
    return notes_of(notes.onset_s + moved_s, strength=notes.strength, source=notes.source, label=notes.label)
