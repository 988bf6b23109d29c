"""What a take shows, by players of known faults and takes that are written note by note."""

from dataclasses import replace
from statistics import stdev
from unittest import TestCase

import numpy as np

from giusto.figures.rhythm import Swing
from giusto.practice.findings import _spread, findings
from giusto.reading import analyse
from giusto.schedule import Schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import fixed, planned

STEADY = SimulatedPlayer(clock_percent=0.4, hand_ms=3)


def shown(plan: Schedule, player: SimulatedPlayer, *, seed: int = 1) -> list[str]:
    """Return the codes of what a player's take shows."""
    reading = analyse(plan, simulate(plan, player, seed=seed).onsets_s).reading
    return [found.code for found in findings(plan, reading)]


class FindingsTests(TestCase):
    def test_one_who_holds_is_told_that_alone(self) -> None:
        self.assertEqual(shown(planned(bpm=90, silence=fixed(2, 1), cycles=16), STEADY), ["held"])

    def test_a_lean_has_its_side_and_what_a_slot_must_be_felt_wider(self) -> None:
        plan = planned(bpm=90, silence=fixed(2, 2), cycles=16)
        for bias, code in ((3.0, "narrow"), (-3.0, "wide")):
            player = SimulatedPlayer(clock_percent=0.6, hand_ms=3, bias_percent=bias)
            found = findings(plan, analyse(plan, simulate(plan, player, seed=2).onsets_s).reading)
            one = next(finding for finding in found if finding.code == code)
            low, high = one.ci95 or (0.0, 0.0)
            self.assertTrue(low <= bias <= high)
            self.assertAlmostEqual(one.slot_ms or 0.0, 60_000 / 90 / 2 * one.size / 100, places=2)
            self.assertTrue(one.so_far)  # no earlier take says how far takes lie apart

    def test_returns_that_scatter_are_told_by_their_spread(self) -> None:
        """Beside the sample spread of ``statistics``."""
        plan = planned(bpm=90, silence=fixed(2, 2), cycles=24)
        whole = analyse(plan, plan.seconds(plan.notes.tick)).reading
        returns = np.random.default_rng(3).normal(0, 60, len(whole.silences)).tolist()
        made = [replace(one, return_ms=ms) for one, ms in zip(whole.silences, returns, strict=True)]
        one = next(one for one in _spread(plan.drill, replace(whole, silences=made)))
        self.assertEqual((one.size, one.n), (round(stdev(returns), 3), len(returns)))

    def test_uneven_hands_come_before_time(self) -> None:
        plan = planned(bpm=90, silence=fixed(2, 2), cycles=16)
        found = findings(plan, analyse(plan, simulate(plan, SimulatedPlayer(hand_ms=45), seed=3).onsets_s).reading)
        self.assertEqual((found[0].code, found[0].where), ("spread", "click"))

    def test_a_crushed_length_is_told_with_its_ends_and_a_swung_pair_is_meant(self) -> None:
        """Sixteenths whose second comes 25 ms early: its length is crushed, the next is stretched."""
        plan = planned(bpm=80, grid=4, silence=None, cycles=12)
        asked_s = plan.seconds(plan.notes.tick)
        hand = np.random.default_rng(4).normal(0, 0.003, asked_s.size)
        early = np.where(np.arange(asked_s.size) % 4 == 1, -0.025, 0.0)
        found = {
            finding.where: finding for finding in findings(plan, analyse(plan, np.sort(asked_s + early + hand)).reading)
        }
        self.assertEqual((found["0 to 1/4"].code, found["1/4 to 1/2"].code), ("crushed", "stretched"))
        self.assertAlmostEqual(found["0 to 1/4"].slot_ms or 0.0, -25, delta=3)
        swung = planned(bpm=80, grid=2, silence=None, cycles=12)
        asked_s = swung.seconds(swung.notes.tick)
        late = np.where(np.arange(asked_s.size) % 2 == 1, 0.12, 0.0)
        codes = [one.code for one in findings(swung, analyse(swung, asked_s + late).reading)]
        self.assertFalse({"crushed", "stretched"} & set(codes), codes)

    def test_a_pair_is_meant_to_differ_from_a_tenth_on(self) -> None:
        """Lengths that surely differ by more than is heard are told, unless the pair is surely swung."""
        plan = planned(bpm=80, grid=2, silence=None, cycles=12)
        asked_s = plan.seconds(plan.notes.tick)
        hand = np.random.default_rng(4).normal(0, 0.003, asked_s.size)
        late = np.where(np.arange(asked_s.size) % 2 == 1, 0.025, 0.0)
        reading = analyse(plan, np.sort(asked_s + late + hand)).reading
        for low, is_told in ((1.02, True), (1.09, True), (1.11, False)):
            with self.subTest(low):
                shown = findings(plan, replace(reading, swing=Swing(1.2, (low, 1.3), 40)))
                self.assertEqual(bool({"crushed", "stretched"} & {one.code for one in shown}), is_told)

    def test_a_beat_that_leans_is_a_place(self) -> None:
        plan = planned(bpm=90, grid=1, silence=None, cycles=24)
        asked_s = plan.seconds(plan.notes.tick)
        hand = np.random.default_rng(5).normal(0, 0.004, asked_s.size)
        early = np.where(np.arange(asked_s.size) % 4 == 2, -0.03, 0.0)
        found = findings(plan, analyse(plan, np.sort(asked_s + early + hand)).reading)
        places = {one.where: one.size for one in found if one.code == "place"}
        self.assertAlmostEqual(places["3"], -30, delta=6)

    def test_too_few_notes_are_few(self) -> None:
        plan = planned(bpm=90, silence=fixed(2, 2), cycles=16)
        notes = plan.seconds(plan.notes.tick)[:3]
        self.assertEqual([one.code for one in findings(plan, analyse(plan, notes).reading)][:1], ["few"])
