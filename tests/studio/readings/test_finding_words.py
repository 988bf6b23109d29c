"""Every finding, step and verdict has its words and its heading: one without them can't reach a player."""

from __future__ import annotations

from pathlib import Path
from types import SimpleNamespace
from typing import get_args

from django.template.loader import get_template, render_to_string
from django.test import SimpleTestCase

from giusto.practice.advice import Change, Way
from giusto.practice.finding import Judged, Played

TEMPLATES = Path(__file__).parents[3] / "src/studio/readings/templates/readings"
CODES = (*get_args(Judged), *get_args(Played))
USUAL = "The same again"  # the heading of a finding that changes nothing, which these may have
MAY_BE_USUAL = {"slip", "follows", "place"}


def names(folder: str) -> set[str]:
    """Return the templates of a folder, without those that others include."""
    return {path.stem for path in (TEMPLATES / folder).glob("*.html") if not path.stem.startswith("_")}


def heading(code: str, change: str = "", way: str = "again") -> str:
    """Return the heading of advice whose first finding and step are these."""
    step = SimpleNamespace(change=change, way=way)
    following = SimpleNamespace(first=SimpleNamespace(finding=SimpleNamespace(code=code)), proposed=step)
    return render_to_string("readings/_heading.html", {"next": following}).strip()


class WordsTests(SimpleTestCase):
    def test_each_finding_has_its_words_and_no_words_are_left_over(self) -> None:
        self.assertEqual(names("findings"), set(CODES))
        for code in CODES:
            get_template(f"readings/findings/{code}.html")

    def test_each_step_has_its_words(self) -> None:
        self.assertEqual(names("steps"), {change or "again" for change in get_args(Change)})
        for step in names("steps"):
            get_template(f"readings/steps/{step}.html")

    def test_each_finding_has_a_heading_of_its_own(self) -> None:
        self.assertEqual({code for code in CODES if heading(code) == USUAL}, MAY_BE_USUAL)

    def test_each_way_and_change_has_a_heading(self) -> None:
        for change in get_args(Change):
            for way in get_args(Way):
                with self.subTest(change=change, way=way):
                    self.assertTrue(heading("held", change, way))
