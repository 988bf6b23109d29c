"""What to play next: the drill again, an easier and a harder one, and which of them the take speaks for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from giusto import levers
from giusto.drill import Drill
from giusto.findings import Finding, findings, is_held
from giusto.reading import Reading

# Names of levers, in the order they are tried where a finding asks for none.
EASIER = ("more_notes", "shorter_silence", "more_heard", "slower")
HARDER = ("longer_silence", "fewer_notes", "faster")
CLEAN_IN_A_ROW = 2  # common practice: three, or four; ours: held twice, then one thing less to lean on

Way = Literal["again", "easier", "harder"]


@dataclass(frozen=True, slots=True)
class Step:
    """A drill to play next, and the one lever that was pulled; ``again`` pulls none."""

    way: Way
    lever: str
    drill: Drill


@dataclass(frozen=True, slots=True)
class Advice:
    """What a take shows, what to play next, and how sure.

    Attributes
    ----------
    findings : list of Finding
        The first is what the advice goes by.
    steps : tuple of Step
        Again, easier, harder; the latter two only where the drill can be made so.
    proposed : str
        Which of the steps.
    tries : int
        Takes of this drill so far, this one included: with fewer than three, advice is a try.
    """

    findings: list[Finding]
    steps: tuple[Step, ...]
    proposed: Way
    tries: int

    def step(self, way: Way) -> Step | None:
        """Return the step of one way, or None."""
        return next((step for step in self.steps if step.way == way), None)


def advise(drill: Drill, reading: Reading, *, before: list[bool] | None = None) -> Advice:
    """Return what a take shows and what to play next.

    Parameters
    ----------
    drill : Drill
        As played.
    reading : Reading
    before : list of bool, optional
        For each earlier take of the same drill, oldest first, whether all its silences were held.

    Returns
    -------
    Advice

    Notes
    -----
    One change at a time, from the first finding that fits. Slips and a growing lean: half the silence.
    A drift that came at once: one more cycle heard before it. A lean: more notes, to be felt through the
    silence. A wide spread without lean: slower. Held twice in a row: a step harder. A player who follows
    and holds: a longer silence. Else the same again.
    """
    before = before or []
    found = findings(drill, reading)
    held_in_a_row = _in_a_row([*before, is_held(reading)])
    proposed, easier, harder = _choice(found, held_in_a_row)
    steps = [Step("again", "", drill)]
    for way, first, others in (("easier", easier, EASIER), ("harder", harder, HARDER)):
        made = _first(drill, (first, *others) if first else others)
        if made:
            steps.append(Step("easier" if way == "easier" else "harder", *made))
    ways = {step.way for step in steps}
    return Advice(found, tuple(steps), proposed if proposed in ways else "again", len(before) + 1)


def _choice(found: list[Finding], held_in_a_row: int) -> tuple[Way, str, str]:
    """Return which step to propose, and the levers that the findings ask for."""
    kinds = [finding.kind for finding in found]
    first = found[0] if found else None
    if first is None or first.kind in ("few", "edge"):
        return "again", "", ""
    if first.kind == "slip":
        return "easier", "shorter_silence", ""
    if first.kind in ("narrow", "wide"):
        lever = {"at once": "more_heard", "growing": "shorter_silence"}.get(first.way or "", "more_notes")
        return "easier", lever, ""
    if first.kind == "spread":
        return "easier", "slower", ""
    if "held" in kinds and ("follows" in kinds or held_in_a_row >= CLEAN_IN_A_ROW):
        return "harder", "", "longer_silence" if "follows" in kinds else "fewer_notes"
    return "again", "", ""


def _in_a_row(held: list[bool]) -> int:
    return next((k for k, one in enumerate(reversed(held)) if not one), len(held))


def _first(drill: Drill, names: tuple[str, ...]) -> tuple[str, Drill] | None:
    for name in names:
        made = getattr(levers, name)(drill)
        if made:
            return name, made
    return None
