"""Which drills are the same exercise, and what varies in it."""

from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from giusto.drill import Drill, validate
from giusto.drill.identity import Rung, drill_key, exercise_key, rung_of
from tests.any_drill import drills
from tests.drills import fixed, plain


class IdentityTests(TestCase):
    def same(self, one: dict, other: dict) -> tuple[bool, bool]:  # type: ignore[type-arg]
        a, b = validate(one), validate(other)
        return drill_key(a) == drill_key(b), exercise_key(a) == exercise_key(b)

    def test_by_hand(self) -> None:
        start = plain()
        cases = (
            (plain(bpm=98), (True, True)),
            (plain(name="Renamed"), (True, True)),
            (plain(groups=None), (True, True)),
            (plain(play=[f"{beat}{part}" for beat in (1, 2, 3, 4) for part in ("", "+1/2")]), (True, True)),
            (plain(silence=fixed(2, 3)), (False, True)),
            (plain(grid=4), (False, True)),
            (plain(cycles=32), (False, True)),
            (plain(on=["2", "4"]), (False, False)),
            (plain(silence=None), (False, False)),
            (plain(beats=3), (False, False)),
        )
        for other, expected in cases:
            with self.subTest(other=other):
                self.assertEqual(self.same(start, other), expected)

    def test_another_draw_is_the_same_drill(self) -> None:
        random = {"kind": "random", "unit": "beat", "probability": 0.3, "longest": 3, "seed": 1}
        self.assertEqual(self.same(plain(silence=random), plain(silence=random | {"seed": 2})), (True, True))

    def test_places_have_one_spelling(self) -> None:
        odd = validate(plain(on=["4", "2+2/4", "1"], shift={"every_cycles": 2, "by": "2/8"}))
        self.assertEqual(odd.clicks.on, ("1", "2+1/2", "4"))
        self.assertEqual(odd.clicks.shift and odd.clicks.shift.by, "1/4")

    def test_rungs(self) -> None:
        self.assertEqual(rung_of(validate(plain())), Rung(96, 2, 2))
        self.assertEqual(rung_of(validate(plain(silence=None, grid=4))), Rung(96, 0, 4))
        growing = {"kind": "growing", "heard": 1, "silent": 1, "step": 1, "max": 6}
        self.assertEqual(rung_of(validate(plain(silence=growing))).silent_cycles, 6)

    @given(drills(), st.integers(10, 400), st.text("abc", max_size=5))
    @settings(max_examples=40, deadline=None)
    def test_name_and_tempo_never_matter(self, drill: Drill, bpm: int, name: str) -> None:
        other = validate(drill.plain() | {"name": name, "tempo": {"bpm": bpm}, "giusto": "drill/3"})
        self.assertEqual((drill_key(drill), exercise_key(drill)), (drill_key(other), exercise_key(other)))
