"""A silence read while its take is still played says what the whole take will say of it."""

from unittest import TestCase

import numpy as np

from giusto.drill import validate
from giusto.notes.record import notes_of
from giusto.reading import analyse
from giusto.reading.one_silence import analyse_silence, settle_s
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import climbing, fixed, planned

PLAN = planned(bpm=90, silence=fixed(2, 2), cycles=24)
ONSETS_S = simulate(PLAN, SimulatedPlayer(clock_percent=1.0, hand_ms=5, bias_percent=-1), seed=4).onsets_s


class OneSilenceTests(TestCase):
    def test_as_in_the_whole_take_by_the_notes_until_then(self) -> None:
        whole = analyse(PLAN, ONSETS_S).reading.silences
        for index, silence in enumerate(PLAN.silences):
            end_s = float(PLAN.seconds(silence.end_tick)) + settle_s(PLAN)
            found = analyse_silence(PLAN, notes_of(ONSETS_S[end_s > ONSETS_S]), index)
            assert found
            one, thread = found
            with self.subTest(index):
                assert one.return_ms is not None
                assert whole[index].return_ms is not None
                assert whole[index].ci95_ms
                self.assertEqual((one.beats, one.start_s, one.end_s), (9.0, whole[index].start_s, whole[index].end_s))
                self.assertAlmostEqual(one.return_ms, whole[index].return_ms or 0.0, delta=12)
                self.assertGreater(len(thread.tick), 10)

    def test_without_its_notes_there_is_nothing_to_say(self) -> None:
        first = float(PLAN.seconds(PLAN.silences[0].start_tick)) - 0.1  # nor the note on its first click
        self.assertIsNone(analyse_silence(PLAN, notes_of(ONSETS_S[first > ONSETS_S]), 0))
        self.assertIsNone(analyse_silence(PLAN, notes_of([]), 1))

    def test_the_slowest_tempo_says_how_long_to_wait_for_an_answer(self) -> None:
        self.assertEqual(settle_s(planned(bpm=40)), 0.5)
        self.assertAlmostEqual(settle_s(planned(bpm=100)), 0.36)
        self.assertAlmostEqual(settle_s(schedule(validate(climbing(bpm=90)))), 0.4)  # its first and slowest

    def test_the_cost_does_not_grow_with_the_take(self) -> None:
        """Notes far from the silence change nothing."""
        near = notes_of(ONSETS_S)
        last = len(PLAN.silences) - 1
        late = float(PLAN.seconds(PLAN.silences[last].start_tick)) - 7 * 4 * PLAN.beat_s
        found, cut = (analyse_silence(PLAN, some, last) for some in (near, notes_of(ONSETS_S[late < ONSETS_S])))
        assert found
        assert cut
        np.testing.assert_allclose(found[0].return_ms or 0, cut[0].return_ms or 0, atol=1e-6)
