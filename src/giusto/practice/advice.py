"""What to play next: the drill again, an easier and a harder one, and which of them the takes speak for."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, TypeAlias

from giusto.drill import Drill, changes
from giusto.figures.tendency import SPREAD_PERCENT, Tendency, verdict_of
from giusto.pooling import pool
from giusto.practice.finding import NOT_AS_ASKED, Finding
from giusto.practice.verdict import LEANS, Verdict
from giusto.ranges import Range, rounded, sd_of
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


@dataclass(frozen=True, slots=True)
class Earlier:
    """What is known of an earlier take of the exercise.

    Attributes
    ----------
    drill : Drill
        As played.
    is_clean : bool or None
    tendency : Tendency or None
    """

    drill: Drill
    is_clean: bool | None
    tendency: Tendency | None = None


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
        Again, easier, harder; the latter two only where the drill can be made so.
    pooled : Finding or None
        A lean that only the last takes together show.
    tries : int
        Takes of this exercise so far, this one included: with fewer than three, advice is a try.
    """

    proposed: Proposal
    choices: tuple[Proposal, ...]
    pooled: Finding | None
    tries: int


def advise(
    drill: Drill,
    verdict: Verdict,
    found: Sequence[Finding],
    *,
    now: Earlier,
    before: Sequence[Earlier] = (),
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

    Returns
    -------
    Advice

    Notes
    -----
    One change at a time. What was not played as asked: the same again. Uneven hands: slower. Slips and a
    growing lean: half the silence. A drift that came at once: one more cycle heard before it. A lean: more
    notes, to be felt through the silence, and if that was tried, a shorter one. What one take can't tell is
    looked for in the last takes together, else asked of a longer one. Held twice in a row: back to the drill
    that was left for an easier one, or a step harder. Nothing is proposed a fourth time running.
    """
    takes = [*before, now]
    pooled = _pooled(drill, takes) if verdict.code in ("edge", "uneven", "held") and now.is_clean is not True else None
    asked = list(_asked_changes(drill, verdict, [*([pooled] if pooled else []), *found], takes))
    order = EASIER_WITH_CLICK if verdict.code == "no-silence" else EASIER
    easier, harder = _first(drill, "easier", order), _first(drill, "harder", HARDER)
    proposed = next((made for made in asked if not _worn(made, takes)), None) or Proposal("again", "", drill)
    if _worn(proposed, takes):
        proposed = next((step for step in (easier, harder) if step and not _worn(step, takes)), proposed)
    if proposed.way == "easier":
        easier = proposed
    elif proposed.way == "harder":
        harder = proposed
    choices = (Proposal("again", "", drill), *(step for step in (easier, harder) if step))
    return Advice(proposed, choices, pooled, len(takes))


def _asked_changes(
    drill: Drill, verdict: Verdict, found: Sequence[Finding], takes: Sequence[Earlier]
) -> Iterator[Proposal]:
    """Yield what the findings ask for, the best first."""
    codes = [finding.code for finding in found]
    again = Proposal("again", "", drill)
    if set(codes) & {*NOT_AS_ASKED, "few", "joined-late", "stopped-in-silence"}:
        yield again
    elif any(finding.code == "spread" and finding.where == "click" for finding in found):
        yield from _made(drill, "easier", ("slower", "fewer_notes"))
    elif "slip" in codes:
        yield from _made(drill, "easier", SHORTER)
    elif takes[-1].is_clean or (verdict.code == "held" and not {"narrow", "wide"} & set(codes)):
        yield from _after_clean(drill, codes, takes)
    elif lean := next((finding for finding in found if finding.code in ("narrow", "wide")), None):
        yield from _against_lean(drill, lean, takes)
    elif "spread" in codes:
        yield from _made(drill, "easier", (*SHORTER, "slower"))
    elif verdict.code in ("edge", "uneven"):
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


def _first(drill: Drill, way: Way, order: Sequence[Change]) -> Proposal | None:
    return next(_made(drill, way, order), None)


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
