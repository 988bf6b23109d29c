"""Build-up of a part, stages written out by hand from the words of docs/formats.md."""

from unittest import TestCase

from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.practice.build_up import build_up
from tests.drills import plain


def stages(**changes: object) -> list[str]:
    """Return the places of each stage, the last as the drill says it."""
    found = [stage.part.play for stage in build_up(validate(plain(**changes)))]
    return [play if isinstance(play, str) else " ".join(str(at) for at in play) for play in found]


class BuildUpTests(TestCase):
    def test_eighths_over_every_beat(self) -> None:
        self.assertEqual(stages(beats=2, grid=2), ["1 2", "grid"])

    def test_sixteenths_halve_their_gaps(self) -> None:
        self.assertEqual(stages(beats=2, grid=4), ["1 2", "1 1+1/2 2 2+1/2", "grid"])

    def test_triplets_take_the_earlier_of_two_as_near(self) -> None:
        self.assertEqual(stages(beats=2, grid=3), ["1 2", "1 1+1/3 2 2+1/3", "grid"])

    def test_the_largest_gap_first_and_over_the_bar(self) -> None:
        """Clicks on 1; the ring's one gap is the cycle, its middle 3; then both halves; what is left last."""
        self.assertEqual(stages(on=["1"], silence=None, grid=1), ["1", "1 3", "grid"])
        figure = ["1", "1+1/2", "2", "4+1/2"]
        self.assertEqual(
            stages(on=["1"], silence=None, grid=2, play=figure),
            ["1", "1 2", "1 2 4+1/2", "1 1+1/2 2 4+1/2"],
        )

    def test_no_note_on_a_click_begins_with_the_first(self) -> None:
        offbeats = ["1+1/2", "2+1/2", "3+1/2", "4+1/2"]
        found = stages(grid=2, play=offbeats, silence=None)
        self.assertEqual(found[:2], ["1+1/2", "1+1/2 3+1/2"])
        self.assertEqual(found[-1], " ".join(offbeats))

    def test_each_stage_holds_the_one_before(self) -> None:
        found = build_up(validate(plain(grid=4, on=["2", "4"], silence=None)))
        sizes = [len(stage.part.play) for stage in found[:-1]]
        self.assertEqual(sizes, sorted(set(sizes)))
        self.assertEqual(found[-1], validate(plain(grid=4, on=["2", "4"], silence=None)))

    def test_what_has_no_figure_is_refused(self) -> None:
        turns = [{"cycles": 1, "at": ["1"]}, {"cycles": 1, "at": ["2"]}]
        for play, what in (("free", "free"), (turns, "in turns")):
            with self.subTest(play), self.assertRaisesRegex(GiustoError, f"part.play is {what}, allowed is one figure"):
                build_up(validate(plain(play=play)))
