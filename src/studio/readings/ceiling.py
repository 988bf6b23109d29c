"""How fast at all, for the page of a take that asked for it: a climbing click, or a burst without one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.drill import Drill, validate
from giusto.missing import Missing
from giusto.practice.ceiling import WEEKLY_BPM, Burst, Ceiling, Working, burst, is_probe, working_at
from giusto.schedule import Schedule
from studio.drills.sentence.codec import query, words_of
from studio.takes.ceilings import ceiling_of
from studio.takes.models import Take
from studio.takes.plan import plan_of

PROBE, BURST = "how-fast", "burst-alone"  # of the shelf


@dataclass(frozen=True, slots=True)
class Fast:
    """What is known of how fast a player goes at all.

    Attributes
    ----------
    probe : Ceiling, Missing or None
    burst : Burst, Missing or None
        Of this take, or of the newest one that asked for it.
    working : Working or None
        The tempo to work at.
    words : str
        The drill to work with, as an address has it.
    weekly_bpm : int
        How much more in a week.
    """

    probe: Ceiling | Missing | None
    burst: Burst | Missing | None
    working: Working | None
    words: str
    is_burst: bool
    weekly_bpm: int = WEEKLY_BPM

    @property
    def headline(self) -> str:
        """What the take that asked for it showed, in a sentence; nothing where it is too little."""
        if self.is_burst:
            return _burst_words(self.burst) if isinstance(self.burst, Burst) else ""
        return _probe_words(self.probe) if isinstance(self.probe, Ceiling) else ""


def fast(take: Take, plan: Schedule) -> Fast | None:
    """Return what a take shows of how fast its player goes, None where it did not ask."""
    slug = take.exercise.shelf_slug if take.exercise else ""
    if not is_probe(plan.drill) and slug != BURST:
        return None
    probe: Ceiling | Missing | None
    struck: Burst | Missing | None
    if is_probe(plan.drill):
        probe, other = ceiling_of(take), _newest(take, plan, BURST)
        struck = _burst(other, plan_of(other)) if other else None
    else:
        struck, other = _burst(take, plan), _newest(take, plan, PROBE)
        probe = ceiling_of(other) if other else None
    working = working_at(probe, struck)
    words = query(words_of(_working(plan.drill, working.bpm))) if working else ""
    return Fast(probe, struck, working, words, slug == BURST)


def _probe_words(found: Ceiling) -> str:
    if found.bpm:
        return f"You and the click parted at {found.bpm:.0f}."
    if found.reason == "all-kept":
        return f"You kept all that you played, up to {found.kept_bpm:.0f}."
    return "No bar was kept."


def _burst_words(found: Burst) -> str:
    if found.fades:
        return f"{found.peak_bpm:.0f} at first, {found.kept_bpm:.0f} in the end."
    return f"{found.peak_bpm:.0f} from beginning to end."


def _burst(take: Take, plan: Schedule) -> Burst | Missing:
    """Return what was struck alone: from the last click before the silence to the one that returns."""
    onsets = np.array(take.reading.onsets_s or [], dtype=np.float64)
    if plan.silences:
        span = plan.silences[0]
        start_s, end_s = float(plan.seconds(span.start_tick)), float(plan.seconds(span.end_tick))
        onsets = onsets[(onsets >= start_s) & (onsets <= end_s)]
    return burst(onsets, slots=plan.drill.part.grid)


def _newest(take: Take, plan: Schedule, slug: str) -> Take | None:
    """Return the newest take of the other of the two drills in as many notes to the beat: other notes are slower."""
    others = Take.objects.same_hand(take).ended().filter(exercise__shelf_slug=slug, reading__isnull=False)
    others = others.filter(drill__part__grid=plan.drill.part.grid).select_related("reading")
    return others.order_by("-started_at").first()


def _working(drill: Drill, bpm: int) -> Drill:
    """Return the drill to work with: its notes, every beat heard, at one tempo."""
    plain = drill.plain()
    plain["giusto"], plain["name"] = "drill/1", ""
    plain["tempo"] = {"bpm": bpm, "beat": drill.tempo.beat}
    plain["clicks"]["silence"] = None
    plain["part"]["play"] = "grid"
    plain["cycles"] = 16
    return validate(plain)
