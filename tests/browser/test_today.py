"""A day gone through by keys alone, a score dropped on the page and played, through the real pages."""

from __future__ import annotations

import io
import re
from pathlib import Path

from django.core.management import call_command
from django.utils import timezone

from giusto.plan.routine import routine_of
from giusto.practice.ladder import ladder_of
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.plans.actions import keep_routine
from studio.plans.models import Day
from studio.takes.models import Take
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import played_plan, press_at, text_of, until, wait_for_reading
from tests.drills import plain

setUpModule = SERVED.open_with_worker

SCORE = Path(__file__).parents[2] / "src/studio/demo/lanterns_for_odo.musicxml"
DRILL = plain(bpm=160, silence=None, cycles=2, grid=1)
DAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"]


class TodayTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def setUp(self) -> None:
        super().setUp()
        vary, rule = {"what": "tempo", "from": 160, "to": 200, "by": 10}, {"kind": "streak", "clean": 1}
        fast = {"giusto": "ladder/1", "name": "Fast", "drill": DRILL, "vary": vary, "rule": rule}
        start_ladder(player=local_player(), ladder=ladder_of(fast))
        Ladder.objects.update(spread_percent=90, missed_percent=90)  # whatever a busy machine does to the notes
        blocks = [
            {"name": "technique", "minutes": [1, 3]},
            {"name": "application", "minutes": [1, 2], "flexible": True},
        ]
        keep_routine(
            player=local_player(),
            routine=routine_of(
                {
                    "giusto": "routine/1",
                    "days": DAYS,
                    "minutes": 3,
                    "start": "18:00",
                    "zone": "UTC",
                    "blocks": blocks,
                    "exercises": [{"name": "Fast", "block": "technique", "minutes": 2}],
                }
            ),
        )

    def test_from_sitting_down_through_the_day_by_keys(self) -> None:
        def go() -> tuple[str, str, str, str, str]:
            page = self.page
            page.goto(self.url("/"))
            page.wait_for_url(re.compile("/today/$"))
            heading = text_of(page, ".acts .solid")
            page.keyboard.press("Enter")
            page.wait_for_url(re.compile("/play/.*bpm=160"))
            page.keyboard.press("Space")
            until(page, "globalThis.giusto?.page?.next >= 1")
            plan = played_plan(page)
            press_at(page, plan.seconds(plan.notes.tick))
            wait_for_reading(page)
            following = text_of(page, ".acts .solid")
            page.keyboard.press("Enter")  # on to the next take
            page.wait_for_url(re.compile("/play/.*bpm=170"))
            page.goto(self.url("/today/"))
            with page.expect_navigation():
                page.keyboard.press("s")  # enough of it
            done = text_of(page, ".acts .solid")
            with page.expect_navigation():
                page.keyboard.press("Enter")
            return heading, following, done, text_of(page, ".closing"), text_of(page, ".today-main")

        heading, following, done, closed, said = self.browse(go)
        self.assertIn("Begin: Fast", heading)
        self.assertIn("One clean at 170", following)
        self.assertIn("Application: done", done)
        self.assertIn("one take", closed)
        self.assertIn("One clean at 170", closed)
        self.assertIn("minutes played.", said)
        self.assertEqual(Day.objects.get().day, timezone.localdate())
        self.assertEqual(self.faults, [])


class PieceTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def test_a_score_is_brought_in_learned_and_its_first_bars_are_played(self) -> None:
        def go() -> tuple[str, str, str]:
            page = self.page
            page.goto(self.url("/pieces/new/"))
            page.set_input_files("input[type=file]", str(SCORE))
            page.click("text=Look at it")
            page.wait_for_url(re.compile("/pieces/[0-9a-f-]+/$"))
            asked = text_of(page, "h1")
            with page.expect_navigation():
                page.keyboard.press("Enter")  # keep it
            with page.expect_navigation():
                page.keyboard.press("k")  # all of it is known: in one touch it may be played with the click
            begin = text_of(page, "h1")
            page.keyboard.press("Enter")
            page.wait_for_url(re.compile("/climb/[0-9a-f-]+/$"))
            page.keyboard.press("Enter")
            page.wait_for_url(re.compile("/play/"))
            page.keyboard.press("Space")
            until(page, "globalThis.giusto?.page?.next >= 1")
            plan = played_plan(page)
            press_at(page, plan.seconds(plan.notes.tick))
            wait_for_reading(page)
            return asked, begin, text_of(page, "h1")

        asked, begin, _ = self.browse(go)
        self.assertEqual(asked, "Is this the piece?")
        self.assertIn("Begin bars 1–2 with the click", begin)
        take = Take.objects.get()
        self.assertEqual(take.exercise and take.exercise.whole and take.exercise.whole.stretch.first_bar, 1)
        found = take.reading.found
        assert found
        self.assertGreater(found.onsets.matched, 0.9 * found.onsets.expected)
        self.assertEqual(self.faults, [])


class PaperTests(ServedTestCase):
    def test_the_month_and_the_empty_sheet_are_one_page_of_either_size(self) -> None:
        """As Chromium prints them, with a log of weeks."""
        call_command("demo", stdout=io.StringIO())

        def pages() -> list[tuple[str, str, int]]:
            page = self.page
            page.goto(self.url("/log/"))
            page.click("text=look at the demo")
            page.wait_for_selector(".log-line")
            found = []
            for path in ("/progress/month/", "/progress/sheet/"):
                page.goto(self.url(path))
                sizes = ("A4", "Letter")
                found += [(path, size, page.pdf(format=size).count(b"/Type /Page\n")) for size in sizes]
            return found

        found = self.browse(pages)
        self.assertEqual([count for _, _, count in found], [1, 1, 1, 1], found)
