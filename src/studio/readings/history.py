"""A take among the player's others: the habit at its tempo and length of silence, earlier tries of its drill."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median
from typing import Any

import numpy as np

from giusto.habit import FEWEST_TAKES, Habit, Usual, habit, usual
from giusto.places import PlaceOverTakes, places_over_takes
from studio.takes.models import Reading, Silence, Take

MOST_TAKES = 40  # ours: the newest of them; older ones are another player
LENGTHS = (0.75, 1.34)  # ours: silences this much shorter or longer count as the same length
COLUMNS = ("heard_ms", "heard_sd_ms", "interval_sd_ms", "clock_sd_ms", "motor_sd_ms", "alpha", "swing")


@dataclass(frozen=True, slots=True)
class History:
    """What the player's other takes like this one say.

    Attributes
    ----------
    takes : int
        Takes near this tempo.
    lean : Habit or str
        The habit in silences of this length, or why it can't be given.
    returns : Usual or None
        Where returns from such silences usually fall.
    usual : dict
        Where the figures of ``COLUMNS`` usually fall, by name; None for too few.
    places : list of PlaceOverTakes
        Beats of this cycle over takes of this drill, this take included; none for fewer than three.
    held_before : list of bool
        For each earlier take of the very same drill, oldest first.
    """

    takes: int
    lean: Habit | str
    returns: Usual | None
    usual: dict[str, Usual | None]
    places: list[PlaceOverTakes]
    held_before: list[bool]


def history(take: Take, spec: dict[str, Any]) -> History:
    """Return what is known beside a take, in a bounded number of queries."""
    like = list(Take.objects.like(take).order_by("-started_at").values_list("pk", flat=True)[:MOST_TAKES])
    rows = list(Reading.objects.filter(take__in=like).values(*COLUMNS))
    silences = _silences(like, spec)
    return History(
        takes=len(like),
        lean=habit(list(_by_take(silences))),
        returns=usual([row.return_ms for row in silences if row.return_ms is not None]),
        usual={name: usual([row[name] for row in rows if row[name] is not None]) for name in COLUMNS},
        places=_places(take, spec),
        held_before=held_before(take),
    )


def held_before(take: Take) -> list[bool]:
    """Return for each earlier take of the same drill whether all was held, oldest first."""
    earlier = Take.objects.like(take).filter(drill=take.drill).before(take)
    return [*earlier.values_list("reading__is_held", flat=True)[:MOST_TAKES]][::-1]


def _silences(like: list[Any], spec: dict[str, Any]) -> list[Silence]:
    if not spec["silences"]:
        return []
    beats = median(silence["beats"] for silence in spec["silences"])
    near = (beats * LENGTHS[0], beats * LENGTHS[1])
    return list(
        Silence.objects.filter(take__in=like, beats__range=near, lean_percent__isnull=False).order_by("take", "number")
    )


def _by_take(silences: Iterable[Silence]) -> Iterable[tuple[Any, Any]]:
    """Yield leans and their variances, take by take."""
    found: defaultdict[Any, list[tuple[float, float]]] = defaultdict(list)
    for row in silences:
        half = ((row.lean_high_percent or 0.0) - (row.lean_low_percent or 0.0)) / 2
        found[row.take_id].append((row.lean_percent or 0.0, (half / 1.96) ** 2))
    for pairs in found.values():
        yield np.array([p for p, _ in pairs]), np.array([v for _, v in pairs])


def _places(take: Take, spec: dict[str, Any]) -> list[PlaceOverTakes]:
    """Pool the beats of this cycle over takes of the same drill."""
    others = Take.objects.like(take).filter(drill=take.drill).values_list("reading__spec__places", flat=True)
    found = [places for places in (spec["places"], *others[:MOST_TAKES]) if places]
    if len(found) < FEWEST_TAKES or not spec["places"]:
        return []
    gains = [[place["gain_ms"] for place in places] for places in found]
    half = [[(place["ci95_ms"][1] - place["ci95_ms"][0]) / 2 for place in places] for places in found]
    return places_over_takes(gains, half)
