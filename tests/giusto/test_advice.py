"""What a reading shows and what to play next: rules by hand, levers one at a time, on all of the shelf."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings

from giusto import levers
from giusto.advice import EASIER, HARDER, advise
from giusto.comparison import compare
from giusto.drill import Drill, validate
from giusto.findings import findings, is_held
from giusto.reading import Reading, analyse
from giusto.schedule import schedule
from giusto.simulate import Player, simulate
from tests.any_drill import drills
from tests.drills import fixed, plain, planned

STEADY = Player(clock_percent=0.4, hand_ms=3.0)


def read(player: Player, *, seed: int = 1, **changes) -> tuple[Drill, Reading]:  # type: ignore[no-untyped-def]
    """Return a drill of ``tests.drills`` and the reading of a simulated take of it."""
    plan = planned(**changes)
    return plan.drill, analyse(plan, simulate(plan, player, seed=seed).onsets_s).reading


class FindingsTests(TestCase):
    def kinds(self, player: Player, **changes) -> list[str]:  # type: ignore[no-untyped-def]
        return [finding.kind for finding in findings(*read(player, **changes))]

    def test_late_clicks_mean_narrow_beats_and_the_reverse(self) -> None:
        drill, rushed = read(Player(bias_percent=3.0))
        found = findings(drill, rushed)[0]
        assert found.ci95 is not None
        self.assertEqual((found.kind, found.n), ("narrow", 4))
        # Eighths at 96 last 312.5 ms: 3 % faster means that each must be felt about 9.4 ms wider.
        self.assertAlmostEqual(found.slot_ms or 0.0, 312.5 * found.size / 100, places=2)
        self.assertTrue(found.ci95[0] < 3.0 < found.ci95[1])
        self.assertEqual(self.kinds(Player(bias_percent=-3.0))[0], "wide")

    def test_held_few_slip_and_follows(self) -> None:
        self.assertIn("held", self.kinds(STEADY))
        self.assertEqual(self.kinds(Player(missed=0.9), seed=3), ["few"])
        lost = self.kinds(Player(bias_percent=-2.1), silence=fixed(2, 12), cycles=14, seed=4)
        self.assertEqual(lost[0], "slip")
        glued = Player(alpha=1.0)
        self.assertIn("follows", self.kinds(glued, silence=None, cycles=200, grid=1))

    def test_rhythm_is_kept_apart_from_time(self) -> None:
        plan = planned(grid=4)
        onsets = simulate(plan, STEADY, seed=1).onsets_s.copy()
        onsets[3::4] -= 0.020
        found = findings(plan.drill, analyse(plan, onsets).reading)
        self.assertEqual([finding.kind for finding in found], ["held", "crushed", "stretched"])
        self.assertEqual([finding.where for finding in found[1:]], ["1/2 to 3/4", "3/4 to 1"])
        self.assertAlmostEqual(found[1].slot_ms or 0.0, -20.0, delta=3.0)

    def test_swing_is_no_fault(self) -> None:
        plan = planned()
        onsets = simulate(plan, STEADY, seed=1).onsets_s.copy()
        onsets[1::2] += 0.06
        kinds = [finding.kind for finding in findings(plan.drill, analyse(plan, onsets).reading)]
        self.assertEqual(kinds, ["held"])

    def test_a_spread_without_lean(self) -> None:
        drill, reading = read(Player())
        outcomes = ["late", "early", "late", "early"]
        silences = [
            replace(s, outcome=o, return_ms=60.0 if o == "late" else -60.0)
            for s, o in zip(reading.silences, outcomes, strict=True)
        ]
        assert reading.tendency is not None
        unclear = replace(reading.tendency, tempo_percent=0.0, ci95_percent=(-1.5, 1.5), verdict="unclear")
        found = findings(drill, replace(reading, silences=silences, tendency=unclear))
        self.assertEqual((found[0].kind, round(found[0].size)), ("spread", 69))

    def test_players_without_a_fault_are_seldom_told_of_one(self) -> None:
        told = sum(
            kind in ("narrow", "wide", "slip", "crushed", "stretched", "place", "tired")
            for seed in range(30)
            for kind in self.kinds(Player(clock_percent=1.0, hand_ms=6.0), seed=seed)
        )
        self.assertLessEqual(told, 5)


class AdviceTests(TestCase):
    def test_rules(self) -> None:
        drill, dragged = read(Player(bias_percent=-3.0))
        cases = (
            ("more_notes", "easier", dragged),
            ("shorter_silence", "easier", replace(dragged, course=replace(dragged.course, way="growing"))),
            ("more_heard", "easier", replace(dragged, course=replace(dragged.course, way="at once"))),
        )
        for lever, way, reading in cases:
            with self.subTest(lever):
                found = advise(drill, reading)
                step = found.step(found.proposed)
                assert step is not None
                self.assertEqual((step.lever, found.proposed), (lever, way))

    def test_held_once_again_held_twice_harder(self) -> None:
        drill, held = read(STEADY)
        self.assertTrue(is_held(held))
        self.assertEqual(advise(drill, held).proposed, "again")
        self.assertEqual(advise(drill, held, before=[True, False]).proposed, "again")
        twice = advise(drill, held, before=[False, True])
        self.assertEqual((twice.proposed, twice.step("harder").lever), ("harder", "fewer_notes"))  # type: ignore[union-attr]

    def test_again_is_always_there_and_each_step_pulls_one_lever(self) -> None:
        drill, reading = read(Player(bias_percent=-3.0))
        found = advise(drill, reading)
        self.assertEqual([step.way for step in found.steps], ["again", "easier", "harder"])
        self.assertEqual(found.step("again").drill, drill)  # type: ignore[union-attr]

    @given(drills())
    @settings(max_examples=60)
    def test_levers_make_valid_drills_or_none(self, drill: Drill) -> None:
        for name in (*EASIER, *HARDER):
            changed = getattr(levers, name)(drill)
            if changed is not None:
                self.assertNotEqual(changed, drill)
                self.assertEqual(validate(changed.plain()), changed)

    def test_the_number_of_silences_stays(self) -> None:
        drill = validate(plain())
        for lever in (levers.shorter_silence, levers.longer_silence, levers.more_heard):
            changed = lever(drill)
            assert changed is not None
            self.assertEqual(len(schedule(changed).silences), len(schedule(drill).silences))

    def test_levers_by_hand(self) -> None:
        drill = validate(plain())
        self.assertEqual(levers.longer_silence(drill).clicks.silence.silent, 3)  # type: ignore[union-attr]
        self.assertEqual(levers.shorter_silence(drill).clicks.silence.silent, 1)  # type: ignore[union-attr]
        self.assertIsNone(levers.shorter_silence(validate(plain(silence=fixed(2, 1)))))
        throughout = levers.longer_silence(validate(plain(silence=None)))
        self.assertEqual(throughout.clicks.silence.silent, 1)  # type: ignore[union-attr]
        self.assertEqual([lever(drill).name for lever in (levers.longer_silence, levers.slower)], ["", drill.name])  # type: ignore[union-attr]
        self.assertEqual(levers.slower(drill).tempo.bpm, 92)  # type: ignore[union-attr]
        self.assertIsNone(levers.slower(validate(plain(bpm=12))))
        self.assertIsNone(levers.more_notes(validate(plain(bpm=200))))  # a hand could not follow


class ComparisonTests(TestCase):
    def test_more_than_chance(self) -> None:
        _, before = read(Player(bias_percent=-3.0))
        _, after = read(Player(bias_percent=2.0), seed=2)
        found = {line.figure: line for line in compare(before, after)}
        self.assertEqual(set(found), {"tempo", "place", "spread", "clock", "hand", "correction"})
        self.assertTrue(found["tempo"].more_than_chance)
        self.assertTrue(found["tempo"].ci95[0] < 5.0 < found["tempo"].ci95[1])

    def test_like_takes_differ_by_chance_only(self) -> None:
        _, first = read(Player(), seed=0)
        judged = [
            line.more_than_chance for seed in range(1, 21) for line in compare(first, read(Player(), seed=seed)[1])
        ]
        self.assertLessEqual(np.mean(judged), 0.12)

    def test_what_one_take_lacks_is_left_out(self) -> None:
        _, with_click = read(Player(), silence=None, cycles=4)
        _, silent = read(Player())
        self.assertEqual({line.figure for line in compare(with_click, silent)} & {"tempo", "clock", "hand"}, set())
