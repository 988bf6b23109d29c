"""What to play next: the drill again, an easier and a harder one, and which of them the takes speak for."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, TypeAlias

import numpy as np

from giusto.drill import Drill, changes
from giusto.figures.tendency import SPREAD_PERCENT, Tendency, verdict_of
from giusto.pooling import pool
from giusto.practice.finding import NOT_AS_ASKED, Finding
from giusto.practice.verdict import LEANS, Verdict
from giusto.ranges import Range, rounded, sd_of
from giusto.returns.drift import NONE, Drift, Returns, drift_of, joined
from giusto.schedule import schedule
from giusto.tempo import slot_ms

CLEAN_IN_A_ROW = 2  # common practice: three, or four; ours: held twice, then one thing less to lean on
SAME_AT_MOST = 3  # ours: takes of the very same drill in a row before something is changed
TOLD_BY = 6  # ours: silences that should tell a lean; with fewer, a longer take is asked for
POOLED_TAKES = 5  # ours: the last takes of a drill that are read together
BACK_AT_MOST = 2  # ours: times that one drill is come back to before the way there is made in smaller steps

Way: TypeAlias = Literal["again", "easier", "harder"]
Change: TypeAlias = Literal[
    "",
    "more_notes",
    "fewer_notes",
    "shorter_silence",
    "longer_silence",
    "more_heard",
    "sparse_click",
    "more_clicks",
    "more_cycles",
    "slower",
    "faster",
    "back",
]
CHANGES: dict[Change, Callable[[Drill], Drill | None]] = {
    "more_notes": changes.more_notes,
    "fewer_notes": changes.fewer_notes,
    "shorter_silence": changes.shorter_silence,
    "longer_silence": changes.longer_silence,
    "more_heard": changes.more_heard,
    "sparse_click": changes.sparse_click,
    "more_clicks": changes.more_clicks,
    "more_cycles": changes.more_cycles,
    "slower": changes.slower,
    "faster": changes.faster,
}
# In the order in which they are tried where a finding asks for none.
EASIER: tuple[Change, ...] = (
    "shorter_silence",
    "more_notes",
    "more_heard",
    "sparse_click",
    "more_clicks",
    "slower",
)
EASIER_WITH_CLICK: tuple[Change, ...] = ("fewer_notes", "slower")
SHORTER: tuple[Change, ...] = ("shorter_silence", "more_heard", "sparse_click", "more_clicks")  # ways alone
HARDER: tuple[Change, ...] = ("longer_silence", "fewer_notes", "faster")
HARDER_WITH_CLICK: tuple[Change, ...] = ("longer_silence", "faster")
MOST_LOOKED_AT = 8  # ours: silences of a take by which drills are compared
ANOTHER_PART = set(NOT_AS_ASKED) - {"stopped-alone"}  # what was asked is still to be played: no other drill helps
AS_HARD = 1e-6  # of a chance: less is no difference


@dataclass(frozen=True, slots=True)
class Earlier:
    """What is known of an earlier take of the exercise.

    Attributes
    ----------
    drill : Drill
        As played.
    is_clean : bool or None
        None where it is open, or nobody can say.
    tendency : Tendency or None
    returns : Returns
        Of its silences.
    """

    drill: Drill
    is_clean: bool | None
    tendency: Tendency | None = None
    returns: Returns = NONE


@dataclass(frozen=True, slots=True)
class Proposal:
    """A drill to play next, and the one change that makes it; ``again`` changes nothing, ``back`` returns."""

    way: Way
    change: Change
    drill: Drill


@dataclass(frozen=True, slots=True)
class Advice:
    """What to play next, and what for.

    Attributes
    ----------
    proposed : Proposal
        What the takes speak for.
    choices : tuple of Proposal
        Again, easier, harder, the proposed one among them; the latter two only where the drill can be made so.
    pooled : Finding or None
        A lean that only the last takes together show.
    tries : int
        Takes of this exercise so far, this one included: with fewer than three, advice is a try.
    beside : Proposal or None
        Where the proposed one is easier, or harder, the next way in that direction.
    """

    proposed: Proposal
    choices: tuple[Proposal, ...]
    pooled: Finding | None
    tries: int
    beside: Proposal | None = None


def advise(
    drill: Drill,
    verdict: Verdict,
    found: Sequence[Finding],
    *,
    now: Earlier,
    before: Sequence[Earlier] = (),
    known: Returns = NONE,
) -> Advice:
    """Return what to play next.

    Parameters
    ----------
    drill : Drill
        As played.
    verdict : Verdict
    found : sequence of Finding
        Of this take.
    now : Earlier
        This take, as it will be an earlier one.
    before : sequence of Earlier
        Earlier takes of the exercise, oldest first.
    known : Returns
        Of the player's earlier takes near the tempo, of whatever exercise.

    Returns
    -------
    Advice

    Notes
    -----
    One change at a time, and what the verdict says, it asks for. What was not played as asked: the same again. Uneven
    hands: slower. Slips and a growing lean: half the silence. A drift that came at once: one more cycle heard before
    it. A lean: more notes, to be felt through the silence, and if that was tried, a shorter one. What is too close to
    call asks for a longer take, or is looked for in the last takes together. Held asks for the same again, and held
    twice in a row for the drill that was left for an easier one, or a step harder; never for an easier one. Nothing is
    proposed a fourth time running, but the part that was not played yet. No drill is called easier whose silences
    are held less likely, and none harder whose are held more likely.
    """
    takes = [*before, now]
    pooled = _pooled(drill, takes) if verdict.code in ("edge", "uneven") and now.is_clean is not True else None
    ways = _Ways(drill, drift_of(joined(known, now.returns)))
    seen = [*([pooled] if pooled else []), *found]
    asked = [made for made in _asked_changes(drill, verdict, seen, takes) if ways.is_one(made)]
    easier, harder = ways.easier(), ways.harder()
    proposed = next((made for made in asked if not _worn(made, takes)), None) or Proposal("again", "", drill)
    another = any(finding.code in ANOTHER_PART for finding in found)
    if _worn(proposed, takes) and not another:
        others = (harder, easier) if verdict.code == "held" else (easier, harder)
        proposed = next((step for step in others if step and not _worn(step, takes)), proposed)
    if proposed.way == "easier":
        easier = proposed
    elif proposed.way == "harder":
        harder = proposed
    again = proposed if proposed.way == "again" else Proposal("again", "", drill)
    choices = (again, *(step for step in (easier, harder) if step and step.drill != again.drill))
    return Advice(proposed, choices, pooled, len(takes), ways.beside(proposed))


class _Ways:
    """The ways on from a drill, easier and harder by how likely all of its silences are held."""

    def __init__(self, drill: Drill, drift: Drift) -> None:
        self.drill, self.drift = drill, drift
        self.has_silences = bool(schedule(drill).silences)
        self.ease = self._ease(drill)

    def is_one(self, made: Proposal) -> bool:
        """Whether a proposal is the way that it says."""
        if made.way == "again" or not self.has_silences or made.change == "back":
            return True
        ease = self._ease(made.drill)
        return ease >= self.ease - AS_HARD if made.way == "easier" else ease <= self.ease + AS_HARD

    def easier(self) -> Proposal | None:
        """Return the first way that is easier."""
        return self._first("easier", EASIER if self.has_silences else EASIER_WITH_CLICK)

    def harder(self) -> Proposal | None:
        """Return the first way that is harder."""
        return self._first("harder", HARDER if self.has_silences else HARDER_WITH_CLICK)

    def beside(self, proposed: Proposal) -> Proposal | None:
        """Return the next way in the direction of a proposed one: it changes something else."""
        orders = {"easier": ("shorter_silence", "slower", *EASIER), "harder": ("longer_silence", "faster", *HARDER)}
        others = _made(self.drill, proposed.way, orders.get(proposed.way, ()))
        return next((made for made in others if made.change != proposed.change and self.is_one(made)), None)

    def _first(self, way: Way, order: Sequence[Change]) -> Proposal | None:
        return next((made for made in _made(self.drill, way, order) if self.is_one(made)), None)

    def _ease(self, drill: Drill) -> float:
        """Return the chance that silences of a drill are all held, its own over and over, for as many of each."""
        laid = schedule(drill)
        silences = laid.silences[:MOST_LOOKED_AT]
        if not silences:
            return 1.0
        beats = np.array([(one.end_tick - one.start_tick) / laid.ticks_per_beat for one in silences])
        return self.drift.all_held(np.resize(beats, MOST_LOOKED_AT), slots=drill.part.grid / self.drill.part.grid)


def _asked_changes(
    drill: Drill, verdict: Verdict, found: Sequence[Finding], takes: Sequence[Earlier]
) -> Iterator[Proposal]:
    """Yield what the verdict and the findings ask for, the best first."""
    codes = [finding.code for finding in found]
    again = Proposal("again", "", drill)
    if set(codes) & {*NOT_AS_ASKED, "few", "joined-late", "stopped-in-silence"}:
        yield again
    elif any(finding.code == "spread" and finding.where == "click" for finding in found):
        yield from _made(drill, "easier", ("slower", "fewer_notes"))
    elif "slip" in codes:
        yield from _made(drill, "easier", SHORTER)
    elif takes[-1].is_clean or verdict.code == "held":
        yield from _after_clean(drill, codes, takes)
    elif verdict.code == "edge" and not any(finding.takes > 1 for finding in found):
        yield from _made(drill, "again", ("more_cycles",))
    elif lean := next((finding for finding in found if finding.code in ("narrow", "wide")), None):
        yield from _against_lean(drill, lean, takes)
    elif "spread" in codes:
        yield from _made(drill, "easier", (*SHORTER, "slower"))
    elif verdict.code == "uneven":
        few = verdict.of < TOLD_BY
        yield from _made(drill, "again" if few else "easier", ("more_cycles",) if few else SHORTER)
    yield again


def _against_lean(drill: Drill, lean: Finding, takes: Sequence[Earlier]) -> Iterator[Proposal]:
    first: dict[str | None, Change] = {"at once": "more_heard", "growing": "shorter_silence"}
    wanted = first.get(lean.came, "more_notes")
    tried = any(take.drill.part.grid < drill.part.grid and not take.is_clean for take in takes[-2:-1])
    order: list[Change] = [wanted, *SHORTER]
    if tried:
        order.sort(key=lambda change: change == "more_notes")
    yield from _made(drill, "easier", order)


def _after_clean(drill: Drill, codes: Sequence[str], takes: Sequence[Earlier]) -> Iterator[Proposal]:
    if "follows" not in codes and _clean_in_a_row(takes) < CLEAN_IN_A_ROW:
        return
    if goal := _left_behind(drill, takes):
        yield Proposal("harder", "back", goal)
    if not schedule(drill).silences:
        yield from _made(drill, "harder", HARDER_WITH_CLICK)
        return
    order: tuple[Change, ...] = ("longer_silence",) if "follows" in codes else ("fewer_notes",)
    yield from _made(drill, "harder", (*order, *HARDER))


def _left_behind(drill: Drill, takes: Sequence[Earlier]) -> Drill | None:
    """Return the last drill that was left for an easier one and not yet held, unless come back to too often."""
    for index in range(len(takes) - 2, -1, -1):
        other = takes[index].drill
        if _same_task(other, drill):
            continue
        if takes[index].is_clean or _easier_than(other, drill):
            return None
        return other if _visits(other, takes) <= BACK_AT_MOST else None
    return None


def _visits(drill: Drill, takes: Sequence[Earlier]) -> int:
    """Return how often a drill was come to, takes of it in a row being one visit."""
    is_it = [_same_task(take.drill, drill) for take in takes]
    return sum(now and not before for before, now in pairwise([False, *is_it]))


def _easier_than(other: Drill, drill: Drill) -> bool:
    """Whether an easier change of ``drill`` makes the other one."""
    return any(made and _same_task(made, other) for made in (CHANGES[change](drill) for change in EASIER))


def _pooled(drill: Drill, takes: Sequence[Earlier]) -> Finding | None:
    """Return the lean that the last takes of a drill show together, where that is sure and this one's alone isn't."""
    same = [take.tendency for take in takes if take.tendency and _same(take.drill, drill)][-POOLED_TAKES:]
    if len(same) < 2 or same[-1].verdict in LEANS:
        return None
    variances = [sd_of(lean.ci95_percent) ** 2 for lean in same]
    found = pool([lean.tempo_percent for lean in same], variances, scale=SPREAD_PERCENT)
    ci95: Range = rounded(found.ci95)
    if verdict_of(ci95) not in LEANS:
        return None
    return Finding(
        "narrow" if found.mean > 0 else "wide",
        round(found.mean, 3),
        ci95,
        sum(lean.silences for lean in same),
        slot_ms=round(slot_ms(drill.tempo.bpm, drill.part.grid) * found.mean / 100, 3),
        takes=len(same),
    )


def _clean_in_a_row(takes: Sequence[Earlier]) -> int:
    """Return how many of the last takes, all of the present drill, were clean."""
    count = 0
    for take in reversed(takes):
        if not take.is_clean or not _same_task(take.drill, takes[-1].drill):
            break
        count += 1
    return count


def _worn(made: Proposal, takes: Sequence[Earlier]) -> bool:
    """Whether a drill was played so often running that once more would tell nothing new."""
    last = takes[-SAME_AT_MOST:]
    return len(last) == SAME_AT_MOST and all(_same(take.drill, made.drill) for take in last)


def _made(drill: Drill, way: Way, order: Sequence[Change]) -> Iterator[Proposal]:
    for change in order:
        made = CHANGES[change](drill)
        if made and not _same(made, drill):
            yield Proposal(way, change, made)


def _same(one: Drill, other: Drill) -> bool:
    """Whether two drills are the same but for their names and draws."""
    return _unnamed(one) == _unnamed(other)


def _same_task(one: Drill, other: Drill) -> bool:
    """Whether two drills ask for the same, however long they go on."""
    return _same(one.model_copy(update={"cycles": 1}), other.model_copy(update={"cycles": 1}))


def _unnamed(drill: Drill) -> Drill:
    silence = drill.clicks.silence
    clicks = drill.clicks
    if silence and silence.kind == "random":
        clicks = clicks.model_copy(update={"silence": silence.model_copy(update={"seed": 0})})
    return drill.model_copy(update={"name": "", "clicks": clicks})
