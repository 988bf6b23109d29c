"""Every page, as the demo has them, at three widths: what its first view holds, and what axe says of it."""

from __future__ import annotations

import io
import os
from pathlib import Path

from django.core.management import call_command
from playwright.sync_api import Page

from studio.ladders.models import Ladder
from studio.pieces.models import Piece, Stretch
from studio.takes.models import Take
from tests.browser.first_view import FirstView, measure, table
from tests.browser.served import SERVED, ServedTestCase

setUpModule = SERVED.open

WRITTEN = os.environ.get("GIUSTO_FIRST_VIEW")  # where the table of first views goes: docs/first-view.md
HEADING = """# What a first view holds

Controls in the first view of each page of the demo, the head included, at three widths; the size of its HTML. Measured
by `tests/browser/first_view.js`; the same test refuses more than 40 (Today, a reading, Progress: 24), a page that
scrolls sideways, a target under 44 px on touch, an action out of the first view, words over words, a head of more than
one line.

"""


def demo_paths() -> dict[str, str]:
    """Return an address of every page, as the demo has them, by what it is."""
    take = Take.objects.filter(reading__refusal="").latest("started_at")
    whole = Ladder.objects.exclude(exercise__parts=None).first()
    ladder = Ladder.objects.filter(exercise__parts=None, exercise__whole=None, exercise__stretch=None).first()
    free = Take.objects.filter(reading__verdict__in=("together", "before", "after", "loose")).latest("started_at")
    assert whole
    assert ladder
    return {
        "Today": "/today/",
        "Today, closing": "/today/close/",
        "Click": "/set/",
        "Click, notes in turn": "/set/?drill=doubling",
        "Click, by chance": "/set/?drill=random-beats",
        "Click, refused": "/set/?drill=random-beats&on=marked&places=9",
        "Drill files": "/set/own/import/",
        "A passage": "/set/own/score/",
        "Care": "/set/care/",
        "A sound of one's own": "/set/delivery/own/",
        "Ready": "/play/?drill=figure-1-a",
        "Ready, no click": "/play/?drill=nothing-at-all",
        "Work": "/work/",
        "Something new": "/climb/new/",
        "An exercise": ladder.get_absolute_url(),
        "An exercise in keys": whole.get_absolute_url(),
        "Where it leans": f"{ladder.get_absolute_url()}places/",
        "A new piece": "/pieces/new/",
        "A piece": Piece.objects.all()[0].get_absolute_url(),
        "A passage of it": Stretch.objects.all()[0].get_absolute_url(),
        "Weeks": "/weeks/",
        "Routine": "/routine/",
        "Log": "/log/",
        "Log, found": "/log/?q=marimba&tempo=60-100",
        "Deleted": "/log/deleted/",
        "A reading": take.get_absolute_url(),
        "A reading with the click": free.get_absolute_url(),
        "A reading, large": f"{take.get_absolute_url()}?view=standing",
        "Each note": f"{take.get_absolute_url()}?view=notes",
        "One silence": f"{take.get_absolute_url()}silence/1/",
        "A recording": "/recording/?drill=two-heard-two-silent",
        "Progress": "/progress/",
        "Every figure": "/progress/figures/",
        "By exercise": "/progress/exercises/",
        "The month": "/progress/month/",
        "An empty sheet": "/progress/sheet/",
        "How it is measured": "/reach/",
        "You": "/you/",
        "Sound in": "/heard/",
        "This device listens": "/ear/",
        "Method": "/method/",
    }


class EveryPageTests(ServedTestCase):
    def demo(self, page: Page) -> None:
        """Look at the demo."""
        page.goto(self.url("/log/"))
        page.click("text=look at the demo")
        page.wait_for_selector(".log-line")

    def test_first_views_keep_to_the_bars_and_axe_finds_nothing(self) -> None:
        """By axe-core 4, from the package axe-playwright-python, and by the bars of the design."""
        call_command("demo", stdout=io.StringIO())
        paths = demo_paths()

        def look() -> tuple[list[FirstView], list[str]]:
            context = self.new_context(bypass_csp=True, has_touch=True)  # axe is put in from outside
            page = context.new_page()
            self.demo(page)
            views: list[FirstView] = []
            faults: list[str] = []
            for name, path in paths.items():
                seen, wrong = measure(page, name, self.url(path))
                views += seen
                faults += wrong
            context.close()
            return views, faults

        views, faults = self.browse(look)
        if WRITTEN:
            Path(WRITTEN).write_text(HEADING + table(views), encoding="utf-8")
        self.assertEqual(faults, [], "\n".join(faults))
        self.assertLessEqual(max(view.html for view in views), 120_000)
        self.assertLessEqual({view.head for view in views if view.width != 390}, {0, 66})
        self.assertLessEqual({view.head for view in views if view.width == 390}, {0, 50})

    def test_keys_are_named_to_hands_that_use_them(self) -> None:
        def look() -> list[bool]:
            page = self.page
            page.goto(self.url("/set/"))
            named = "document.querySelector('.acts .key').checkVisibility()"
            found = [bool(page.evaluate(named))]
            page.evaluate("dispatchEvent(new PointerEvent('pointerdown', { pointerType: 'touch' }))")
            found.append(bool(page.evaluate(named)))
            page.goto(self.url("/today/"))  # for the session, from page to page
            found.append(bool(page.evaluate(named)))
            page.keyboard.press("Shift")
            found.append(bool(page.evaluate(named)))
            return found

        self.assertEqual(self.browse(look), [True, False, False, True])

    def test_a_question_mark_lists_the_keys_of_the_page(self) -> None:
        def ask() -> str:
            page = self.page
            page.goto(self.url("/set/"))
            page.keyboard.press("?")
            page.wait_for_selector("#keys")
            text = page.inner_text("#keys")
            page.keyboard.press("Escape")
            page.wait_for_selector("#keys", state="detached")
            return str(text)

        text = self.browse(ask)
        self.assertIn("Play", text)
        self.assertIn("Just the click", text)
        self.assertIn("Faster by 5", text)
