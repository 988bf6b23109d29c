"""Notation: bars engraved by verovio, plain SVG, each note found by its bar and place."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from unittest import TestCase
from xml.etree import ElementTree

from giusto.drill.passage.engraving import NAMES, TAGS, engrave, engrave_apart
from giusto.errors import GiustoError
from tests.giusto.drill.passage.scores import bar, kit, musicxml

SCORE = Path(__file__).parents[4] / "src/studio/demo/lanterns_for_odo.musicxml"
FOUR = musicxml(
    bar("q q q q", number=1, metre="4/4", tempo=90), bar("e e q q q", number=2), *(bar("h h", number=n) for n in (3, 4))
)


class EngravingTests(TestCase):
    def test_notes_are_found_where_they_are_written(self) -> None:
        """The places by hand: bar 2 of the score has eighths on 1 and 1+1/2, then quarters."""
        found = engrave(FOUR, "", 2, 3)
        places = [(number, Fraction(at)) for number, at, _ in found.notes]
        asked = [(2, Fraction(n)) for n in (0, Fraction(1, 2), 1, 2, 3)] + [(3, Fraction(n)) for n in (0, 2)]
        self.assertEqual(places, asked)
        for _, _, ids in found.notes:
            for one in ids:
                self.assertIn(f'id="{one}"', found.svg)

    def test_music21_finds_notes_at_the_same_places(self) -> None:
        """Against music21, which reads the same score by itself."""
        from music21 import converter

        score = converter.parse(SCORE.read_bytes(), format="musicxml")
        asked = {
            (measure.number, Fraction(note.offset))
            for part in score.parts
            for measure in part.getElementsByClass("Measure")
            for note in measure.recurse().notes
            if 9 <= measure.number <= 12 and note.tie is None
        }
        found = {(number, Fraction(at)) for number, at, _ in engrave(SCORE.read_bytes(), "Marimba", 9, 12).notes}
        self.assertLessEqual(asked, found)

    def test_short_notes_of_a_beat_are_beamed_where_the_file_has_no_beams(self) -> None:
        """By hand: the two eighths on 1 of bar 2 stand under one beam; a file's own beams stay as they are."""
        self.assertEqual(engrave(FOUR, "", 2, 2).svg.count('class="beam"'), 1)
        self.assertEqual(engrave(FOUR, "", 3, 4).svg.count('class="beam"'), 0)
        own = FOUR.replace(b"</note>", b'<beam number="1">begin</beam></note>', 1)
        self.assertEqual(engrave(own, "", 2, 2).svg.count('class="beam"'), 0)

    def test_parts_that_are_one_are_drawn_one_above_the_other(self) -> None:
        hat, kick = (bar("e e e e e e e e", number=1, metre="4/4"),), (bar("q. e q q", number=1, metre="4/4"),)
        both = engrave(kit(hat=hat, kick=kick), "Hat + Kick", 1, 1)
        self.assertEqual(both.svg.count('class="staff"'), 2)
        ids = {Fraction(at): some for _, at, some in both.notes}
        self.assertEqual([len(ids[Fraction(n, 2)]) for n in range(8)], [2, 1, 1, 2, 2, 1, 2, 1])
        self.assertEqual(engrave(kit(hat=hat, kick=kick), "Kick", 1, 1).svg.count('class="staff"'), 1)

    def test_the_tempo_is_left_to_the_page(self) -> None:
        self.assertNotIn('class="tempo"', engrave(SCORE.read_bytes(), "Marimba", 1, 4).svg)

    def test_nothing_but_shapes_and_words(self) -> None:
        for svg in (engrave(FOUR, "", 1, 4).svg, engrave(FOUR, "", 1, 4).narrow):
            for element in ElementTree.fromstring(svg).iter():
                self.assertIn(element.tag.rpartition("}")[2], TAGS)
                self.assertLessEqual(set(element.attrib), NAMES)
                self.assertTrue(element.get("href", "#").startswith("#"))
            self.assertNotIn("style", svg)

    def test_words_of_a_score_stay_words(self) -> None:
        mean = FOUR.replace(b"<score-partwise", b"<!-- <script>x</script> --><score-partwise", 1)
        self.assertNotIn("<script", engrave(mean, "<script>alert(1)</script>", 1, 2).svg)

    def test_what_cannot_be_drawn_says_why(self) -> None:
        for content, first, last, said in (
            (b"MThd\0\0\0\6", 1, 2, "no notation"),
            (FOUR, 7, 9, "can't be drawn"),
            (FOUR, 3, 1, "can't be drawn"),
            (b"<html/>", 1, 2, "no MusicXML"),
        ):
            with self.assertRaisesRegex(GiustoError, said):
                engrave(content, "", first, last)

    def test_apart_it_is_the_same(self) -> None:
        self.assertEqual(len(engrave_apart(FOUR, "", 1, 2).notes), len(engrave(FOUR, "", 1, 2).notes))
