"""A take among the player's others: the habit at its tempo and length of silence, earlier takes of its exercise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from giusto.errors import GiustoError
from giusto.figures.beat_leans import BeatLeanOverTakes, beat_leans_over_takes
from giusto.missing import Missing
from giusto.practice.advice import Earlier
from giusto.practice.clean import LIMITS, Limits
from giusto.practice.habit import Habit, Usual, habit, usual
from giusto.practice.over_takes.facts import SilenceFacts, TakeFacts
from giusto.practice.over_takes.leans import leans_by_take
from giusto.practice.over_takes.reaches import returns_of
from giusto.reading import Reading
from giusto.returns.drift import Returns
from giusto.timekeeper.prior import FEWEST_TAKES
from studio.takes.facts import facts_of, silences_of
from studio.takes.models import Take
from studio.takes.plan import drill_of

MOST_TAKES = 40  # ours: the newest of them; older ones are another player
LENGTHS = (0.75, 1.34)  # ours: silences this much shorter or longer count as the same length
FOLLOWED = {"heard_ms": "place_ms", "heard_sd_ms": "spread_ms"}  # figures of a take, by the names of its facts
FOLLOWED |= {name: name for name in ("interval_sd_ms", "clock_sd_ms", "motor_sd_ms", "alpha", "swing")}


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
        Where figures of single takes usually fall, by name; None for too few.
    beat_leans : list of BeatLeanOverTakes
        Beats of this cycle over takes of this drill, this take included; none for fewer than three.
    before : list of Earlier
        Earlier takes of the same exercise, oldest first.
    known : Returns
        Of earlier takes near the tempo, of whatever exercise.
    """

    takes: int
    lean: Habit | Missing
    returns: Usual | None
    usual: dict[str, Usual | None]
    beat_leans: list[BeatLeanOverTakes]
    before: list[Earlier]
    known: Returns


def history(take: Take, reading: Reading, limits: Limits = LIMITS) -> History:
    """Return what is known beside a take, in a bounded number of queries; clean by the limits of its exercise."""
    like = facts_of(Take.objects.like(take).read().order_by("-started_at")[:MOST_TAKES], figures=("places",))
    near = silences_of(Take.objects.these(one.take for one in like))
    silences = _like(near, reading)
    leans = leans_by_take(silences)
    return History(
        takes=len(leans) if reading.silences else len(like),
        lean=habit(leans),
        returns=usual([one.return_ms for one in silences if one.return_ms is not None]),
        usual=_usual(like),
        beat_leans=_beat_leans(take, reading, like),
        before=earlier_takes(take, limits),
        known=returns_of([one for one in near if one.at < take.started_at], take.started_at),
    )


def earlier_takes(take: Take, limits: Limits = LIMITS) -> list[Earlier]:
    """Return what earlier takes of the same exercise were, oldest first."""
    if take.exercise_id is None:
        return []
    takes = Take.objects.same_hand(take).filter(exercise=take.exercise_id).ended().before(take)[:MOST_TAKES]
    drills = dict(takes.values_list("pk", "drill"))
    found = (_earlier(one, drills[one.take], limits) for one in facts_of(takes, figures=("tendency",)))
    return [one for one in found if one][::-1]


def _earlier(one: TakeFacts, drill: object, limits: Limits) -> Earlier | None:
    try:
        return Earlier(drill_of(drill), one.clean(limits), one.figures.tendency if one.figures else None)
    except GiustoError:  # kept by a version whose drills are no longer taken
        return None


def _usual(like: Sequence[TakeFacts]) -> dict[str, Usual | None]:
    """Return where the figures of single takes usually fall."""
    values = {name: [getattr(one, fact) for one in like] for name, fact in FOLLOWED.items()}
    return {name: usual([value for value in some if value is not None]) for name, some in values.items()}


def _like(silences: Sequence[SilenceFacts], reading: Reading) -> list[SilenceFacts]:
    """Leave only silences of about the length of a reading's, oldest first."""
    if not reading.silences:
        return []
    beats = median(silence.beats for silence in reading.silences)
    near = (one for one in silences if beats * LENGTHS[0] <= one.beats <= beats * LENGTHS[1])
    return [one for one in near if one.lean_percent is not None]


def _beat_leans(take: Take, reading: Reading, like: Sequence[TakeFacts]) -> list[BeatLeanOverTakes]:
    """Pool the beats of this cycle over takes of the same drill."""
    others = [one.figures.places for one in like if one.drill_key == take.drill_key and one.figures]
    kept = [places for places in others if places]
    if not reading.places or len(kept) + 1 < FEWEST_TAKES:
        return []
    tables = [reading.places, *kept]
    half = [[(place.ci95_ms[1] - place.ci95_ms[0]) / 2 for place in places] for places in tables]
    return beat_leans_over_takes([[place.gain_ms for place in places] for places in tables], half)
