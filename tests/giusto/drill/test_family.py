"""Which family of the shelf a drill is put into."""

from unittest import TestCase

from giusto.drill import validate
from giusto.drill.family import LONG_SILENCES, SLOW_BPM, family_of
from tests.drills import fixed, plain


class FamilyTests(TestCase):
    def test_each_family_and_the_borders_between_them(self) -> None:
        every = {"silence": None, "grid": 1}
        for family, changes in (
            ("follow", every | {"bpm": SLOW_BPM + 1}),
            ("slow", every | {"bpm": SLOW_BPM}),
            ("figures", every | {"bpm": SLOW_BPM, "grid": 2, "play": ["1", "2+1/2"]}),
            ("sparse", every | {"on": ["2", "4"]}),
            ("sparse", every | {"every": 2}),
            ("moved", every | {"on": ["1+1/2", "2+1/2"]}),
            ("moved", every | {"shift": {"by": "1/4", "every_cycles": 4}}),
            ("dropped", {"silence": fixed(2, LONG_SILENCES)}),
            ("dropped", {"silence": fixed(1, LONG_SILENCES - 1)}),
            ("none", {"silence": fixed(1, LONG_SILENCES), "cycles": 16}),
            ("dropped", {"silence": {"kind": "random", "unit": "beat", "probability": 0.3, "longest": 4, "seed": 1}}),
        ):
            with self.subTest(family, **changes):
                self.assertEqual(family_of(validate(plain(**changes))), family)

    def test_a_drill_without_a_click_is_of_the_family_without_one(self) -> None:
        free = validate(plain(on=[], silence=None) | {"giusto": "free/1"})
        self.assertEqual(family_of(free), "none")
