"""One change of a drill at a time: by hand, and on any drill."""

from unittest import TestCase

from hypothesis import given, settings

from giusto.drill import Drill, changes, validate
from giusto.practice.advice import CHANGES
from giusto.schedule import schedule
from tests.any_drill import drills
from tests.drills import fixed, plain


class ChangeTests(TestCase):
    @given(drills())
    @settings(max_examples=60, deadline=None)
    def test_changes_make_valid_drills_or_none(self, drill: Drill) -> None:
        for change in CHANGES.values():
            changed = change(drill)
            if changed is not None:
                self.assertNotEqual(changed, drill)
                self.assertEqual(validate(changed.plain()), changed)

    def test_the_number_of_silences_stays(self) -> None:
        every_third = plain(silence=None, every=3, cycles=12)
        cases = (
            (plain(), changes.shorter_silence),
            (plain(), changes.longer_silence),
            (plain(), changes.more_heard),
            (every_third, changes.longer_silence),
        )
        for start, change in cases:
            drill = validate(start)
            changed = change(drill)
            assert changed is not None
            self.assertEqual(len(schedule(changed).silences), len(schedule(drill).silences))

    def test_by_hand(self) -> None:
        drill = validate(plain())
        self.assertEqual(changes.longer_silence(drill).clicks.silence.silent, 3)  # type: ignore[union-attr]
        self.assertEqual(changes.shorter_silence(drill).clicks.silence.silent, 1)  # type: ignore[union-attr]
        self.assertIsNone(changes.shorter_silence(validate(plain(silence=fixed(2, 1)))))
        throughout = changes.longer_silence(validate(plain(silence=None)))
        self.assertEqual(throughout.clicks.silence.silent, 1)  # type: ignore[union-attr]
        self.assertEqual(changes.longer_silence(drill).name, "")  # type: ignore[union-attr]
        # A tenth less than 96 is 86.4; the notch below it is 84.
        self.assertEqual(changes.slower(drill).tempo.bpm, 84)  # type: ignore[union-attr]
        self.assertEqual(changes.slower(drill).name, drill.name)  # type: ignore[union-attr]
        self.assertIsNone(changes.slower(validate(plain(bpm=10))))
        self.assertIsNone(changes.more_notes(validate(plain(bpm=200))))  # a hand could not follow
        self.assertEqual(changes.more_clicks(validate(plain(on=["2", "4"]))).clicks.on, ("1", "2", "3", "4"))  # type: ignore[union-attr]
        self.assertIsNone(changes.more_clicks(drill))
        self.assertIsNone(changes.more_cycles(validate(plain(cycles=300))))

    def test_a_growing_silence_reaches_its_new_length(self) -> None:
        growing = plain(silence={"kind": "growing", "heard": 1, "silent": 1, "step": 1, "max": 3}, cycles=9)
        longer = changes.longer_silence(validate(growing))
        assert longer is not None
        beats = [(s.end_tick - s.start_tick) / schedule(longer).ticks_per_beat for s in schedule(longer).silences]
        self.assertEqual(max(beats), 4 * 4 + 1)


class HeardBeforeTests(TestCase):
    def test_the_click_is_heard_longer_until_the_pulse_is_there(self) -> None:
        """A cycle more each time, four at the most: by then the pulse is there, or more of it does not help (ours)."""
        drill, heard = validate(plain(silence=fixed(1, 2), cycles=12)), [1]
        while made := changes.more_heard(drill):
            drill = made
            heard.append(drill.clicks.silence.heard)  # type: ignore[union-attr]
        self.assertEqual(heard, [1, 2, 3, 4])
