"""What all pages share: nothing from elsewhere, nobody from elsewhere, no tracebacks, small."""

import gzip
import re
from unittest import mock

from django.test import TestCase
from django.urls import reverse

from studio.limits import LIMITS
from tests.studio.playing import play


class SafetyTests(TestCase):
    def test_nothing_may_be_fetched_from_elsewhere(self) -> None:
        page = self.client.get(reverse("drills:set"))
        policy = page["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertNotIn("http", policy)
        self.assertEqual(page["Cross-Origin-Embedder-Policy"], "require-corp")
        self.assertEqual(page["Cross-Origin-Opener-Policy"], "same-origin")
        text = page.content.decode()
        self.assertEqual(re.findall(r'(?:src|href)="(?:https?:)?//', text), [])
        self.assertEqual(re.findall(r"<script(?![^>]*src=)(?![^>]*json)|<style| style=| on\w+=\"", text), [])

    def test_other_machines_are_refused(self) -> None:
        for address in ("192.0.2.7", ""):
            answer = self.client.get(reverse("drills:set"), REMOTE_ADDR=address)
            self.assertContains(answer, "Not from here.", status_code=403)
        self.assertEqual(self.client.get(reverse("drills:set"), REMOTE_ADDR="::1").status_code, 200)
        self.assertEqual(self.client.get(reverse("drills:set"), headers={"Host": "evil.example"}).status_code, 400)

    def test_errors_have_pages_without_tracebacks(self) -> None:
        missing = self.client.get("/nowhere/")
        self.assertContains(missing, "Nothing hangs here.", status_code=404)
        self.client.raise_request_exception = False
        take = play(self.client)
        with mock.patch("studio.readings.views.history", side_effect=RuntimeError):
            broken = self.client.get(take.get_absolute_url())
        self.assertContains(broken, "That went wrong.", status_code=500)
        self.assertNotContains(broken, "Traceback", status_code=500)

    def test_alive(self) -> None:
        self.assertEqual(self.client.get("/alive/").json(), {"alive": True, "ended": LIMITS.ended, "of": ""})

    def test_first_view_is_small(self) -> None:
        """The bar: 250 kB with fonts, own script 40 kB; the page as it is sent, all else unpacked."""
        from django.contrib.staticfiles import finders

        def size(*names: str) -> int:
            return sum(len(open(finders.find(name), "rb").read()) for name in names)

        def script(*names: str) -> int:
            return sum(len(gzip.compress(open(finders.find(f"js/{n}.js"), "rb").read())) for n in names)

        common = ("main", "outbox", "ledger", "store")
        own = script(*common, "set", "sound")
        self.assertLess(script(*common, "play", "playing", "page", "capture", "clocks", "sound"), 40_000)
        fonts = size(
            *(
                f"fonts/{n}.woff2"
                for n in (
                    "brygada-1918-latin-wght-normal",
                    "brygada-1918-latin-wght-italic",
                    "source-sans-3-latin-wght-normal",
                )
            )
        )
        page = len(self.client.get(reverse("drills:set"), headers={"Accept-Encoding": "gzip"}).content)
        htmx = size("django_htmx/htmx-2.min.js")
        self.assertLess(own, 40_000)
        self.assertLess(page + fonts + own + htmx + size("giusto.css"), 250_000)
