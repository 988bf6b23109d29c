"""What a first view weighs on the wire, the page with its styles, fonts and scripts; and what serves it, in memory."""

from __future__ import annotations

import gzip
import re
import subprocess
import sys
from pathlib import Path

from django.contrib.staticfiles import finders
from django.test import SimpleTestCase, TestCase

from studio.accounts.models import local_player
from studio.hearing.models import Ear
from tests.studio.playing import play

MOST, MOST_HTML = 250_000, 120_000  # bytes: by the design, the one as it is sent, the other as it is
LINKED = re.compile(r'(?:src|href)="/static/([^"?]+)"')
PACKED = re.compile(r'data-(?:recorder|packer|flac|flac-code)="/static/([^"]+)"')
IMPORTED = re.compile(r'(?:from|import) "\./([a-z_]+\.js)"')
FONT = re.compile(r'url\(["\']?[^)"\']*?(fonts/[^)"\']+\.woff2)')


def sent(content: bytes, name: str) -> int:
    """Return how many bytes a file has as it is sent: fonts are packed already."""
    return len(content) if name.endswith((".woff2", ".png")) else len(gzip.compress(content, 9))


def needed(names: set[str]) -> set[str]:
    """Return files with all that they ask for in turn."""
    found, waiting = set(), list(names)
    while waiting:
        name = waiting.pop()
        if name in found or (path := finders.find(name)) is None:
            continue
        found.add(name)
        if name.endswith((".js", ".css")):
            text = Path(path).read_text(encoding="utf-8")
            waiting += [f"js/{one}" for one in IMPORTED.findall(text)] if name.startswith("js/") else []
            waiting += FONT.findall(text)
    return found


class LoadedTests(SimpleTestCase):
    def test_what_serves_pages_loads_nothing_that_only_sound_needs(self) -> None:
        """A third of its memory and of its start else: each of these is loaded where it is called."""
        asked = "import sys, studio.wsgi; print([one for one in sys.argv[1:] if one in sys.modules])"
        heavy = ("scipy.signal", "scipy.stats", "scipy.optimize", "scipy.interpolate", "av", "music21")
        done = subprocess.run([sys.executable, "-c", asked, *heavy], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.strip(), "[]")


class WeightTests(TestCase):
    def weight(self, address: str, *, heard: bool = False) -> int:
        """Return what a first view of an address weighs; with what packs sound, where that is loaded at once."""
        page = self.client.get(address)
        html = page.content.decode()
        self.assertLessEqual(len(page.content), MOST_HTML, address)
        names = set(LINKED.findall(html)) | (set(PACKED.findall(html)) if heard else set())
        files = {name: Path(finders.find(name) or "").read_bytes() for name in needed(names)}
        self.assertIn("giusto.css", files)
        self.assertTrue(any(name.endswith(".woff2") for name in files), files.keys())
        return sent(page.content, "html") + sum(sent(content, name) for name, content in files.items())

    def test_each_main_view_is_under_the_bar(self) -> None:
        take = play(self.client)
        for address in ("/today/", "/set/", "/work/", "/log/", "/progress/", "/play/?drill=two-heard-two-silent"):
            with self.subTest(address):
                self.assertLess(self.weight(address), MOST)
        self.assertLess(self.weight(take.get_absolute_url()), MOST)

    def test_by_microphone_too(self) -> None:
        Ear.objects.update_or_create(player=local_player(), defaults={"by": "microphone"})
        plain = self.weight("/play/?drill=two-heard-two-silent")
        heard = self.weight("/play/?drill=two-heard-two-silent", heard=True)
        self.assertLess(plain, heard)
        self.assertLess(heard, MOST, (plain, heard))
