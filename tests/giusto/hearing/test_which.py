"""Of which drill a recording is: simulated recordings, set against drills that are near each other."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import TestCase

from giusto.hearing.sound import Samples
from giusto.hearing.which import Fit, of_sound, which
from giusto.notes.csv_file import write_notes
from giusto.notes.record import notes_of
from giusto.simulation.instrument import Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

HAND = SimulatedPlayer(bias_percent=-1.2, clock_percent=0.9, hand_ms=8.0, place_ms=-12.0)
TWO_ALONE = {"kind": "fixed", "heard": 2, "silent": 2}
DRILLS = (
    {"silence": TWO_ALONE},
    {"silence": TWO_ALONE, "bpm": 97},
    {"silence": None},
    {"silence": {"kind": "fixed", "heard": 1, "silent": 3}},
    {"silence": TWO_ALONE, "grid": 4},
)
PLANS = [planned(cycles=8, **drill) for drill in DRILLS]
RATE_HZ = 44_100


def found(number: int, bleed_db: float | None, sound: str = "skin") -> list[Fit]:
    """Return what a recording of one of the drills may be of."""
    plan = PLANS[number]
    onsets_s = simulate(plan, HAND, seed=number).onsets_s
    samples = recording(plan, onsets_s, Room(sound, bleed_db, -60.0, 40.0, 120.0), seed=number)
    return of_sound(Samples(samples, RATE_HZ), PLANS)


class WhichTests(TestCase):
    def test_by_the_click_that_is_heard_in_it(self) -> None:
        """Its tempo to one beat a minute, which bars it leaves out; alike in that, by the notes."""
        for number in range(len(PLANS)):
            with self.subTest(DRILLS[number]):
                fits = found(number, -25.0)
                self.assertEqual((fits[0].number, fits[0].by), (number, "clicks"))
                self.assertGreater(fits[0].share, 0.9)

    def test_an_instrument_that_sounds_as_the_click_does_hides_most_of_it(self) -> None:
        fits = found(1, -25.0, "wood")
        self.assertEqual((fits[0].number, fits[0].by), (1, "clicks"))

    def test_without_a_click_by_the_notes_and_what_they_cannot_tell_apart_is_left_to_the_player(self) -> None:
        fits = found(4, None)
        self.assertEqual((fits[0].number, fits[0].by), (4, "notes"))
        self.assertLessEqual({0, 2, 3}, {one.number for one in found(0, None)})

    def test_a_list_of_onsets(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "take"
            path.write_text(write_notes(notes_of(simulate(PLANS[4], HAND, seed=1).onsets_s + 3.0)))
            self.assertEqual(which(path, PLANS)[0].number, 4)

    def test_what_is_of_none_of_them(self) -> None:
        other = planned(cycles=8, bpm=71, beats=3, on=["1"], grid=1)
        samples = recording(other, simulate(other, HAND, seed=2).onsets_s, Room("skin", -25.0, -60.0), seed=2)
        self.assertEqual(of_sound(Samples(samples, RATE_HZ), PLANS[:2]), [])
