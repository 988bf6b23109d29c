"""Every finding, step and verdict has its words and its heading: one without them can't reach a player."""

from __future__ import annotations

from pathlib import Path
from typing import get_args

from django.template.loader import get_template
from django.test import SimpleTestCase

from giusto.practice.advice import Change
from giusto.practice.finding import Judged, Played

TEMPLATES = Path(__file__).parents[3] / "src/studio/readings/templates/readings"
CODES = (*get_args(Judged), *get_args(Played))


def names(folder: str) -> set[str]:
    """Return the templates of a folder, without those that others include."""
    return {path.stem for path in (TEMPLATES / folder).glob("*.html") if not path.stem.startswith("_")}


class WordsTests(SimpleTestCase):
    def test_each_finding_has_its_words_and_no_words_are_left_over(self) -> None:
        self.assertEqual(names("findings"), set(CODES))
        for code in CODES:
            get_template(f"readings/findings/{code}.html")

    def test_each_step_has_its_words(self) -> None:
        self.assertEqual(names("steps"), {change or "again" for change in get_args(Change)})
        for step in names("steps"):
            get_template(f"readings/steps/{step}.html")
