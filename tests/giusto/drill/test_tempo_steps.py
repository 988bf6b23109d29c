"""A tempo that changes, ``drill/2``: by hand, and on any drill."""

from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from giusto.drill import validate
from giusto.drill.tempo_steps import cycle_bpm
from giusto.errors import DrillError
from tests.drills import climbing, plain


def tempos(drill: dict[str, object], sounding: set[int] | None = None) -> list[float]:
    """Return the tempo of each cycle of the body."""
    made = validate(drill)
    cycles = range(1, made.cycles + 1)
    heard = sounding if sounding is not None else {c for c in cycles if (c - 1) % 8 < 4}
    return [float(bpm) for bpm in cycle_bpm(made.tempo, cycles=made.cycles, sounding=heard)]


class StepTests(TestCase):
    def test_in_a_silence_the_tempo_waits(self) -> None:
        self.assertEqual(tempos(climbing()), [60] * 8 + [64] * 8)  # the step due at cycle 5 waits for cycle 9
        self.assertEqual(tempos(climbing(on="any")), [60] * 4 + [62] * 4 + [64] * 4 + [66] * 4)

    def test_the_last_tempo_is_never_passed_and_held(self) -> None:
        self.assertEqual(tempos(climbing(every_cycles=2, by=25, on="any"))[::2], [60, 85, 110, 120, 120, 120, 120, 120])
        self.assertEqual(tempos(climbing(every_cycles=4, by=-7, to=50, on="any"))[::4], [60, 53, 50, 50])

    def test_notches_up_and_down(self) -> None:
        """From 85 up the traditional scale goes on at 88 and 92 (common practice)."""
        up = climbing(85, every_cycles=4, by="notch", to=93, on="any")
        self.assertEqual(tempos(up)[::4], [85, 88, 92, 93])
        down = climbing(85, every_cycles=4, by="notch", to=76, on="any")
        self.assertEqual(tempos(down)[::4], [85, 84, 80, 76])

    @given(
        st.integers(20, 380), st.integers(20, 380), st.integers(1, 40), st.integers(1, 9), st.sets(st.integers(1, 40))
    )
    @settings(max_examples=80, deadline=None)
    def test_never_beyond_the_ends_and_never_back(
        self, bpm: int, to: int, by: int, every: int, sounding: set[int]
    ) -> None:
        drill = climbing(bpm, cycles=40, to=to, by=by if to >= bpm else -by, every_cycles=every)
        found = tempos(drill, sounding)
        self.assertEqual(found, sorted(found, reverse=to < bpm))
        self.assertTrue(all(min(bpm, to) <= tempo <= max(bpm, to) for tempo in found))
        for cycle in range(2, 41):
            if cycle not in sounding:
                self.assertEqual(found[cycle - 1], found[cycle - 2])


class FaultTests(TestCase):
    def test_each_names_its_field(self) -> None:
        cases = (
            (climbing() | {"giusto": "drill/1"}, "tempo.steps: is not a field that drill/1 may have"),
            (climbing(by=0), "tempo.steps.by: is 0, allowed is a number of bpm other than 0"),
            (climbing(by=-2), "tempo.steps.by: is -2, allowed is above 0: tempo.steps.to, 120, lies above tempo.bpm"),
            (climbing(by=2, to=50), "tempo.steps.by: is 2, allowed is below 0"),
            (climbing(by="half"), "tempo.steps.by: is \"half\", allowed is 'notch'"),
            (climbing(by=None), 'tempo.steps.by: is null, allowed is a number of bpm or "notch"'),
            (climbing(to=500), "tempo.steps.to: is 500, allowed is at most 400"),
            (climbing(every_cycles=0), "tempo.steps.every_cycles: is 0, allowed is at least 1"),
            (climbing(on="silent"), "tempo.steps.on: is \"silent\", allowed is 'sounding' or 'any'"),
            (climbing(extra=1), "tempo.steps.extra: is not a field"),
        )
        for drill, message in cases:
            with self.subTest(message), self.assertRaises(DrillError) as caught:
                validate(drill)
            self.assertIn(message, str(caught.exception))

    def test_it_comes_back_as_it_was_written(self) -> None:
        drill = validate(climbing())
        self.assertEqual(validate(drill.plain()), drill)
        self.assertEqual(drill.plain()["tempo"]["steps"], {"every_cycles": 4, "by": 2, "to": 120, "on": "sounding"})
        self.assertNotIn("steps", validate(plain() | {"giusto": "drill/2"}).plain()["tempo"])
