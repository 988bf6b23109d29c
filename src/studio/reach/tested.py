"""All of a player's silences near a tempo, what they say of reach, and what clock and lean let expect of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from giusto.drill import Drill, validate
from giusto.drill.file import FixedSilence
from giusto.practice.over_takes.facts import SECONDS_A_DAY, SilenceFacts
from giusto.practice.over_takes.leans import leans_by_take
from giusto.practice.over_takes.reaches import ReachAt, expected_at, is_near, reach_at, seen_of, tempi
from giusto.practice.reach import ChanceAt, Reach
from giusto.practice.reach.by_clock import Predicted
from giusto.practice.reach.by_drift import chances_at
from giusto.returns.drift import fading
from studio.accounts.models import Player
from studio.drills.shelf import shelf
from studio.takes.facts import silences_of
from studio.takes.models import Take

MOST_SILENCES = 600  # ours: the newest; of daily practice those of four months, older ones count for next to nothing
DRILL = "two-heard-two-silent"  # of the shelf: what reach is tested with, at the asked length
CURVE_POINTS = 32
FIRST_BPM = 84.0  # ours: where nothing is known yet
TESTED_CYCLES = 24  # ours: long enough for some silences of the asked length


@dataclass(frozen=True, slots=True)
class Tested:
    """What is known of a player's reach near a tempo.

    Attributes
    ----------
    at : ReachAt
    silences : list of SilenceFacts
        Newest first; those that can be read.
    weights : list of float
        How much each counts.
    curve : list of ChanceAt
        From one beat alone to beyond the longest that was tried; lengths are click to click.
    predicted : Predicted or None
        What clock and lean let expect; None where too few takes tell of them.
    """

    at: ReachAt
    silences: list[SilenceFacts]
    weights: list[float]
    curve: list[ChanceAt]
    predicted: Predicted | None

    @property
    def reach(self) -> Reach:
        """The reach."""
        return self.at.reach

    @property
    def agrees(self) -> bool | None:
        """Whether what was held and what is expected agree; None where one of them isn't there."""
        ends = self.reach.ci95_beats
        return self.predicted.agrees(ends) if self.predicted and ends else None


def silences_until(player: Player, moment: datetime) -> list[SilenceFacts]:
    """Return the newest silences up to a moment that can be read, by which all is said of reach; one query."""
    takes = Take.objects.telling_of(player).filter(started_at__lte=moment)
    return [one for one in silences_of(takes, most=MOST_SILENCES) if one.is_readable]


def tested(known: Sequence[SilenceFacts], trial: Trial, now: datetime) -> Tested | None:
    """Return what silences near a trial's tempo say, of ``silences_until`` a moment; None where there are none."""
    at, bpm = trial.at, trial.bpm
    rows = [one for one in known if is_near(one.tempo_bpm, bpm)]
    if not rows:
        return None
    longest = max(*(one.beats for one in rows), trial.beats, at.reach.beats or 1.0)
    lengths = 1 + 2.0 ** (np.arange(CURVE_POINTS + 1) / CURVE_POINTS * _octaves(longest - 1))
    weights = fading([(now - row.at).total_seconds() / SECONDS_A_DAY for row in rows]).tolist()
    curve = chances_at(at.reach.drift, lengths)
    expected = expected_at(bpm, at.returns, leans_by_take(rows), seen_of(rows))
    return Tested(at, rows, weights, curve, expected)


@dataclass(frozen=True, slots=True)
class Trial:
    """What would tell most of a reach as it is known: the drill, and how long its silences are, click to click."""

    at: ReachAt
    drill: Drill
    beats: int

    @property
    def bpm(self) -> float:
        """The tempo."""
        return self.at.bpm


def to_try(known: Sequence[SilenceFacts], bpm: float | None, now: datetime) -> Trial:
    """Return what to try next, at a tempo or at the latest, of ``silences_until`` a moment."""
    at = reach_at(known, bpm or next(iter(tempi(known)), FIRST_BPM), now)
    drill = drill_to_try(at.reach.next_beats, at.bpm)
    silence = drill.clicks.silence
    silent = silence.silent if isinstance(silence, FixedSilence) else 1
    return Trial(at, drill, silent * drill.cycle.beats + 1)


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
    """Return how far the picture reaches, in octaves above one beat alone: to the next whole one beyond the longest."""
    return float(max(int(longest).bit_length(), 3))
