"""Set the click: the sentence, its sheet, the click as sound and as files."""

import json
import re

import numpy as np
from django.test import TestCase
from django.urls import reverse

from giusto.click.voice import click_samples
from studio.drills.sentence.places import CLICK_WORDS
from studio.drills.shelf import shelf


class SetTheClickTests(TestCase):
    def test_a_drill_that_is_not_there_is_said_once(self) -> None:
        said = "There is no drill “quarters-999” here"
        self.assertContains(self.client.get("/set/?drill=quarters-999"), said)
        self.assertNotContains(self.client.get("/set/?drill=quarters-100"), "There is no drill")
        self.assertNotContains(self.client.get("/set/"), "There is no drill")

    def test_every_built_in_drill_can_be_shown_and_played(self) -> None:
        self.assertEqual(len(shelf()), 79)
        for slug, built_in in shelf().items():
            with self.subTest(slug):
                page = self.client.get(reverse("drills:set"), {"drill": slug})
                self.assertContains(page, built_in.name)
                self.assertEqual(self.client.get(reverse("takes:play"), {"drill": slug}).status_code, 200)

    def test_words_change_the_sheet(self) -> None:
        words = {"drill": "two-heard-two-silent", "bpm": "80", "grid": "4", "cycles": "8"}
        page = self.client.get(reverse("drills:set"), words)
        self.assertContains(page, "2 silences of 6.8 s.")
        self.assertContains(page, "144 sixteenths to play")

    def test_every_word_of_the_sentence(self) -> None:
        words = {"drill": "every-beat", "beats": "5", "on": "offbeats", "drop": "fixed", "heard": "1", "silent": "2"}
        page = self.client.get(reverse("takes:play"), {**words, "cycles": "6"})
        found = re.search(r'<script id="plan" type="application/json">(.*?)</script>', page.content.decode(), re.DOTALL)
        assert found
        drill = json.loads(found[1])["drill"]
        self.assertEqual(drill["cycle"]["beats"], 5)
        self.assertEqual(drill["clicks"]["on"], ["1+1/2", "2+1/2", "3+1/2", "4+1/2", "5+1/2"])
        self.assertEqual(drill["clicks"]["silence"], {"kind": "fixed", "heard": 1, "silent": 2})
        self.assertEqual(drill["name"], "The offbeats, 1 bar with it and 2 alone")

    def test_a_built_in_drill_keeps_its_name_at_another_tempo(self) -> None:
        page = self.client.get(reverse("takes:play"), {"drill": "two-and-four", "bpm": "70", "grid": "4"})
        self.assertContains(page, "Two and four")

    def test_every_word_has_a_name_for_screen_readers(self) -> None:
        text = self.client.get(reverse("drills:set")).content.decode()
        for tag in re.findall(r"<(?:input|select)[^>]*>", text):
            self.assertTrue('type="hidden"' in tag or "aria-label=" in tag or 'id="id_keep_' in tag, tag)

    def test_each_place_of_the_click_can_be_said(self) -> None:
        for word in CLICK_WORDS:
            page = self.client.get(reverse("drills:set"), {"on": word, "places": "1, 2+1/3"})
            self.assertEqual(page.status_code, 200, word)

    def test_htmx_gets_only_the_part_that_changes(self) -> None:
        fragment = self.client.get(reverse("drills:set"), {"cycles": "4"}, headers={"HX-Request": "true"})
        self.assertNotContains(fragment, "<html")
        self.assertContains(fragment, "1 silence of 5.6 s.")

    def test_bad_words_are_refused_in_place(self) -> None:
        for words, message in (
            ({"bpm": "5"}, "10 at least, please."),
            ({"bpm": "fast"}, "A number, please."),
            ({"bpm": "NaN"}, "A number, please."),
            ({"cycles": "0"}, "1 at least, please."),
            ({"cycles": "2001"}, "2000 at most, please."),
            ({"grid": "9"}, "valid choice"),
            ({"by": "nobody"}, "valid choice"),
            ({"beats": "65"}, "64 at most, please."),
            (
                {"beats": "3", "on": "two-four"},
                "&quot;4&quot;, allowed are places in a bar of 3 beats",
            ),
            ({"silent": "0"}, "1 at least, please."),
        ):
            with self.subTest(words):
                page = self.client.get(reverse("drills:set"), words)
                self.assertContains(page, message, status_code=422)
                answer = self.client.get(reverse("takes:play"), words)
                self.assertRedirects(
                    answer,
                    f"{reverse('drills:set')}?{'&'.join(f'{k}={v}' for k, v in words.items())}",
                    fetch_redirect_response=False,
                )


class ClickTests(TestCase):
    def test_the_browser_gets_the_cores_own_sounds(self) -> None:
        for kind in ("accent", "click", "count", "sub"):
            answer = self.client.get(f"/set/sounds/wood/{kind}/48000/")
            sound = np.frombuffer(answer.content, dtype="<f4")
            self.assertTrue(np.array_equal(sound, click_samples("wood", kind, rate_hz=48_000)))
        for path in ("bell/click/48000", "wood/boom/48000", "wood/click/8000"):
            self.assertEqual(self.client.get(f"/set/sounds/{path}/").status_code, 404)

    def test_the_click_as_a_file(self) -> None:
        words = {"drill": "two-and-four", "bpm": "120", "cycles": "4"}
        for form, start in (("wav", b"RIFF"), ("flac", b"fLaC"), ("mid", b"MThd")):
            answer = self.client.get(f"/set/click.{form}", words)
            self.assertIn(f'filename="two-and-four.{form}"', answer["Content-Disposition"])
            self.assertEqual(b"".join(answer.streaming_content)[:4], start)  # type: ignore[attr-defined]

    def test_what_cannot_be_sent(self) -> None:
        self.assertEqual(self.client.get("/set/click.mp3").status_code, 404)
        self.assertEqual(self.client.get("/set/click.wav", {"bpm": "5"}).status_code, 302)
        long = self.client.get("/set/click.wav", {"bpm": "20", "cycles": "2000"})
        self.assertContains(long, "./giusto render writes it", status_code=422)


class RefusedWordsTests(TestCase):
    def test_two_faults_of_one_word_are_told_and_no_failure(self) -> None:
        """Two and four in a cycle of one beat: both places are refused, the second when its word is refused already."""
        page = self.client.get("/set/?drill=two-and-four&beats=1")
        self.assertEqual(page.status_code, 422)
        self.assertContains(page, "allowed are places in a bar of 1 beats", status_code=422)
