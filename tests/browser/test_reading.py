"""The reading in a real browser: by keyboard, on paper, for screen readers."""

from giusto.simulation.player import SimulatedPlayer as Hand
from tests.browser.first_view import WIDTHS
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import text_of
from tests.studio.playing import play

setUpModule = SERVED.open


class ReadingKeysTests(ServedTestCase):
    def test_the_reading_by_keyboard(self) -> None:
        """Standing, page, silences up and down, one by itself, pin, another take beside it, definition, next take."""
        first, second = (play(self.client, player=Hand(bias_percent=bias), seed=7) for bias in (-3.0, 1.5))

        def read() -> list[str]:
            page, seen = self.page, []
            page.goto(self.url(f"{first.get_absolute_url()}?view=standing"))
            seen.append(text_of(page, "h1"))
            page.keyboard.press("x")
            page.wait_for_url(f"**{first.get_absolute_url()}")
            for key in ("n", "ArrowDown", "ArrowDown", "ArrowUp"):
                page.keyboard.press(key)
            seen.append(page.evaluate("document.activeElement.textContent"))
            page.keyboard.press("Enter")
            page.wait_for_url("**/silence/2/")
            page.keyboard.press("n")
            page.wait_for_url("**/silence/3/")
            page.keyboard.press("Escape")
            page.wait_for_url(f"**{first.get_absolute_url()}")
            page.keyboard.press("p")
            page.wait_for_selector("text=Pinned. Each reading")
            page.goto(self.url(second.get_absolute_url()))
            seen.append(text_of(page, ".reading-more h2"))
            seen.append(page.evaluate("document.body.textContent.includes('more than chance')"))
            page.keyboard.press("f")
            page.wait_for_url("**view=standing")
            page.keyboard.press("Space")
            page.wait_for_url("**/play/**")
            return [*seen, page.url]

        verdict, silence, _, is_more, url = self.browse(read)
        self.assertEqual(verdict, "You dragged in every silence.")
        self.assertEqual(silence, "2")
        self.assertTrue(is_more)
        self.assertIn("grid=4", url)  # rushing: the same, in sixteenths
        self.assertEqual(self.faults, [])

    def test_the_large_view_stands_in_one_view(self) -> None:
        """Whoever stands two metres away doesn't scroll: at three widths, and with a tablet lying."""
        take = play(self.client, player=Hand(bias_percent=-3.0), seed=7)

        def over() -> list[int]:
            found = []
            for width, height in [*WIDTHS.items(), (1180, 820)]:
                self.page.set_viewport_size({"width": width, "height": height})
                self.page.goto(self.url(f"{take.get_absolute_url()}?view=standing"))
                found.append(self.page.evaluate("document.documentElement.scrollHeight - innerHeight"))
            return found

        self.assertEqual(self.browse(over), [0, 0, 0, 0])

    def test_each_note_has_one_picture_at_each_width(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-3.0), seed=7)
        seen = "[...document.querySelectorAll('.notes-picture svg')].filter((one) => one.checkVisibility()).length"

        def pictures() -> list[int]:
            found = []
            for width, height in WIDTHS.items():
                self.page.set_viewport_size({"width": width, "height": height})
                self.page.goto(self.url(f"{take.get_absolute_url()}?view=notes"))
                found.append(self.page.evaluate(seen))
            return found

        self.assertEqual(self.browse(pictures), [1, 1, 1])

    def test_a_printed_reading_is_two_pages(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-2.0))

        def paper() -> tuple[bytes, list[str]]:
            self.page.goto(self.url(take.get_absolute_url()))
            pages = self.page.pdf(prefer_css_page_size=True)
            self.page.emulate_media(media="print")
            buttons = self.page.evaluate(
                "[...document.querySelectorAll('button:not(.define), input, textarea, .key')]"
                ".filter((one) => one.checkVisibility()).map((one) => one.outerHTML)"
            )
            return pages, buttons

        pages, buttons = self.browse(paper)
        self.assertIn(pages.count(b"/Type /Page\n"), (1, 2))
        self.assertEqual(buttons, [])
