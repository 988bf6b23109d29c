"""A ladder in its course: on which day each rung became secure, with how many takes; and what stalled."""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from giusto.practice.ladder import climbed, secure_course
from studio.ladders.standing import LadderStanding
from studio.ladders.words import day_word, value_word

STALLED_WEEKS, STALLED_TAKES = 3, 9  # ours
AHEAD = 3  # rungs ahead that are shown


@dataclass(frozen=True, slots=True)
class RungRow:
    """A rung: its value, whether it is secure, since when, with how many takes."""

    value: str
    state: str
    since: str
    takes: int
    posts: list[tuple[float, bool]]

    @property
    def posts_width(self) -> float:
        """How wide the posts are together."""
        return 18.0 * len(self.posts)


def rung_rows(standing: LadderStanding, today: date) -> list[RungRow]:
    """Return the rungs up to a few ahead of where the player stands, and the goal."""
    core, step = standing.ladder.core, standing.step
    counts = Counter(one.rung for one in standing.attempts)
    first = _first(standing)
    last = len(core.values)
    shown = [rung for rung in range(1, last + 1) if rung <= step.rung + AHEAD or rung == last]
    shown = [rung for rung in shown if rung in counts or rung >= step.rung or rung in (1, step.secure)]
    found = []
    for rung in shown:
        is_now = rung == step.rung and not step.done
        needs = step.needs if is_now and step.needs and "clean" in step.needs else None
        wanted, so_far = (int(needs["clean"]), int(needs["so_far"])) if needs else (0, 0)
        since = first.get(rung)
        words = "now" if is_now else day_word(since, today) if since else "the goal" if rung == last else ""
        state = "now" if is_now else "secure" if rung <= step.secure else "ahead"
        posts = [(4.0 + 18 * index, index < so_far) for index in range(wanted)]
        found.append(RungRow(value_word(core, rung), state, words, counts.get(rung, 0), posts))
    return found


def secure_by(standing: LadderStanding, moments: Sequence[datetime]) -> list[str]:
    """Return what was secure at some moments, such as the ends of weeks."""
    core, attempts = standing.ladder.core, standing.attempts
    secure, times = [0, *secure_course(core, attempts)], [one.at for one in attempts]
    found = [secure[bisect_right(times, at)] for at in moments]
    return [value_word(core, rung) if rung else "" for rung in found]


def stalled(standings: Sequence[LadderStanding], today: date) -> list[LadderStanding]:
    """Return the ladders on which nothing new became secure for weeks, though they were played."""
    return [one for one in standings if not one.step.done and _is_stalled(one, today)]


def _is_stalled(standing: LadderStanding, today: date) -> bool:
    since = today - timedelta(weeks=STALLED_WEEKS)
    attempts = standing.attempts
    before = [one for one in attempts if one.day < since]
    if len(attempts) - len(before) < STALLED_TAKES or not before:
        return False
    return climbed(standing.ladder.core, before).secure >= standing.step.secure


def _first(standing: LadderStanding) -> dict[int, date]:
    """Return the day on which each rung became secure."""
    found: dict[int, date] = {}
    attempts = standing.attempts
    for attempt, secure in zip(attempts, secure_course(standing.ladder.core, attempts), strict=True):
        for rung in range(len(found) + 1, secure + 1):
            found[rung] = attempt.day
    return found
