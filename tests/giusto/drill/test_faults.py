"""How a fault is worded: path, what was found, what is allowed; no word of the library that found it."""

from unittest import TestCase

from giusto.drill import validate
from giusto.drill.faults import path_text
from giusto.errors import DrillError
from tests.drills import fixed, plain


class FaultTests(TestCase):
    def test_paths_as_a_reader_of_the_file_writes_them(self) -> None:
        self.assertEqual(path_text(("part", "play", 0)), "part.play[0]")
        self.assertEqual(path_text(("clicks", "silence", "fixed", "heard")), "clicks.silence.heard")  # no branch
        self.assertEqual(path_text((0, "by")), "[0].by")
        self.assertEqual(path_text(()), "")

    def test_each_kind_of_fault_by_what_it_says(self) -> None:
        long = "x" * 200
        for broken, told in (
            (plain(bpm=500), "tempo.bpm: is 500, allowed is at most 400"),
            (plain(bpm="fast"), 'tempo.bpm: is "fast", allowed is a number'),
            (plain(bpm=float("nan")), "tempo.bpm: is NaN, allowed is a finite number"),
            (plain(cycles=0), "cycles: is 0, allowed is at least 1"),
            (plain(cycles=1.5), "cycles: is 1.5, allowed is a whole number"),
            (plain(silence=fixed(0, 2)), "clicks.silence.heard: is 0, allowed is at least 1"),
            (plain(silence={"kind": "often"}), "clicks.silence"),
            (plain(silence={"heard": 2}), "clicks.silence.kind: is missing, and is required"),
            (plain(on=["0"]), 'clicks.on[0]: is "0", allowed is a place such as "1", "2+1/2" or "4+3/4"'),
            (plain(on="1"), 'clicks.on: is "1", allowed is a list'),
            (plain() | {"more": 1}, "more: is not a field that this file may have"),
            ({key: value for key, value in plain().items() if key != "tempo"}, "tempo: is missing, and is required"),
            (plain() | {"tempo": 96}, "tempo: is 96, allowed is an object"),
            (plain(accent=long), f'clicks.accent: is "{"x" * 56}…, allowed is '),
        ):
            with self.subTest(told), self.assertRaises(DrillError) as caught:
                validate(broken)
            self.assertIn(told, "\n".join(f"{fault.path}: {fault.problem}" for fault in caught.exception.faults))
