"""Ladders that are made of a drill: where they start, where they end, by what steps."""

from __future__ import annotations

from unittest import TestCase

from giusto.drill import validate
from giusto.errors import GiustoError
from studio.ladders.made import built_up, ladder_by
from tests.drills import fixed, plain

FREE = {"kind": "random", "unit": "cycle", "probability": 0.5, "longest": 3, "seed": 3}


class LadderByTests(TestCase):
    def values(self, what: str, *, working_bpm: int | None = None, **drill: object) -> list[float | None]:
        """Return the values of the rungs of a ladder that is made of a drill."""
        return list(ladder_by(what, validate(plain(**drill)), working_bpm=working_bpm).values)

    def test_by_tempo_from_where_it_is_by_four_to_120_or_forty_more(self) -> None:
        self.assertEqual(self.values("tempo", bpm=60), [*range(60, 121, 4)])
        self.assertEqual(self.values("tempo", bpm=80), [*range(80, 121, 4)])
        self.assertEqual(self.values("tempo", bpm=100), [*range(100, 141, 4)])
        self.assertEqual(self.values("tempo", bpm=96, working_bpm=84)[0], 84)
        self.assertEqual(self.values("tempo", bpm=390)[-1], 400)  # no faster than a drill may be

    def test_so_much_a_week_by_one_to_forty_more(self) -> None:
        found = ladder_by("week", validate(plain(bpm=100)))
        self.assertEqual(list(found.values), [*range(100, 141)])
        self.assertEqual((found.rule.kind, found.rule.clean), ("week", 3))
        self.assertEqual(self.values("week", bpm=395)[-1], 400)

    def test_by_silence_to_eight_or_no_further_than_it_is(self) -> None:
        self.assertEqual(self.values("silence", silence=fixed(2, 3)), [3, 4, 5, 6, 7, 8])
        found = ladder_by("silence", validate(plain(silence=fixed(2, 2), cycles=16)))
        self.assertEqual(found.drills[0].cycles, 40)  # enough for some of them
        self.assertEqual(ladder_by("silence", validate(plain(cycles=60))).drills[0].cycles, 60)
        for silence in (None, FREE):
            with self.assertRaisesRegex(GiustoError, "no silence of one length"):
                ladder_by("silence", validate(plain(silence=silence)))

    def test_by_notes_through_what_it_has_itself(self) -> None:
        self.assertEqual(self.values("notes", grid=2), [1, 2, 3, 4])
        self.assertEqual(self.values("notes", grid=6), [1, 2, 3, 4, 6])


class BuiltUpTests(TestCase):
    def test_away_from_the_instrument_then_note_by_note_to_all_of_it(self) -> None:
        found = built_up(validate(plain(grid=4, play=["1", "2+1/2", "3+1/4", "4"], silence=None, cycles=4)))
        names = [drill.name for drill in found.drills]
        self.assertEqual(names[:2], ["Snapped, away from the instrument", "Only what falls on the click"])
        self.assertEqual(names[2:], ["3 notes a bar", "All of it"])
        self.assertEqual(found.drills[0].part, found.drills[1].part)
        self.assertEqual([len(drill.part.play) for drill in found.drills[1:]], [2, 3, 4])
        self.assertEqual({drill.cycles for drill in found.drills}, {12})  # long enough to go on
        self.assertEqual((found.name, found.rule.kind, found.rule.clean), ("Two bars alone, note by note", "streak", 1))

    def test_a_long_one_stays_long_and_one_without_a_name_has_one(self) -> None:
        found = built_up(validate(plain(grid=2, silence=None, cycles=30, name="")))
        self.assertEqual({drill.cycles for drill in found.drills}, {30})
        self.assertEqual(found.name, "A figure, note by note")
        self.assertEqual(found.drills[-1].name, "All of it")
        self.assertEqual(len(built_up(validate(plain(silence=None, name="x" * 120))).name), 120)
