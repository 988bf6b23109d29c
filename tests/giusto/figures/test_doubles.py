"""Flams and doubles: by hand, at the limits, and through readings to what is said of them."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.figures.doubles import Doubles, doubles
from giusto.notes.record import notes_of
from giusto.practice.findings import findings
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

PLAN = planned(cycles=16)
ONSETS_S = simulate(PLAN, SimulatedPlayer(hand_ms=4.0), seed=4).onsets_s


class DoublesTests(TestCase):
    def test_at_the_limits(self) -> None:
        """Under 100 ms, and under two fifths of the shortest length; three of them at least."""
        for gap_s, slot_s, is_double in (
            (0.099, 0.5, True),
            (0.101, 0.5, False),
            (0.039, 0.1, True),
            (0.041, 0.1, False),
        ):
            onset_s = np.sort(np.concatenate([np.arange(4.0), np.arange(3.0) + gap_s]))
            found = doubles(onset_s, np.full(7, ""), slot_s=slot_s)
            expected = Doubles(3, round(1000 * gap_s, 1), None, None)
            self.assertEqual(found, expected if is_double else None, (gap_s, slot_s))
        self.assertIsNone(doubles(np.array([0.0, 0.03, 1.0, 1.03, 2.0]), np.full(5, ""), slot_s=0.5))
        self.assertIsNone(doubles(np.empty(0), np.empty(0, dtype=str), slot_s=0.5))

    def test_whose_strokes_they_are(self) -> None:
        """By two names; what nobody knows is neither, and where all notes have one name hands are not told apart."""
        onset_s = np.array([0.0, 0.03, 1.0, 1.03, 2.0, 2.03, 3.0, 3.03])
        for made_by, flams, by_one in (
            ("lr rl lr rl", 4, 0),
            ("ll rr ll rr", 0, 4),
            ("lr ll r? ??", 1, 1),
            ("ll ll ll ll", None, None),
            ("?? ?? ?? ??", None, None),
        ):
            names = np.array(["" if one == "?" else one for one in made_by.replace(" ", "")])
            self.assertEqual(doubles(onset_s, names, slot_s=0.5), Doubles(4, 30.0, flams, by_one), made_by)


class ReadingTests(TestCase):
    def said(self, gap_s: float, first: str, second: str) -> tuple[Doubles | None, str | None, list[str]]:
        """Return what a take is told whose strokes by two hands in turn each sound twice."""
        turn = np.arange(ONSETS_S.size) % 2 == 0
        source = np.where(turn, first, second)
        other = source if gap_s > 0.05 else np.where(turn, second, first)
        onset_s = np.concatenate([ONSETS_S, ONSETS_S + gap_s])
        order = np.argsort(onset_s, kind="stable")
        reading = analyse(PLAN, notes_of(onset_s[order], source=np.concatenate([source, other])[order])).reading
        found = findings(PLAN, reading)
        where = next((one.where for one in found if one.code == "doubled"), None)
        return reading.doubles, where, [one.code for one in found]

    def test_flams_and_doubles_are_told_apart(self) -> None:
        n = ONSETS_S.size
        for gap_s, names, expected in (
            (0.03, ("f", "j"), (Doubles(n, 30.0, n, 0), "other")),
            (0.06, ("f", "j"), (Doubles(n, 60.0, 0, n), "same")),
            (0.03, ("space", "space"), (Doubles(n, 30.0, None, None), None)),
        ):
            found, where, codes = self.said(gap_s, *names)
            self.assertIn("doubled", codes)
            self.assertEqual((found, where), expected)

    def test_a_take_of_single_strokes_has_none(self) -> None:
        self.assertIsNone(analyse(PLAN, ONSETS_S).reading.doubles)
