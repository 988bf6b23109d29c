"""Sheet and plumb line: places on the page against arithmetic done by hand."""

import re
from unittest import TestCase

import numpy as np

from giusto.reading.analyse import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.sheet.layout import PHONE, TABLET, WIDE, Columns, Rows
from studio.sheet.picture import Picture, draw_plan, draw_silence, draw_take
from studio.sheet.rows import cycle_words
from tests.drills import fixed, planned


def picture(columns: Columns = WIDE, *, player: SimulatedPlayer | None = None, **changes: object) -> Picture:
    """Return the picture of a simulated take."""
    plan = planned(**changes)
    analysis = analyse(plan, simulate(plan, player or SimulatedPlayer(bias_percent=-1), seed=2).onsets_s)
    return draw_take(plan, columns, reading=analysis.reading, thread=analysis.thread)


def numbers(path: str) -> np.ndarray:
    """Return all numbers of a path."""
    return np.array([float(n) for n in re.findall(r"-?\d+\.?\d*", path)])


class LayoutTests(TestCase):
    def test_rows_share_the_height_and_never_stretch(self) -> None:
        for cycles, height in ((4, 35), (15, 35), (31, 17.5), (199, 2.8)):
            self.assertEqual(Rows.of(planned(cycles=cycles)).height, height)

    def test_bands_are_the_withheld_cycles(self) -> None:
        bands = draw_plan(planned(cycles=15), WIDE).sheet.bands
        self.assertTrue(bands.startswith("M0 94.0h720V152.0h-720zM0 210.0h720V268.0h-720z"), bands)  # 36 + 58, 29 a row

    def test_a_sparse_click_bands_the_whole_page(self) -> None:
        bands = draw_plan(planned(on=["1"], silence=None, cycles=8), WIDE).sheet.bands
        self.assertEqual(bands, "M0 36.0h720V268.0h-720z")

    def test_a_silence_that_nothing_ends_is_drawn_as_one(self) -> None:
        plan = planned(cycles=8, close=0)
        self.assertEqual(len(plan.silences), 1)
        self.assertEqual(len(plan.unreturned), 1)
        self.assertEqual(cycle_words(plan), ["click", "click", "alone", "alone"] * 2)
        self.assertEqual(draw_plan(plan, WIDE).sheet.bands.count("z"), 2)
        self.assertEqual(planned(cycles=8).unreturned, ())
        self.assertEqual(planned(silence=None, close=0).unreturned, ())

    def test_alone_stands_where_no_click_sounds(self) -> None:
        """Common practice: who hears beats 2 and 4, or one click a cycle, is not alone."""
        for on in (["2", "4"], ["1"], ["4+3/4"]):
            self.assertEqual(set(cycle_words(planned(on=on, silence=None, grid=4))), {"click", "close"})
        every = planned(on=["1"], every=4, silence=None, cycles=8)
        self.assertEqual(cycle_words(every), ["click", "alone", "alone", "alone"] * 2 + ["close"])

    def test_posts_solid_where_it_sounds_hollow_where_withheld(self) -> None:
        sheet = draw_plan(planned(cycles=4), WIDE).sheet
        self.assertEqual((sheet.posts.count("M"), sheet.hollow.count("M")), (2 * 4 + 4, 2 * 4))


class ThreadTests(TestCase):
    def test_late_hangs_right_early_left_held_down(self) -> None:
        for bias, kind in ((-3.0, "late"), (3.0, "early")):
            for bob in picture(player=SimulatedPlayer(bias_percent=bias, hand_ms=3, clock_percent=0.3)).plumb.bobs:  # type: ignore[union-attr]
                self.assertEqual(bob.kind, kind)
                self.assertEqual(bob.x > WIDE.zero_x, bias < 0)
                self.assertIn(kind, bob.number)

    def test_scale_holds_the_thread_and_turns_to_beats(self) -> None:
        small = picture(player=SimulatedPlayer(bias_percent=0, hand_ms=3, clock_percent=0.3)).plumb
        large = picture(player=SimulatedPlayer(bias_percent=-4), silence=fixed(2, 8), cycles=20).plumb
        assert small
        assert large
        self.assertEqual(([mark.text for mark in small.axis if " " in mark.text], small.limits != []), (["0 ms"], True))
        self.assertEqual(([mark.text for mark in large.axis if " " in mark.text], large.limits), (["0 beats"], []))
        self.assertIn("beats late", large.bobs[0].number)

    def test_everything_stays_on_the_page(self) -> None:
        cases = (
            dict(beats=1, cycles=64, silence=fixed(2, 2)),
            dict(beats=12, cycles=64, silence=fixed(1, 1), bpm=200, grid=1),
            dict(beats=3, cycles=6, silence=fixed(2, 1), grid=8, bpm=60),
            dict(beats=11, cycles=6, silence=fixed(2, 1), bpm=168, grid=1),
            dict(beats=4, cycles=200, silence=fixed(2, 2)),
        )
        for changes in cases:
            for columns in (WIDE, TABLET, PHONE):
                with self.subTest(columns=columns.name, **changes):
                    shown = picture(columns, **changes)
                    assert shown.plumb
                    for strand in shown.plumb.strands:
                        xs = numbers(strand.line)[::2]
                        self.assertTrue(np.all((xs > columns.zero_x - 1.1 * columns.half_w) & (xs < columns.width)))
                    labels = [bob.y for bob in shown.plumb.bobs if bob.number]
                    self.assertTrue(np.all(np.diff(labels) >= 17))

    def test_a_silence_alone(self) -> None:
        plan = planned()
        analysis = analyse(plan, simulate(plan, SimulatedPlayer(bias_percent=-2), seed=1).onsets_s)
        assert analysis.thread
        hanging = draw_silence(plan, 2, silence=analysis.reading.silences[1], thread=analysis.thread)
        ys = numbers(hanging.strand.line)[1::2]
        self.assertTrue(np.all((ys >= 0) & (ys <= hanging.height)))
        self.assertEqual(hanging.bob.kind, "late")
