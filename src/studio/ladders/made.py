"""Ladders made of a drill: by tempo, by longer silences, by more notes, or built up note by note."""

from __future__ import annotations

from typing import Any

from giusto.drill import Drill
from giusto.drill.file import HIGHEST_BPM, FixedSilence
from giusto.errors import GiustoError
from giusto.practice.build_up import build_up
from giusto.practice.ceiling import WEEKLY_BPM
from giusto.practice.ladder import Ladder, ladder_of

NOTE_BY_NOTE = "note by note"
GOAL_BPM, MORE_BPM, STEP_BPM = 120, 40, 4  # common practice: from 60 towards 120, by 2 to 4
MOST_SILENT, CYCLES = 8, 40  # ours: longest silence of such a ladder, and enough cycles for some of them
NOTES = (1, 2, 3, 4)
FUSED_CYCLES = 8  # ours, adjustable: a stage is done when it could go on
STAGE_CYCLES = 12  # ours: long enough for that
STREAK: dict[str, Any] = {"kind": "streak", "clean": 3}  # common practice


def ladder_by(what: str, drill: Drill, *, working_bpm: int | None = None) -> Ladder:
    """Return a ladder of three clean in a row that starts where a drill is.

    One by tempo starts where it is worked at best, where a probe has found that.

    Raises
    ------
    GiustoError
        Where the drill has nothing that varies so.
    """
    plain: dict[str, Any] = {"giusto": "ladder/1", "name": drill.name, "drill": drill.plain(), "rule": STREAK}
    if what == "silence":
        silence = drill.clicks.silence
        if not isinstance(silence, FixedSilence):
            raise GiustoError("it has no silence of one length", code="silence")
        longest = max(MOST_SILENT, silence.silent)
        plain["vary"] = {"what": "silence", "from": silence.silent, "to": longest, "by": 1}
        plain["drill"]["cycles"] = max(drill.cycles, CYCLES)
    elif what == "notes":
        plain["vary"] = {"what": "notes", "steps": sorted({*NOTES, drill.part.grid})}
    elif what == "week":
        bpm = drill.tempo.bpm
        plain["rule"] = {"kind": "week", "clean": STREAK["clean"], "by": WEEKLY_BPM}
        plain["vary"] = {"what": "tempo", "from": bpm, "to": min(bpm + MORE_BPM, HIGHEST_BPM), "by": 1}
    else:
        bpm = working_bpm or drill.tempo.bpm
        to = min(max(GOAL_BPM, bpm + MORE_BPM), HIGHEST_BPM)
        plain["vary"] = {"what": "tempo", "from": bpm, "to": to, "by": STEP_BPM}
    return ladder_of(plain)


def built_up(drill: Drill) -> Ladder:
    """Return the build-up of a drill's part as a ladder: first away from the instrument, then on it, note by note.

    Raises
    ------
    GiustoError
        Where the part is free or in turns.
    """
    stages = build_up(drill)
    growing = ["Only what falls on the click", *(f"{len(stage.part.play)} notes a bar" for stage in stages[1:-1])]
    names = ["Snapped, away from the instrument", *growing[: len(stages) - 1], "All of it"]
    steps = [
        {**stage.plain(), "name": name, "cycles": max(stage.cycles, STAGE_CYCLES)}
        for stage, name in zip([stages[0], *stages], names, strict=True)
    ]
    rule = {"kind": "streak", "clean": 1}
    name = f"{drill.name or 'A figure'}, note by note"[:120]
    return ladder_of({"giusto": "ladder/1", "name": name, "vary": {"what": "drills", "steps": steps}, "rule": rule})
