"""A ladder in its course: on which day each rung became secure, with how many takes; and what stalled."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from giusto.practice.ladder import next_step
from studio.ladders.standing import Standing
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


def rung_rows(standing: Standing, today: date) -> list[RungRow]:
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
        words = "today" if is_now else day_word(since, today) if since else "the goal" if rung == last else ""
        state = "now" if is_now else "secure" if rung <= step.secure else "ahead"
        posts = [(4.0 + 18 * index, index < so_far) for index in range(wanted)]
        found.append(RungRow(value_word(core, rung), state, words, counts.get(rung, 0), posts))
    return found


def secure_by(standing: Standing, moments: Sequence[datetime]) -> list[str]:
    """Return what was secure at some moments, such as the ends of weeks."""
    core = standing.ladder.core
    found = []
    for at in moments:
        secure = next_step(core, standing.attempts, at=at).secure if standing.attempts else 0
        found.append(value_word(core, secure) if secure else "")
    return found


def stalled(standings: Sequence[Standing], today: date) -> list[Standing]:
    """Return the ladders on which nothing new became secure for weeks, though they were played."""
    return [one for one in standings if not one.step.done and _is_stalled(one, today)]


def _is_stalled(standing: Standing, today: date) -> bool:
    since = today - timedelta(weeks=STALLED_WEEKS)
    recent = [one for one in standing.attempts if one.day >= since]
    if len(recent) < STALLED_TAKES or len(recent) == len(standing.attempts):
        return False
    before = [one for one in standing.attempts if one.day < since]
    return next_step(standing.ladder.core, before, at=before[-1].at).secure >= standing.step.secure


def _first(standing: Standing) -> dict[int, date]:
    """Return the day on which each rung became secure: what is secure never falls, so that halving finds it."""
    core, attempts = standing.ladder.core, standing.attempts

    def secure_after(count: int) -> int:
        return next_step(core, attempts[:count], at=attempts[count - 1].at).secure if count else 0

    found = {}
    counts = range(len(attempts) + 1)
    for rung in range(1, standing.step.secure + 1):
        count = bisect_left(counts, rung, key=secure_after)
        if 0 < count <= len(attempts):
            found[rung] = attempts[count - 1].day
    return found
