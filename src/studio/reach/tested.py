"""All of a player's silences near a tempo, what they say of reach, and what clock and lean let expect of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from uuid import UUID

from django.db.models import Exists, OuterRef

from giusto.drill import Drill, validate
from giusto.drill.file import FixedSilence
from giusto.practice.habit import Habit, habit
from giusto.practice.over_takes.clock import Clock, clock_of
from giusto.practice.over_takes.facts import SilenceFacts
from giusto.practice.over_takes.leans import leans_by_take
from giusto.practice.reach import Curve, Reach, fading, reach, reach_curve
from giusto.practice.reach.by_clock import Predicted, predicted_reach
from giusto.tempo import slot_ms
from giusto.timekeeper.prior import Seen
from studio.accounts.models import Player
from studio.drills.shelf import shelf
from studio.takes.facts import silences_of
from studio.takes.models import Silence, Take, TakeQuerySet

NEAR = 0.12  # ours: of the tempo; three notches of the traditional scale
MOST_SILENCES, MOST_TAKES = 1000, 1000  # ours: the newest
DRILL = "two-heard-two-silent"  # of the shelf: what reach is tested with, at the asked length
TOLD_BY = 20  # ours: the newest takes that tell clock and lean
CURVE_POINTS = 40
FIRST_BEATS, FIRST_BPM = 9, 84.0  # ours: where nothing is known yet, a silence of two cycles
TESTED_CYCLES = 24  # ours: long enough for some silences of the asked length
SECONDS_A_DAY = 86_400


@dataclass(frozen=True, slots=True)
class One:
    """A silence that was tried: its length, what came of it, how much it still counts."""

    take: UUID
    number: int
    at: datetime
    beats: float
    is_held: bool
    weight: float


@dataclass(frozen=True, slots=True)
class Tested:
    """What is known of a player's reach near a tempo.

    Attributes
    ----------
    bpm : float
    silences : list of One
        Newest first.
    reach : Reach
    curve : Curve
        From one beat to twice the longest that was tried.
    predicted : Predicted or None
        None where too few takes tell of clock and lean.
    """

    bpm: float
    silences: list[One]
    reach: Reach
    curve: Curve
    predicted: Predicted | None

    @property
    def agrees(self) -> bool | None:
        """Whether what was held and what is expected agree; None where one of them isn't there."""
        ends = self.reach.ci95_beats
        return self.predicted.agrees(ends) if self.predicted and ends else None


def tempi(player: Player) -> list[float]:
    """Return tempos that the player has silences at, the latest first, none of them near one before it."""
    found: list[float] = []
    has_silences = Exists(Silence.objects.filter(take=OuterRef("pk")))
    takes = Take.objects.telling_of(player).filter(has_silences).order_by("-started_at")
    for bpm in dict.fromkeys(takes.values_list("tempo_bpm", flat=True)[:MOST_TAKES]):
        if all(abs(bpm / other - 1) > NEAR for other in found):
            found.append(bpm)
    return found


def tested(player: Player, bpm: float, now: datetime) -> Tested | None:
    """Return what a player's silences near a tempo say; None where there are none that can be read."""
    rows = [one for one in silences_of(near(player, bpm), most=MOST_SILENCES) if one.is_readable]
    if not rows:
        return None
    weights = fading([(now - row.at).total_seconds() / SECONDS_A_DAY for row in rows])
    silences = [
        One(row.take, row.number, row.at, row.beats, row.is_held, float(weight))
        for row, weight in zip(rows, weights, strict=True)
    ]
    beats, held = [one.beats for one in silences], [one.is_held for one in silences]
    found = reach(beats, held, weights=weights)
    longest = max(*beats, found.next_beats, found.beats or 1.0)
    at = [2.0 ** (k / CURVE_POINTS * _octaves(longest)) for k in range(CURVE_POINTS + 1)]
    curve = reach_curve(beats, held, at, weights=weights)
    newest = list(dict.fromkeys(row.take for row in rows))[:TOLD_BY]
    return Tested(bpm, silences, found, curve, _predicted(rows, newest, bpm))


def near(player: Player, bpm: float) -> TakeQuerySet:
    """Return the player's takes near a tempo."""
    return Take.objects.telling_of(player).filter(tempo_bpm__range=(bpm * (1 - NEAR), bpm * (1 + NEAR)))


def drill_to_try(beats: int, bpm: float) -> Drill:
    """Return the drill that tries a length of silence at a tempo: as near as whole cycles come."""
    plain = shelf()[DRILL].drill.plain()
    silent = max(round((beats - 1) / plain["cycle"]["beats"]), 1)
    plain["tempo"]["bpm"] = bpm
    plain["clicks"]["silence"]["silent"] = silent
    heard = shelf()[DRILL].drill.clicks.silence
    turn = silent + (heard.heard if isinstance(heard, FixedSilence) else 0)
    plain["cycles"] = max(TESTED_CYCLES // turn, 1) * turn
    return validate(plain)


def _octaves(longest: float) -> float:
    """Return how far the picture reaches, in octaves above one beat: to the next whole one beyond the longest."""
    return float(max(int(longest).bit_length(), 3))


def _predicted(rows: Sequence[SilenceFacts], takes: Sequence[UUID], bpm: float) -> Predicted | None:
    """Return the reach that clock and lean of these takes let expect."""
    lean = habit(leans_by_take(row for row in rows if row.take in takes))
    clock = _clock(takes)
    if not isinstance(lean, Habit) or clock is None:
        return None
    one_slot_ms = slot_ms(bpm, clock.slots)
    low, high = clock.ci95
    ends = [one.return_ci95_ms or (0.0, 0.0) for one in rows]
    return predicted_reach(
        clock.share * one_slot_ms,
        (low * one_slot_ms, high * one_slot_ms),
        lean.tempo_percent,
        lean.ci95_percent,
        bpm=bpm,
        slots=clock.slots,
        range_ms=median((high_ms - low_ms) / 2 for low_ms, high_ms in ends),
    )


def _clock(takes: Sequence[UUID]) -> Clock | None:
    """Return the player's clock by some takes."""
    seen = Take.objects.filter(pk__in=takes).exclude(reading__sizes=None).values_list("slots", "reading__sizes")
    return clock_of([(slots, Seen(tuple(sizes["free"]), tuple(sizes["free_sd"]))) for slots, sizes in seen if sizes])
