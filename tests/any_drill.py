"""Any drill that ``drill/1`` or ``drill/2`` allows, for property tests."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from hypothesis import strategies as st

from giusto.drill import Drill, position, validate

NOTE_VALUES = ("1/1", "3/4", "1/2", "3/8", "1/4", "3/16", "1/8", "5/8")


@st.composite
def places(draw: st.DrawFn, *, beats: int, parts: int) -> list[str]:
    """Return some places of a cycle, on its slots, ascending."""
    slots = draw(st.sets(st.integers(0, beats * parts - 1), min_size=1, max_size=12))
    return [position.write(Fraction(slot, parts)) for slot in sorted(slots)]


@st.composite
def silences(draw: st.DrawFn) -> dict[str, Any] | None:
    """Return a silence of any kind, or none."""
    kind = draw(st.sampled_from([None, "fixed", "growing", "random"]))
    few = st.integers(1, 6)
    if kind is None:
        return None
    if kind == "random":
        chance = draw(st.integers(0, 1000)) / 1000
        unit = draw(st.sampled_from(["beat", "cycle"]))
        return {
            "kind": kind,
            "unit": unit,
            "probability": chance,
            "longest": draw(few),
            "seed": draw(st.integers(0, 99)),
        }
    found = {"kind": kind, "heard": draw(few), "silent": draw(few)}
    if kind == "growing":
        found |= {"step": draw(few), "max": found["silent"] + draw(few)}
    return found


@st.composite
def tempos(draw: st.DrawFn) -> dict[str, Any]:
    """Return a tempo that stays, or one that changes up or down."""
    bpm, beat = draw(st.integers(1000, 40000)) / 100, draw(st.sampled_from(NOTE_VALUES))
    tempo = {"bpm": bpm, "beat": beat}
    if draw(st.booleans()):
        return tempo
    to, size = draw(st.integers(10, 400)), draw(st.integers(1, 50)) / 2
    by = draw(st.sampled_from(["notch", size if to >= bpm else -size]))
    on = draw(st.sampled_from(["sounding", "any"]))
    return tempo | {"steps": {"every_cycles": draw(st.integers(1, 5)), "by": by, "to": to, "on": on}}


@st.composite
def drills(draw: st.DrawFn) -> Drill:
    """Return any drill of up to twelve beats and twelve cycles."""
    beats, grid = draw(st.integers(1, 12)), draw(st.integers(1, 8))
    split = draw(st.integers(1, beats))
    spots = places(beats=beats, parts=grid)
    segments = st.lists(st.fixed_dictionaries({"cycles": st.integers(1, 4), "at": spots}), min_size=1, max_size=4)
    shift = st.fixed_dictionaries({"every_cycles": st.integers(1, 4), "by": st.sampled_from(["1/2", "1/3", "1/4"])})
    tempo = draw(tempos())
    swing = draw(st.just(1) | st.sampled_from([1.5, 2, 1.67, 3]))
    plain = {
        "giusto": "drill/3" if swing > 1 else "drill/2" if "steps" in tempo else "drill/1",
        "name": draw(st.text(alphabet="abc é’&=+;", max_size=20)),
        "tempo": tempo,
        "cycle": {"beats": beats, "groups": [split, beats - split] if split < beats else None},
        "clicks": {
            "on": draw(places(beats=beats, parts=draw(st.sampled_from([1, 2, 3, 4])))),
            "every": draw(st.integers(1, 10)),
            "silence": draw(silences()),
            "shift": draw(st.none() | shift),
            "accent": draw(st.sampled_from(["none", "first", "groups"])),
            "subdivide": draw(st.integers(1, 8)),
            **({"swing": swing} if swing > 1 else {}),
        },
        "part": {"grid": grid, "play": draw(st.sampled_from(["grid", "free"]) | spots | segments)},
        "count_in": draw(st.integers(0, 3)),
        "cycles": draw(st.integers(1, 12)),
        "close": draw(st.integers(0, 2)),
    }
    return validate(plain)
