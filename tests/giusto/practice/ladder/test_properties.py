"""What holds on every ladder, whatever is played: by hypothesis, over schools, attempts, nights away and off days."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from giusto.practice.ladder import Attempt, Ladder, Step, ladder_of, next_step
from tests.drills import plain

MONDAY = datetime.fromisoformat("2026-11-23T18:00:00+01:00")
RULES: tuple[dict[str, Any], ...] = (
    {"kind": "streak", "clean": 2},
    {"kind": "total", "clean": 3},
    {"kind": "stay", "minutes": 5},
    {"kind": "edge", "clean": 2, "nights": 1},
    {"kind": "edge", "clean": 1, "nights": 3},
    {"kind": "week", "clean": 1, "by": 5},
    {"kind": "band", "low": 0.7, "high": 0.85},
)
VARY = {"what": "tempo", "from": 60, "to": 84, "by": 4}
LADDERS = [
    ladder_of({"giusto": "ladder/1", "drill": plain(), "vary": VARY, "rule": rule, **more})
    for rule in RULES
    for more in ({}, {"next_day": {"back": 0}, "fall": {"after": 2, "by": 2}})
]
# One attempt: days since the last, clean or not, on the asked rung or on another, and whether its day is off.
PLAYED = st.tuples(
    st.sampled_from([0, 0, 0, 0, 1, 1, 2, 9, 40]),
    st.booleans(),
    st.one_of(st.none(), st.none(), st.integers(1, 7)),
    st.sampled_from([False, False, False, True]),
)


def walked(ladder: Ladder, played: list[tuple[int, bool, int | None, bool]]) -> list[tuple[Step, Attempt]]:
    """Return each step that was asked, and the attempt that was made then."""
    made: list[Attempt] = []
    found = []
    at = MONDAY
    for days, clean, rung, off in played:
        at += timedelta(days=days, minutes=0 if days else 3)
        step = next_step(ladder, made, at=at, off=off)
        made.append(Attempt(at, rung or step.rung, clean, 2.0, off))
        found.append((step, made[-1]))
    return found


class PropertyTests(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(LADDERS), st.lists(PLAYED, min_size=6, max_size=30))
    def test_what_always_holds(self, ladder: Ladder, played: list[tuple[int, bool, int | None, bool]]) -> None:
        found = walked(ladder, played)
        made = [attempt for _, attempt in found]
        last = len(ladder.values)
        for (step, attempt), (after, _) in pairwise(found):
            self.assertTrue(1 <= step.rung <= last)
            self.assertGreaterEqual(after.secure, step.secure, "secure never falls")
            if ladder.rule.kind != "band" and after.why != "overnight":
                self.assertLessEqual(after.rung, max(attempt.rung, step.ended, step.secure) + 1, "never two rungs up")
            if ladder.rule.kind == "band":
                self.assertLessEqual(after.rung, attempt.rung + 2)
            if step.done:
                self.assertEqual((after.rung, after.done), (step.rung, True))
            if attempt.rung == step.rung and not attempt.off:  # an off day called now takes nothing back
                off = next_step(ladder, made[: made.index(attempt)], at=attempt.at, off=True)
                self.assertEqual(off.secure, step.secure)
            if step.needs:
                self.assertTrue(all(value >= 0 for value in step.needs.values()))
        # Replayed as a whole it is what it was step by step, and without the last attempt as if that had never been.
        for count, (step, attempt) in enumerate(found):
            again = next_step(ladder, made[:count], at=attempt.at, off=attempt.off)
            self.assertEqual(again, step)
