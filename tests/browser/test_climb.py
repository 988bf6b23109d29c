"""A ladder climbed by keys alone, its rule changed by its words, through the real pages."""

from __future__ import annotations

import re

from giusto.practice.ladder import ladder_of
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.takes.models import Take
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import played_plan, press_at, text_of, until, wait_for_reading
from tests.drills import plain

setUpModule = SERVED.open

DRILL = plain(bpm=160, silence=None, cycles=2, grid=1)
VARY = {"what": "tempo", "from": 160, "to": 180, "by": 10}


class ClimbTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def setUp(self) -> None:
        super().setUp()
        rule = {"kind": "streak", "clean": 1}
        plain_ladder = {"giusto": "ladder/1", "name": "Fast", "drill": DRILL, "vary": VARY, "rule": rule}
        self.ladder = start_ladder(player=local_player(), ladder=ladder_of(plain_ladder))
        # Whatever a busy machine does to the notes: here the way is tried, and not how even they are.
        Ladder.objects.update(spread_percent=90, missed_percent=90)

    def test_from_sitting_down_to_the_next_rung_by_keys(self) -> None:
        def climb() -> tuple[str, str, str, str]:
            page = self.page
            page.goto(self.url("/work/"))
            page.keyboard.press("Enter")
            page.wait_for_url(re.compile("/play/"))
            page.keyboard.press("Space")
            until(page, "globalThis.giusto?.page?.next >= 1")
            plan = played_plan(page)
            press_at(page, plan.seconds(plan.notes.tick))
            wait_for_reading(page)
            following = text_of(page, ".acts .solid")
            said = text_of(page, ".advice")
            with page.expect_navigation():
                page.keyboard.press("x")
            word = text_of(page, ".advice")
            with page.expect_navigation():
                page.keyboard.press("x")
            page.keyboard.press("Enter")
            page.wait_for_url(re.compile(r"/play/.*bpm=170"))
            return following, said, word, text_of(page, "#before")

        following, said, word, ready = self.browse(climb)
        self.assertIn("Next: 170", following)
        self.assertIn("160 is held", said)
        self.assertIn("by your word", word)
        self.assertIn("170", ready)
        self.assertEqual(self.faults, [])
        self.assertEqual(Take.objects.get().exercise, self.ladder.exercise)

    def test_another_school_by_a_word_and_back_from_play(self) -> None:
        def change() -> str:
            page = self.page
            page.goto(self.url(self.ladder.get_absolute_url()))
            page.click("summary:has-text('How it climbs')")
            page.select_option("select[name=kind]", "edge")
            page.wait_for_selector("input[name=nights]")
            page.fill("input[name=to]", "150")
            page.press("input[name=to]", "Tab")
            page.wait_for_selector(".error")
            said = page.inner_text(".error")
            page.keyboard.press("Escape")
            page.goto(self.url(self.ladder.get_absolute_url()))
            page.click(".acts .solid")
            page.wait_for_url(re.compile("/play/"))
            page.keyboard.press("Escape")
            page.wait_for_url(re.compile("/climb/[0-9a-f-]+/$"))
            return str(said)

        said = self.browse(change)
        self.assertIn("can’t lie below the first", said)
        self.assertEqual(Ladder.objects.get().spec["rule"], {"kind": "edge", "clean": 1, "nights": 1})
        self.assertEqual(self.faults, [])
