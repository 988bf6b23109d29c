"""Passages of MusicXML, each worked by hand from what the bars say."""

from __future__ import annotations

import io
import zipfile
from typing import Any
from unittest import TestCase

from giusto.drill import Drill
from giusto.drill.passage import chosen_bars, passage_drill, read_score, read_score_apart
from giusto.errors import GiustoError
from tests.giusto.drill.passage.scores import bar, compressed, kit, musicxml


def made(*bars: str, asked: str | None = None, hand: str = "") -> Drill:
    """Return the drill of a score of these bars."""
    score = read_score(musicxml(*bars))
    some = chosen_bars(score.part(None).hands[hand], asked)
    return passage_drill(some, quarters_a_minute=score.quarters_a_minute, name="A passage")


def turns(drill: Drill) -> list[tuple[int, list[str]]]:
    """Return what is played, cycle by cycle."""
    play: Any = drill.part.play
    return [(turn.cycles, list(turn.at)) for turn in play]


class MusicXmlTests(TestCase):
    def test_bars_become_cycles_with_tempo_and_note_value(self) -> None:
        drill = made(bar("q q e e q", number=1, metre="4/4", tempo=84), bar("h re e q", number=2))
        self.assertEqual((drill.tempo.bpm, drill.tempo.beat, drill.cycle.beats), (84, "1/4", 4))
        self.assertEqual((drill.part.grid, drill.cycles), (2, 2))
        self.assertEqual(turns(drill), [(1, ["1", "2", "3", "3+1/2", "4"]), (1, ["1", "3+1/2", "4"])])

    def test_ties_are_one_onset_and_chords_are_one_and_grace_notes_are_left_out(self) -> None:
        score = read_score(musicxml(bar("q +q grace q h~", number=1, metre="4/4"), bar("_q q q q", number=2)))
        bars = score.part(None).hands[""]
        drill = passage_drill(bars, quarters_a_minute=None, name="")
        self.assertEqual(turns(drill), [(1, ["1", "2", "3"]), (1, ["2", "3", "4"])])
        self.assertEqual(sum(one.grace for one in bars), 1)
        self.assertEqual(drill.tempo.bpm, 60)

    def test_tuplets(self) -> None:
        drill = made(bar("t t t e e h", number=1, metre="4/4"))
        self.assertEqual((drill.part.grid, drill.part.play), (6, ("1", "1+1/3", "1+2/3", "2", "2+1/2", "3")))

    def test_where_the_slots_are_too_many_a_smaller_beat_is_counted(self) -> None:
        """Triplets and sixteenths of a quarter are twelve slots; of an eighth, triplets of two and twos are six."""
        drill = made(bar("t t t s s s s h", number=1, metre="4/4", tempo=60))
        self.assertEqual((drill.tempo.bpm, drill.tempo.beat, drill.cycle.beats, drill.part.grid), (120, "1/8", 8, 6))
        self.assertEqual(list(drill.clicks.on), ["1", "3", "5", "7"])
        self.assertEqual(list(drill.part.play)[:4], ["1", "1+2/3", "2+1/3", "3"])

    def test_a_pick_up_is_the_end_of_a_bar(self) -> None:
        bars = (bar("q", number=0, metre="4/4"), bar("h h", number=1), bar("w", number=2))
        self.assertEqual(turns(made(*bars)), [(1, ["4"]), (1, ["1", "3"]), (1, ["1"])])
        self.assertEqual(turns(made(*bars, asked="1-2")), [(1, ["1", "3"]), (1, ["1"])])

    def test_repeats_and_endings_are_played(self) -> None:
        bars = (
            bar("h h", number=1, metre="4/4", repeat="<"),
            bar("w", number=2, repeat=">", ending=1),
            bar("q q q q", number=3, ending=2),
        )
        first, ended, second = (1, ["1", "3"]), (1, ["1"]), (1, ["1", "2", "3", "4"])
        self.assertEqual(turns(made(*bars)), [first, ended, first, second])
        self.assertEqual(turns(made(*bars, asked="1-2")), [first, ended, first])
        self.assertEqual(made(*bars, asked="3").cycles, 1)

    def test_a_repeat_around_the_passage_is_not_played(self) -> None:
        bars = (bar("h h", number=1, metre="4/4", repeat="<"), bar("w", number=2), bar("q rq h", number=3, repeat=">"))
        self.assertEqual(turns(made(*bars, asked="1-2")), [(1, ["1", "3"]), (1, ["1"])])
        self.assertEqual(made(*bars).cycles, 6)

    def test_compound_metres_count_in_dotted_beats(self) -> None:
        drill = made(bar("q e q e", number=1, metre="6/8", tempo=90), bar("e e e q.", number=2))
        self.assertEqual((drill.tempo.beat, drill.tempo.bpm, drill.cycle.beats, drill.part.grid), ("3/8", 60, 2, 3))
        self.assertEqual(turns(drill), [(1, ["1", "1+2/3", "2", "2+2/3"]), (1, ["1", "1+1/3", "1+2/3", "2"])])

    def test_changes_of_metre_and_empty_bars_make_one_cycle(self) -> None:
        drill = made(bar("q q q", number=1, metre="3/4"), bar("h h", number=2, metre="4/4"), bar("rw", number=3))
        self.assertEqual((drill.cycle.beats, drill.cycle.grouping, drill.cycles), (11, (3, 4, 4), 1))
        self.assertEqual(list(drill.part.play), ["1", "2", "3", "4", "6"])

    def test_hands_by_their_staff(self) -> None:
        bars = (bar("q q h", number=1, metre="4/4", lower="h h"),)
        self.assertEqual(list(made(*bars, hand="upper").part.play), ["1", "2", "3"])
        self.assertEqual(list(made(*bars, hand="lower").part.play), ["1", "3"])
        self.assertEqual(list(made(*bars).part.play), ["1", "2", "3"])

    def test_compressed_it_is_the_same(self) -> None:
        score = musicxml(bar("q q h", number=1, metre="4/4"))
        self.assertEqual(read_score(compressed(score)), read_score(score))


class RefusalTests(TestCase):
    def assert_refused(self, said: str, *bars: str, asked: str | None = None) -> None:
        with self.assertRaisesRegex(GiustoError, said):
            made(*bars, asked=asked)

    def test_each_names_the_bar(self) -> None:
        four = bar("q q q q", number=1, metre="4/4")
        self.assert_refused("bar 2 counts in 3/8 and not in 1/4", four, bar("q. q.", number=2, metre="6/8"))
        self.assert_refused("bar 9 is not there, allowed are 1 to 1", four, asked="1-9")
        for asked in ("2-1", "x", "", "1-"):
            self.assert_refused("allowed is such as 5-8", four, asked=asked)
        self.assert_refused("no note that begins", bar("rw", number=1, metre="4/4"))
        many = [bar("h h", number=n, metre="4/4" if n == 1 else "") for n in range(1, 17)]
        self.assert_refused("bar 17 changes the metre or has no note", *many, bar("rw", number=17))
        self.assert_refused("bar 2 lasts 3 beats|bar 2", four, bar("q q e", number=2), bar("q q q q", number=3))
        with self.assertRaisesRegex(GiustoError, r'the part is not given, allowed is one of 1 "Drum", 2 "Marimba"'):
            read_score(musicxml(four, parts=("Drum", "Marimba"))).part(None)
        self.assertEqual(read_score(musicxml(four, parts=("Drum", "Marimba"))).part("2").name, "Marimba")

    def test_parts_of_one_player_are_one_together(self) -> None:
        """Hat and kick, by hand: what begins in either begins in both; chords are one."""
        hat = (bar("e e e e e e e e", number=1, metre="4/4"), bar("q q q q", number=2))
        kick = (bar("q. e q q", number=1, metre="4/4"), bar("h e e q", number=2))
        score = read_score(kit(hat=hat, kick=kick))
        for asked in ("1+2", "Hat + Kick", "Kick+Hat", "2 + Hat"):
            both = score.part(asked).hands[""]
            self.assertEqual([str(at) for at in both[0].onsets], ["0", "1/2", "1", "3/2", "2", "5/2", "3", "7/2"])
            self.assertEqual([str(at) for at in both[1].onsets], ["0", "1", "2", "5/2", "3"])
        self.assertEqual(score.part("1+2").name, "Hat + Kick")
        for wrong in ("1+3", "1+", "+", "Hat & Kick"):
            with self.assertRaisesRegex(GiustoError, r"or some of them with \+ between"):
                score.part(wrong)
        other = read_score(kit(hat=hat, kick=kick[:1]))
        with self.assertRaisesRegex(GiustoError, 'the parts "Hat [+] Kick" have other bars'):
            other.part("1+2")

    def test_what_is_no_score(self) -> None:
        body = b"<!DOCTYPE a [%s]><score-partwise>&b;</score-partwise>"
        bomb, outside = (body % entity for entity in (b"<!ENTITY b 'bb'>", b"<!ENTITY b SYSTEM 'file:///etc/passwd'>"))
        for content, said in (
            (b"", "neither MusicXML"),
            (b"hello", "neither MusicXML"),
            (b"<html/>", "allowed is a score-partwise, found html"),
            (b"<score-partwise>", "no MusicXML that can be read"),
            (b"<score-partwise/>", "score"),
            (bomb, "no MusicXML that can be read"),
            (outside, "no MusicXML that can be read"),
            (b"PK\x03\x04nothing", "can't be unpacked"),
            (compressed(b"", path="other.xml"), 'has no "other.xml" in it'),
            (b"MThd", "MIDI"),
            (b"MThd\x00\x00\x00\x06\x00\x01\x00\x01\x01\xe0MTrk", "MIDI"),
        ):
            with self.subTest(content[:40]), self.assertRaisesRegex(GiustoError, said):
                read_score(content)


class HostileTests(TestCase):
    """Small files that once hung the site: each is refused in a line, at once."""

    def refused(self, score: bytes, said: str) -> None:
        with self.assertRaisesRegex(GiustoError, said):
            read_score(score)

    def test_a_note_that_lasts_for_ever(self) -> None:
        long = "<note><pitch><step>C</step><octave>5</octave></pitch><duration>1000000000000000</duration></note>"
        score = musicxml(bar("q q q q", number=1, metre="4/4")).replace(b"<note>", long.encode() + b"<note>", 1)
        self.refused(score, "bar 1 has .* beats, allowed are more than 0 up to 64")

    def test_metres_and_divisions_beyond_sense(self) -> None:
        for old, new in (
            (b"<beats>4</beats>", b"<beats>999999999</beats>"),
            (b"<divisions>12</divisions>", b"<divisions>-1</divisions>"),
            (b"<divisions>12</divisions>", b"<divisions>999999999999</divisions>"),
            (b"<divisions>12</divisions>", b"<divisions>0</divisions>"),
        ):
            with self.subTest(new):
                score = musicxml(bar("q q q q", number=1, metre="4/4")).replace(old, new)
                try:
                    part = read_score(score).part(None)
                except GiustoError:
                    continue
                self.assertTrue(all(0 < one.beats <= 64 for one in part.hands[""]))

    def test_repeats_without_end(self) -> None:
        many = [bar("q q q q", number=n, metre="4/4" if n == 1 else "", repeat="<>") for n in range(1, 121)]
        self.refused(musicxml(*many), "240 repeat signs, allowed are 100")
        often = musicxml(bar("q q q q", number=1, metre="4/4", repeat="<>"))
        for times in (b"1000", b"-1", b"x"):
            self.refused(
                often.replace(b"direction='backward'", b"direction='backward' times='" + times + b"'"),
                "allowed are 1 to 16 times",
            )

    def test_very_many_notes(self) -> None:
        bars = [bar("s s s s " * 4, number=n, metre="4/4" if n == 1 else "") for n in range(1, 3800)]
        self.refused(musicxml(*bars), "60,784 notes and rests, allowed are 60,000")

    def test_a_container_in_no_encoding(self) -> None:
        for name in ("utf-7", "x-foo", "utf-99"):
            buffer = io.BytesIO()
            with zipfile.ZipFile(buffer, "w") as bundle:
                bundle.writestr("META-INF/container.xml", f"<?xml version='1.0' encoding='{name}'?><container/>")
                bundle.writestr("score.xml", musicxml(bar("w", number=1, metre="4/4")))
            self.refused(buffer.getvalue(), "container can't be read|has no")

    def test_apart_it_is_the_same(self) -> None:
        score = musicxml(bar("q q e e q", number=1, metre="4/4", tempo=84))
        self.assertEqual(read_score_apart(score), read_score(score))
        with self.assertRaisesRegex(GiustoError, "neither MusicXML"):
            read_score_apart(b"no score")
