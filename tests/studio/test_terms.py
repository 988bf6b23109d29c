"""Terms that pages underline: each means something, is measured somewhere, and opens once."""

import re
from pathlib import Path

from django.template import engines
from django.test import RequestFactory, TestCase

from studio.method.views import _text
from studio.terms import IN_SENTENCES, TERMS

SITE = Path(__file__).parents[2] / "src/studio"


def rendered(text: str) -> str:
    request = RequestFactory().get("/")
    template = engines["django"].from_string("{% load terms %}" + text)
    return str(template.render({"said": "a <b>, give or take 5"}, request))


class TermsTests(TestCase):
    def test_each_leads_to_a_heading_of_the_method_page(self) -> None:
        headings = set(re.findall(r'<h\d id="([a-z-]+)"', _text()))
        self.assertLessEqual({one.anchor for one in TERMS.values()}, headings)

    def test_each_is_two_lines(self) -> None:
        for name, one in TERMS.items():
            with self.subTest(name):
                self.assertLess(len(one.text), 180)
                self.assertTrue(one.text.endswith("."))

    def test_all_that_templates_ask_for_are_there(self) -> None:
        asked = {
            name
            for path in SITE.rglob("*.html")
            for name in re.findall(r'{% term "([^"]+)"', path.read_text(encoding="utf-8"))
        }
        self.assertGreater(len(asked), 2)
        self.assertLessEqual(asked, set(TERMS))

    def test_a_term_opens_once_on_a_page_and_is_plain_after_that(self) -> None:
        text = rendered('{% term "held" %} {% term "held" "holding" %}')
        self.assertEqual(text.count("popovertarget"), 1)
        self.assertIn("</span> holding", re.sub(r"\s+", " ", text))

    def test_a_sentence_keeps_what_it_says_and_stays_escaped(self) -> None:
        text = rendered("{% with_terms said %}")
        self.assertTrue(text.startswith("a &lt;b&gt;, <button"))
        self.assertIn('popovertarget="term-give-or-take"', text)
        self.assertTrue(text.rstrip().endswith("5"))
        self.assertLessEqual(set(IN_SENTENCES), set(TERMS))
