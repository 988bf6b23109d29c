"""A passage of a score, seen on the sheet before anything is kept."""

from __future__ import annotations

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from studio.drills.models import OwnDrill
from tests.giusto.drill.passage.scores import bar, musicxml
from tests.studio.scores import read_and_shown

BARS = (bar("grace q e e h", number=1, metre="4/4", lower="h h", tempo=72), bar("w", number=2, lower="h h"))


class ScoreTests(TestCase):
    def send(self, content: bytes, **words: str):  # type: ignore[no-untyped-def]
        file = SimpleUploadedFile("score.musicxml", content)
        return read_and_shown(self.client, self.client.post(reverse("drills:score"), {"file": file, **words}))

    def test_it_stands_in_the_sentence_and_nothing_is_kept(self) -> None:
        page = self.send(musicxml(*BARS), bars="1-2", hand="upper")
        self.assertContains(page, "Lanterns for Odo, bars 1-2, the upper hand")
        self.assertContains(page, "1 grace note left out")
        made = page.context["form"].made
        self.assertEqual((made.tempo.bpm, made.cycles), (72, 2))
        self.assertEqual([list(turn.at) for turn in made.part.play], [["1", "2", "2+1/2", "3"], ["1"]])
        self.assertEqual(OwnDrill.objects.count(), 0)

    def test_what_is_wrong_is_said(self) -> None:
        for content, words, said in (
            (b"hello", {}, "The score is neither MusicXML"),
            (musicxml(*BARS), {"bars": "9"}, "Bar 9 is not there"),
            (musicxml(*BARS), {"part": "x"}, "The part is"),
            (musicxml(bar("w", number=1, metre="4/4")), {"hand": "lower"}, "is on one staff"),
        ):
            with self.subTest(said):
                page = self.send(content, **words)
                self.assertContains(page, said)
                self.assertContains(page, f'href="{reverse("drills:score")}"')
        third = self.client.post(reverse("drills:score"), {"file": SimpleUploadedFile("a.xml", b"x"), "hand": "third"})
        self.assertContains(third, "Select a valid choice", status_code=422)
        empty = self.client.post(reverse("drills:score"), {"bars": "1"})
        self.assertContains(empty, "Choose a file first.", status_code=422)
        self.assertContains(self.client.get(reverse("drills:score")), "See it on the sheet")
