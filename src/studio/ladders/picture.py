"""The rungs of a ladder hanging down the page, with the takes on each as small threads."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from studio.ladders.attempts import Tried
from studio.ladders.standing import LadderStanding, play_address
from studio.ladders.words import day_word, rung_word, value_word
from studio.takes.models import Reading
from studio.takes.thread import path_of
from studio.words import number

THREAD_W, THREAD_H = 26.0, 30.0
POST_W = 18.0
MOST_THREADS, PASSED_THREADS = 4, 1  # on a rung, and on one that is passed; of more, the newest
AROUND = 2  # rungs above and below today's that are always shown


@dataclass(frozen=True, slots=True)
class Small:
    """A take as a small thread: where it leads, its way, and how it ends."""

    url: str
    path: str
    sign: str
    label: str


@dataclass(frozen=True, slots=True)
class StreakPost:
    """A clean take that is asked: where it stands, and whether it is there."""

    x: float
    is_solid: bool


@dataclass(frozen=True, slots=True)
class DrawnRung:
    """A rung as it is drawn.

    Attributes
    ----------
    state : str
        ``secure``, ``now``, ``edge``, ``tried`` or ``ahead``.
    hangs : bool
        Whether the solid thread of what is secure comes down to it.
    leads : bool
        Whether the line goes on below it.
    posts : list of StreakPost
        One for each clean take that is asked, solid where it is there.
    """

    number: int
    value: str
    state: str
    hangs: bool
    leads: bool
    threads: list[Small]
    more: int
    count: int
    last: str
    says: str
    url: str
    posts: list[StreakPost]

    @property
    def so_far(self) -> int:
        """How many of the asked clean takes are there."""
        return sum(post.is_solid for post in self.posts)

    @property
    def posts_width(self) -> float:
        """How wide the posts are together."""
        return POST_W * len(self.posts)


@dataclass(frozen=True, slots=True)
class Gap:
    """Rungs without a take that are not drawn one by one."""

    count: int
    hangs: bool


def rungs(standing: LadderStanding, today: date) -> list[DrawnRung | Gap]:
    """Return a ladder's rungs from the first down to the goal; long stretches without a take are one gap."""
    core, step = standing.ladder.core, standing.step
    last = len(core.values)
    tried: defaultdict[int, list[Tried]] = defaultdict(list)
    for one in standing.tried:
        tried[one.rung].append(one)
    drawn = [one for rung, some in tried.items() for one in some[-_shown(standing, rung) :]]
    sketches = _sketches(one.take for one in drawn)
    near = range(step.rung - AROUND, step.rung + AROUND + 1)
    found: list[DrawnRung | Gap] = []
    skipped: list[int] = []
    for rung in range(1, last + 1):
        if rung not in tried and rung not in near and rung not in (1, last, step.secure):
            skipped.append(rung)
            continue
        found += _gap(skipped, standing, today)
        skipped = []
        found.append(_rung(standing, rung, tried[rung], sketches, today))
    return found


def _gap(skipped: list[int], standing: LadderStanding, today: date) -> list[DrawnRung | Gap]:
    """Return rungs that were left out: as they are where it is one, else as a gap."""
    if len(skipped) == 1:
        return [_rung(standing, skipped[0], [], {}, today)]
    return [Gap(len(skipped), skipped[-1] < standing.step.secure)] if skipped else []


def _rung(
    standing: LadderStanding, rung: int, tried: list[Tried], sketches: dict[UUID, list[float]], today: date
) -> DrawnRung:
    core, step = standing.ladder.core, standing.step
    shown = _shown(standing, rung)
    counts = step.needs if rung == step.rung and step.needs and "clean" in step.needs else None
    so_far = int(counts["so_far"]) if counts else 0
    return DrawnRung(
        number=rung,
        value=value_word(core, rung),
        state=_state(standing, rung, tried),
        hangs=rung <= step.secure,
        leads=rung < len(core.values),
        threads=[_small(one, sketches) for one in tried[-shown:]],
        more=max(len(tried) - shown, 0),
        count=len(tried),
        last=day_word(tried[-1].at.date(), today) if tried else "",
        says=_says(standing, rung, today),
        url=play_address(standing.ladder, rung),
        posts=[
            StreakPost(POST_W * (number + 0.35), number < so_far)
            for number in range(int(counts["clean"]) if counts else 0)
        ],
    )


def _shown(standing: LadderStanding, rung: int) -> int:
    """Return how many takes of a rung are drawn: a climb of a year still leaves room for what is played now."""
    step = standing.step
    return PASSED_THREADS if rung <= step.secure and rung != step.rung else MOST_THREADS


def _state(standing: LadderStanding, rung: int, tried: list[Tried]) -> str:
    step = standing.step
    if rung == step.rung and not step.done:
        return "now"
    if step.edge and rung == step.edge.rung:
        return "edge"
    if rung <= step.secure:
        return "secure"
    return "tried" if tried else "ahead"


def _says(standing: LadderStanding, rung: int, today: date) -> str:
    """Return the words beside a rung."""
    step, last = standing.step, len(standing.ladder.core.values)
    said = []
    if rung == step.rung and not step.done:
        said.append("today")
    if rung == step.offered:
        said.append("it is easy here: a double step, if you like")
    if step.edge and rung == step.edge.rung:
        said.append(f"the edge, {day_word(step.edge.day, today)}")
    if rung == step.secure:
        said.append("held")
    if rung == last:
        said.append("the goal, reached" if step.done else "the goal")
    return "; ".join(said)


def _small(one: Tried, sketches: dict[UUID, list[float]]) -> Small:
    sign = {True: "clean", False: "stopped", None: "asked"}[one.clean]
    path = path_of(sketches.get(one.take) or [0.0, 0.0], width=THREAD_W, height=THREAD_H)
    unsaid = "open" if one.is_open else "clean or not?"
    said = {True: "clean", False: "not clean", None: unsaid}[one.clean]
    return Small(one.url, path, sign, f"{one.at:%-d %B, %H:%M}: {said}")


def _sketches(takes: Iterable[UUID]) -> dict[UUID, list[float]]:
    rows = Reading.objects.filter(take__in=list(takes)).exclude(sketch=None).values_list("take", "sketch")
    return {take: sketch for take, sketch in rows if sketch}


def summary(standing: LadderStanding) -> str:
    """Return a ladder's picture in a sentence, for those who can't see it."""
    core, step = standing.ladder.core, standing.step
    takes = f"{number(len(standing.tried))} take{'' if len(standing.tried) == 1 else 's'}"
    secure = f"held up to {rung_word(core, step.secure)}" if step.secure else "nothing held yet"
    return f"{len(core.values)} steps, {takes}; {secure}, today at {rung_word(core, step.rung)}."
