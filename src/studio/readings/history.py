"""A take among the player's others: the habit at its tempo and length of silence, earlier takes of its exercise."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median
from uuid import UUID

from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.figures.beat_leans import BeatLeanOverTakes, beat_leans_over_takes
from giusto.figures.tendency import Tendency
from giusto.missing import Missing
from giusto.practice.advice import Earlier
from giusto.practice.clean import in_the_end
from giusto.practice.habit import Habit, Usual, habit, usual
from giusto.reading import Reading
from giusto.timekeeper.prior import FEWEST_TAKES
from studio.takes.leans import leans_by_take
from studio.takes.models import Reading as ReadingRow
from studio.takes.models import Silence, Take

MOST_TAKES = 40  # ours: the newest of them; older ones are another player
LENGTHS = (0.75, 1.34)  # ours: silences this much shorter or longer count as the same length
COLUMNS = ("heard_ms", "heard_sd_ms", "interval_sd_ms", "clock_sd_ms", "motor_sd_ms", "alpha", "swing")


@dataclass(frozen=True, slots=True)
class History:
    """What the player's other takes like this one say.

    Attributes
    ----------
    takes : int
        Takes near this tempo that the habit rests on.
    lean : Habit or Missing
        The habit in silences of this length, or why it can't be given.
    returns : Usual or None
        Where returns from such silences usually fall.
    usual : dict
        Where the figures of ``COLUMNS`` usually fall, by name; None for too few.
    beat_leans : list of BeatLeanOverTakes
        Beats of this cycle over takes of this drill, this take included; none for fewer than three.
    before : list of Earlier
        Earlier takes of the same exercise, oldest first.
    """

    takes: int
    lean: Habit | Missing
    returns: Usual | None
    usual: dict[str, Usual | None]
    beat_leans: list[BeatLeanOverTakes]
    before: list[Earlier]


def history(take: Take, reading: Reading) -> History:
    """Return what is known beside a take, in a bounded number of queries."""
    like = list(Take.objects.like(take).read().order_by("-started_at").values_list("pk", flat=True)[:MOST_TAKES])
    rows = list(ReadingRow.objects.filter(take__in=like).values(*COLUMNS))
    silences = _silences(like, reading)
    leans = leans_by_take(silences)
    return History(
        takes=len(leans) if reading.silences else len(like),
        lean=habit(leans),
        returns=usual([row.return_ms for row in silences if row.return_ms is not None]),
        usual={name: usual([row[name] for row in rows if row[name] is not None]) for name in COLUMNS},
        beat_leans=_beat_leans(take, reading),
        before=earlier_takes(take),
    )


def earlier_takes(take: Take) -> list[Earlier]:
    """Return what earlier takes of the same exercise were, oldest first."""
    if take.exercise_id is None:
        return []
    takes = Take.objects.same_hand(take).filter(exercise=take.exercise_id).ended().before(take)
    rows = takes.values_list("drill", "reading__is_clean", "said_clean", "reading__brief__tendency")[:MOST_TAKES]
    return [found for row in rows if (found := _earlier(*row))][::-1]


def _earlier(drill: object, is_clean: bool | None, said: bool | None, lean: dict[str, object] | None) -> Earlier | None:
    try:
        tendency = Tendency(**{**lean, "ci95_percent": tuple(lean["ci95_percent"])}) if lean else None  # type: ignore[arg-type]
        return Earlier(validate(drill), in_the_end(is_clean, is_whole=True, said=said), tendency)
    except (GiustoError, TypeError):  # kept by a version whose drills are no longer taken
        return None


def _silences(like: list[UUID], reading: Reading) -> list[Silence]:
    if not reading.silences:
        return []
    beats = median(silence.beats for silence in reading.silences)
    near = (beats * LENGTHS[0], beats * LENGTHS[1])
    return list(
        Silence.objects.filter(take__in=like, beats__range=near, lean_percent__isnull=False).order_by("take", "number")
    )


def _beat_leans(take: Take, reading: Reading) -> list[BeatLeanOverTakes]:
    """Pool the beats of this cycle over takes of the same drill."""
    others = Take.objects.like(take).same_drill(take).order_by("-started_at")
    kept = [places for places in others.values_list("reading__brief__places", flat=True)[:MOST_TAKES] if places]
    if not reading.places or len(kept) + 1 < FEWEST_TAKES:
        return []
    gains = [[place.gain_ms for place in reading.places], *([p["gain_ms"] for p in places] for places in kept)]
    ends = [[place.ci95_ms for place in reading.places], *([p["ci95_ms"] for p in places] for places in kept)]
    half = [[(high - low) / 2 for low, high in row] for row in ends]
    return beat_leans_over_takes(gains, half)
