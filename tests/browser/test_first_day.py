"""A newcomer's first day, from the address to the closed day: once by touch alone, once by keys alone.

By strokes alone: ``test_hearing``.
"""

from __future__ import annotations

import re

from playwright.sync_api import Page

from studio.plans.models import Day
from studio.takes.models import Batch, Take
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import played_plan, press_at, text_of, until, wait_for_reading

setUpModule = SERVED.open

BEGUN = "globalThis.giusto?.page?.next >= 1"


def touch_at(page: Page, times_s: list[float]) -> None:
    """Touch the frame at drill times, by stamps of the page's own clock."""
    session = page.context.new_cdp_session(page)
    zero_ms = page.evaluate("giusto.page_ms(0) + performance.timeOrigin")
    box = page.locator("#tap").bounding_box()
    assert box
    point = {"x": box["x"] + 40, "y": box["y"] + 40}
    for time_s in times_s:
        stamp = (zero_ms + 1000 * time_s) / 1000
        session.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [point], "timestamp": stamp})
        session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": [], "timestamp": stamp + 0.01})


class FirstDayTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def assert_read(self, verdict: str) -> None:
        """Look whether all strokes came through; how exactly they did is the matter of ``test_take``."""
        found = Take.objects.latest("started_at").reading.found
        assert found
        self.assertGreater(found.onsets.matched, 0.9 * found.onsets.expected)
        self.assertTrue(verdict)

    def test_by_touch_alone(self) -> None:
        """Three touches and the strokes to the first reading; six touches on +5, however fast, are +30."""

        def go() -> tuple[str, str, str, str]:
            context = self.new_context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
            page = context.new_page()
            page.on("pageerror", lambda error: self.faults.append(str(error)))
            page.goto(self.url("/"))
            page.tap(".acts .solid")  # set a click
            page.wait_for_url("**/set/**")
            for _ in range(6):
                page.tap(".steps [aria-label='Faster by 5']")
            until(page, "document.querySelector('[name=bpm]').value === '126'")
            until(page, "location.search.includes('bpm=126')")
            page.tap(".acts .solid")  # play
            page.wait_for_url("**/play/**")
            page.tap("#tap")  # begin
            until(page, BEGUN)
            touch_at(page, played_plan(page).seconds(played_plan(page).notes.tick).tolist())
            verdict = wait_for_reading(page)
            page.tap(".acts .solid")  # what comes next
            page.wait_for_url("**/play/**")
            page.tap(".stage-top a")  # enough: to where a day begins
            page.tap(".places a:has-text('Today')")
            page.wait_for_url("**/today/")
            page.tap("[name=preset] >> nth=0")
            page.wait_for_selector(".acts .solid:has-text('Begin')")
            begins = text_of(page, ".acts .solid")
            page.tap("button[popovertarget=more]")
            page.tap("#more a:has-text('Close the day')")
            page.wait_for_url("**/today/close/")
            page.tap(".acts .solid")
            page.wait_for_selector("text=Go on after all")
            closed = text_of(page, ".today-main")
            keys = page.evaluate("[...document.querySelectorAll('.key')].filter((one) => one.checkVisibility()).length")
            return verdict, begins, closed, str(keys)

        verdict, begins, closed, keys = self.browse(go)
        self.assert_read(verdict)
        self.assertIn("Begin: ", begins)
        self.assertIn("played.", closed)
        self.assertEqual(keys, "0")  # no key is named to hands that touch
        self.assertEqual({note["source"] for batch in Batch.objects.all() for note in batch.notes}, {"touch"})
        self.assertIsNotNone(Day.objects.get().closed_at)
        self.assertEqual(self.faults, [])

    def test_by_keys_alone(self) -> None:
        def go() -> tuple[str, str, str]:
            page = self.page
            page.goto(self.url("/"))
            page.keyboard.press("Enter")
            page.wait_for_url("**/set/**")
            for _ in range(6):
                page.keyboard.press(">")
            until(page, "location.search.includes('bpm=126')")
            page.keyboard.press("Enter")
            page.wait_for_url("**/play/**")
            page.keyboard.press("Space")
            until(page, BEGUN)
            plan = played_plan(page)
            press_at(page, plan.seconds(plan.notes.tick))
            verdict = wait_for_reading(page)
            page.keyboard.press("Enter")
            page.wait_for_url("**/play/**")
            page.keyboard.press("Escape")
            page.wait_for_url(re.compile("/(set|takes|today)/"))
            page.goto(self.url("/today/"))  # as a bookmark would
            page.keyboard.press("1")
            page.wait_for_selector(".acts .solid:has-text('Begin')")
            begins = text_of(page, ".acts .solid")
            page.keyboard.press("c")
            page.wait_for_url("**/today/close/")
            page.keyboard.press("Enter")
            page.wait_for_selector("text=Go on after all")
            return verdict, begins, text_of(page, ".today-main")

        verdict, begins, closed = self.browse(go)
        self.assert_read(verdict)
        self.assertIn("Begin: ", begins)
        self.assertIn("played.", closed)
        self.assertEqual(Take.objects.count(), 1)
        self.assertIsNotNone(Day.objects.get().closed_at)
        self.assertEqual(self.faults, [])
