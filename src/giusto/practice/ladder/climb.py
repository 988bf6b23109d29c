"""Where on its ladder a player stands: replayed from the attempts, by the rule exactly as it is worded.

Nothing is stored: who corrects or deletes an attempt corrects all that came of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Any, Literal

from giusto.drill import Drill
from giusto.practice.ladder.attempts import Attempt
from giusto.practice.ladder.band import Chance, Chances
from giusto.practice.ladder.file import Band, Edge, Ladder, Rule, Stay, VarySilence, VaryTempo, Week

EASY_IN_A_ROW = 2  # ours: attempts far inside their limits after which a double step is offered
BREAK_DAYS, MOST_MORE_BACK = 7, 4  # by the contract of ladder/1: a rung more back for each week away

Why = Literal[
    "first",
    "streak",
    "fell",
    "moved",
    "next day",
    "break",
    "returning",
    "stay",
    "stayed",
    "edge",
    "overnight",
    "week reached",
    "band",
    "off day",
    "done",
]


@dataclass(frozen=True, slots=True)
class FoundEdge:
    """Where an attempt wasn't clean, and from which day on one may rise again."""

    rung: int
    day: date
    until: date


@dataclass(frozen=True, slots=True)
class Step:
    """What to play now, and why: ``step/1``.

    Attributes
    ----------
    rung : int
        From 1.
    value : float or None
        Bpm, cycles or slots.
    secure : int
        The highest rung passed, 0 if none.
    needs : dict or None
        What passes the rung, and how much of it is there; None where today asks for nothing more.
    why : str
    done : bool
    drill : Drill
    chance : Chance or None
        Of a clean attempt on the rung, under the rule ``band``.
    ended : int
        The rung where the last day ended.
    away : int
        Full days without an attempt before this one.
    edge : FoundEdge or None
        While its nights must pass.
    offered : int or None
        The rung above, offered as a double step where the last attempts were easy; never taken unasked.
    """

    rung: int
    value: float | None
    secure: int
    needs: dict[str, float] | None
    why: Why
    done: bool
    drill: Drill
    chance: Chance | None = None
    ended: int = 1
    away: int = 0
    edge: FoundEdge | None = None
    offered: int | None = None

    def plain(self) -> dict[str, Any]:
        """Return the step as the file has it."""
        value = self.value
        found: dict[str, Any] = {
            "giusto": "step/1",
            "rung": self.rung,
            "value": int(value) if value is not None and value == int(value) else value,
            "secure": self.secure,
            "needs": self.needs,
            "why": self.why,
            "done": self.done,
            "drill": self.drill.plain(),
        }
        if self.chance:
            found["chance"] = {"estimate": self.chance.estimate, "ci95": list(self.chance.ci95)}
        return found


def next_step(ladder: Ladder, attempts: Sequence[Attempt], *, at: datetime, off: bool = False) -> Step:
    """Return what to play at a moment.

    Parameters
    ----------
    ladder : Ladder
    attempts : sequence of Attempt
        Ascending; those after the moment are not looked at.
    at : datetime
        With its offset; its written date is the day.
    off : bool
        Whether that day is an off day.

    Returns
    -------
    Step
    """
    made = [attempt for attempt in attempts if attempt.at <= at]
    off_days = {attempt.day for attempt in made if attempt.off} | ({at.date()} if off else set())
    climb = _Climb(ladder)
    for attempt in made:
        climb.begin_day(attempt.day, off=attempt.day in off_days)
        climb.count(attempt)
    climb.begin_day(at.date(), off=at.date() in off_days)
    return climb.step()


@dataclass
class _Climb:
    """The state while attempts are replayed; the letters are those of the contract."""

    ladder: Ladder
    r: int = 1
    k: int = 0
    f: int = 0
    secure: int = 0
    e: int = 1
    why: Why = "first"
    done: bool = False
    day: date | None = None
    is_off: bool = False
    target: int = 0  # of a return, 0 where there is none
    held: Why | None = None  # why a rung that was passed is not left today
    minutes: float = 0.0
    stayed: bool = False
    edge_day: date | None = None
    edge_rung: int = 0
    away: int = 0
    week: tuple[int, int] = (0, 0)
    week_top: int = 0
    made: list[Attempt] = field(default_factory=list)

    @property
    def last(self) -> int:
        """The last rung."""
        return len(self.ladder.values)

    @property
    def clean(self) -> int:
        """How many clean attempts in a row pass a rung today."""
        rule = self.ladder.rule
        return 0 if isinstance(rule, Stay | Band) else rule.clean + self.is_off

    @property
    def usual(self) -> Why:
        """The reason that the rule itself gives."""
        rule = self.ladder.rule
        if isinstance(rule, Stay | Band):
            return rule.kind
        return "edge" if self.edge_day else "streak"

    def arrive(self, rung: int) -> None:
        """Stand on a rung anew."""
        self.r, self.k, self.f, self.minutes, self.held = rung, 0, 0, 0.0, None

    def begin_day(self, day: date, *, off: bool) -> None:
        """Begin a day, where it is not the one that goes on already."""
        if self.day is not None and day <= self.day:
            return
        before, self.day, self.is_off = self.day, day, off
        self.away = (day - before).days - 1 if before else 0
        self._begin_week(day)
        if before is None or self.done:
            return
        if off:
            self._settle(self.last)
        self.e = self._ended_on()
        self.stayed, self.target = False, 0
        if self.held:
            self.k, self.held = 0, None
        rule = self.ladder.rule
        if isinstance(rule, Band):
            self.why = "band"
            return
        if isinstance(rule, Edge) and self.edge_day:
            if (day - self.edge_day).days >= rule.nights:
                self.edge_day = None
                self.arrive(max(1, self.secure))
                self.e, self.why = self.r, "overnight"
            else:
                self.why = "edge"
            return
        more = min(self.away // BREAK_DAYS, MOST_MORE_BACK)
        begin = max(1, self.e - self.ladder.back - more)
        if begin < self.e:
            self.arrive(begin)
            self.target, self.why = self.e, "break" if more else "next day"
            return
        if self.r != self.e:
            self.arrive(self.e)
        self.why = self.usual

    def _ended_on(self) -> int:
        """Return the rung where the last day ended: the one above where it was stayed on, unless it was an off day."""
        if not self.stayed:
            return self.r
        return self.r if self.held == "off day" else self.r + 1

    def _begin_week(self, day: date) -> None:
        rule, vary = self.ladder.rule, self.ladder.vary
        week = day.isocalendar()[:2]
        if not isinstance(rule, Week) or not isinstance(vary, VaryTempo | VarySilence) or week == self.week:
            return
        self.week = week
        values = [float(value or 0) for value in self.ladder.values]
        wanted = (values[self.secure - 1] if self.secure else float(vary.start)) + rule.by
        self.week_top = next((n for n, value in enumerate(values, start=1) if value >= wanted - 1e-9), self.last)

    def count(self, attempt: Attempt) -> None:
        """Count one attempt."""
        self.made.append(attempt)
        if self.done or self.stayed:
            return
        rule = self.ladder.rule
        if attempt.rung != self.r:
            self.arrive(attempt.rung)
            self.target, self.why = 0, "moved"
        elif self.why in ("first", "moved", "next day", "break", "overnight", "fell"):
            self.why = self.usual
        if isinstance(rule, Band):
            self.why = "band"  # which rung is next is chosen once it is asked for
            return
        self.k, self.f = (self.k + 1, 0) if attempt.clean else (0, self.f + 1)
        if self.target:
            self._go_on_returning(attempt.clean)
            if attempt.clean:
                return
        if isinstance(rule, Stay):
            self._stay(rule, attempt)
        elif attempt.clean:
            if self.k >= self.clean and not self.held:
                self._pass()
        else:
            self._miss(rule)

    def _miss(self, rule: Rule) -> None:
        """Find the edge, or fall, by an attempt that isn't clean."""
        if not isinstance(rule, Edge):
            self._fall()
            return
        if not self.edge_day:
            self.edge_day, self.edge_rung = self.day, self.r
        self.arrive(max(1, self.r - 1))
        self.why = "edge"

    def _go_on_returning(self, clean: bool) -> None:
        """Go one up where a return goes on; one that isn't clean ends it."""
        if not clean:
            self.target, self.why = 0, self.usual
            return
        if self.r + 1 > self._top():
            self.target = 0
        else:
            self.arrive(self.r + 1)
            if self.r >= self.target:
                self.target = 0
        self.why = "returning" if self.target else self.usual

    def _top(self) -> int:
        """Return the highest rung that may be risen to now."""
        top = self.last
        if self.is_off:
            top = min(top, self.e)
        if isinstance(self.ladder.rule, Week):
            top = min(top, self.week_top)
        return top

    def _pass(self) -> None:
        """Pass the rung: secure, and up one where that may be."""
        self.secure = max(self.secure, self.r)
        if self.r == self.last:
            self.done, self.why = True, "done"
        elif self.edge_day:
            self.held = self.why = "edge"
        elif self.r + 1 <= self._top():
            self.arrive(self.r + 1)
            self.why = self.usual
        else:
            self.held = self.why = "off day" if self.is_off and self.r >= self.e else "week reached"

    def _stay(self, rule: Stay, attempt: Attempt) -> None:
        if not attempt.clean:
            self._fall()
            return
        self.minutes = round(self.minutes + attempt.minutes, 9)
        if self.minutes < rule.minutes:
            return
        self.secure = max(self.secure, self.r)
        if self.r == self.last:
            self.done, self.why = True, "done"
            return
        self.stayed, self.minutes, self.why = True, 0.0, "stayed"
        if self.is_off and self.r >= self.e:
            self.held = "off day"

    def _fall(self) -> None:
        falls = self.ladder.falls
        if not falls or self.f < falls.after:
            return
        to = max(1, self.r - falls.by)
        fell = to < self.r
        self.arrive(to)
        if fell:
            self.why = "fell"

    def _settle(self, most: int) -> None:
        """Choose the rung whose chance lies in the band, up to one, from the one that was played last."""
        rule = self.ladder.rule
        if not isinstance(rule, Band) or not self.made:
            return
        chances = Chances(self.made, rungs=self.last)
        self.r = chances.rung_in(rule.low, rule.high, now=self.made[-1].rung, most=most)

    def step(self) -> Step:
        """Return where that leads."""
        self._settle(min(self.last, self.e) if self.is_off else self.last)
        rule = self.ladder.rule
        chance = Chances(self.made, rungs=self.last).of(self.r) if isinstance(rule, Band) else None
        return Step(
            rung=self.r,
            value=self.ladder.values[self.r - 1],
            secure=self.secure,
            needs=self._needs(),
            why=self.why,
            done=self.done,
            drill=self.ladder.drills[self.r - 1],
            chance=chance,
            ended=self.e,
            away=self.away,
            edge=self._edge(),
            offered=self._offered(),
        )

    def _edge(self) -> FoundEdge | None:
        rule = self.ladder.rule
        if not isinstance(rule, Edge) or not self.edge_day:
            return None
        return FoundEdge(self.edge_rung, self.edge_day, self.edge_day + timedelta(days=rule.nights))

    def _offered(self) -> int | None:
        """Return the rung above one just risen to, where the last attempts lay far inside their limits."""
        last = self.made[-EASY_IN_A_ROW:]
        has_just_risen = bool(last) and self.r == self.secure + 1 == last[-1].rung + 1 and not self.target
        is_easy = len(last) == EASY_IN_A_ROW and all(attempt.easy for attempt in last)
        is_asked = has_just_risen and is_easy and not isinstance(self.ladder.rule, Stay | Band)
        return self.r + 1 if is_asked and self.r + 1 <= self._top() else None

    def _needs(self) -> dict[str, float] | None:
        rule = self.ladder.rule
        if self.done or self.stayed or self.held or isinstance(rule, Band):
            return None
        if self.target:
            return {"clean": 1, "so_far": 0}
        if isinstance(rule, Stay):
            return {"minutes": _plain(rule.minutes), "so_far": _plain(self.minutes)}
        if self.edge_day and self.r <= self.secure:
            return None
        return {"clean": self.clean, "so_far": self.k}


def _plain(minutes: float) -> float:
    return int(minutes) if minutes == int(minutes) else minutes
