"""One thing that a take shows, with its evidence: a code and figures, no words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from giusto.figures.silence import Came
from giusto.ranges import Range

Judged = Literal[
    "few", "slip", "narrow", "wide", "spread", "held", "edge", "follows", "crushed", "stretched", "place", "tired"
]
Played = Literal[
    "half",
    "double",
    "stopped-alone",
    "joined-late",
    "doubled",
    "other-part",
    "not-this-drill",
    "stopped-in-silence",
    "own-tempo",
    "beat-off",
    "late-back",
]
# Findings that say that another thing was played than was asked, and those of them that no time is read from.
NO_VERDICT = ("own-tempo", "beat-off", "not-this-drill", "other-part")
NOT_AS_ASKED = (*NO_VERDICT, "stopped-alone", "half", "double", "doubled", "late-back")


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that a take shows.

    Attributes
    ----------
    code : str
        Of time: ``few`` notes; ``slip`` of whole beats; subdivisions ``narrow`` (rushing) or ``wide``
        (dragging); ``spread`` without lean; all silences ``held``; too close to call, ``edge``; ``follows``
        the click. Of rhythm: a length in the beat ``crushed`` or ``stretched``; a beat of the cycle that
        leans, ``place``. ``tired``. Of what was played against what was asked: ``half`` and ``double`` the
        notes; ``stopped-alone``, silent in the silences; ``joined-late``; ``doubled``, two strokes for one;
        ``other-part``; ``not-this-drill``; ``stopped-in-silence``; ``own-tempo``, not the click's all through;
        ``beat-off``, the figure as asked, but some beats later (or earlier, negative) all through;
        ``late-back``, coming in some beats after the click came back, each time.
    size : float
        ``narrow``, ``wide``: percent of tempo. ``slip``: beats. ``spread``: ms. ``follows``: alpha.
        ``crushed``, ``stretched``: percent of the asked length. ``place``: ms. ``tired``: ratio. ``half``,
        ``double``: how many times. ``joined-late``: the cycle. ``doubled``: ms between the strokes.
        ``stopped-in-silence``: ms off by then. ``own-tempo``: bpm. ``late-back``, ``beat-off``: beats. Others: how many
        notes or silences.
    ci95 : (float, float) or None
    n : int
        Silences, steps, notes or cycles that show it.
    slot_ms : float or None
        ``narrow``, ``wide``: how many ms each slot must be felt wider (positive) or narrower.
    came : str or None
        ``narrow``, ``wide``: how the drift came.
    where : str or None
        Silence by number, slots of a length as ``1/2 to 1``, beat, cycle, or ``alone`` for the silences only. Of
        ``doubled``: whether the ``other`` hand struck the second time, or the ``same``.
    takes : int
        How many takes were read together for it.
    so_far : bool
        ``narrow``, ``wide``: whether too few earlier takes tell how far the player's takes differ, so that
        it stands for this take and not yet for the player.
    """

    code: Judged | Played
    size: float
    ci95: Range | None
    n: int
    slot_ms: float | None = None
    came: Came | None = None
    where: str | None = None
    takes: int = 1
    so_far: bool = False
