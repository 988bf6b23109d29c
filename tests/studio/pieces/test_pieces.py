"""A piece from its score to a passage that is secure at its goal, through the real pages; and what is refused."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from giusto.drill.passage import chosen_bars, passage_drill, read_score
from giusto.practice.rush import Lean
from studio.accounts.models import Player, local_player
from studio.exercises.models import Exercise
from studio.ladders.models import Ladder
from studio.pieces.models import Piece, Stretch
from studio.pieces.music import passage_of
from studio.pieces.notation import notation
from studio.pieces.standing import piece_standing
from studio.pieces.tasks import engrave
from tests.giusto.drill.passage.scores import bar, musicxml
from tests.studio.ladders.climbing import at, play_asked
from tests.studio.scores import read_and_shown

SCORE = Path(__file__).parents[3] / "src/studio/demo/lanterns_for_odo.musicxml"
SIX = datetime(2026, 11, 2, 17, tzinfo=UTC)
FOUR = musicxml(
    bar("q q q q", number=1, metre="4/4", tempo=90), bar("e e q q q", number=2), *(bar("h h", number=n) for n in (3, 4))
)


class PieceTests(TestCase):
    def look_at(self, content: bytes, **words: str) -> Any:
        file = SimpleUploadedFile("a score.musicxml", content)
        return read_and_shown(self.client, self.client.post("/pieces/new/", {"file": file, **words}))

    def keep(self, content: bytes = FOUR, **words: str) -> Piece:
        """Bring in a score, and keep it as a player would, with words changed."""
        page = self.look_at(content)
        form = page.context["form"]
        given = {name: form.initial[name] for name in ("name", "goal_bpm", "school", "click", "size", "chunks")}
        piece: Piece = page.context["piece"]
        answer = self.client.post(piece.get_absolute_url(), {**given, **words}, follow=True)
        self.assertEqual(answer.status_code, 200, answer.context and answer.context["form"].errors)
        piece.refresh_from_db()
        return piece

    def test_a_score_is_looked_at_before_it_is_kept(self) -> None:
        page = self.look_at(SCORE.read_bytes())
        self.assertContains(page, "Is this the piece?")
        self.assertEqual(self.client.get("/work/").context["work"].groups, [])
        piece = self.keep(SCORE.read_bytes())
        self.assertEqual(Piece.objects.count(), 1)  # the second look took the place of the first
        self.assertEqual((piece.goal_bpm, piece.last_bar, piece.has_hands), (104, 16, True))
        kinds = [piece.stretches.filter(kind=kind).count() for kind in ("chunk", "join", "larger", "whole")]
        self.assertEqual(kinds, [8, 7, 6, 1])
        out = self.client.get(f"{piece.get_absolute_url()}score/")
        self.assertEqual(out.content, SCORE.read_bytes())

    def test_i_know_this_piece_in_one_touch_and_back(self) -> None:
        piece = self.keep()
        first = piece.stretches.order_by("pk").first()
        assert first
        self.client.post(f"{piece.get_absolute_url()}{first.pk}/learned/", {"learned": "1"})
        self.assertContains(self.client.get(piece.get_absolute_url()), "I know it all")
        answer = self.client.post(f"{piece.get_absolute_url()}known/", follow=True)
        self.assertContains(answer, "You know all of it")
        self.assertFalse(piece.stretches.filter(learned_at=None).exists())
        self.assertNotContains(answer, "I know it all")
        self.assertIn("with the click", answer.context["next"].what)  # it may be played with a click at once
        undo = answer.context["just_known"]
        self.client.post(f"{piece.get_absolute_url()}known/", {"not": undo})
        learned = piece.stretches.exclude(learned_at=None)
        self.assertEqual([one.pk for one in learned], [first.pk])  # what was known before stays known

    def test_notation_is_engraved_behind_its_page_with_the_leans_on_its_notes(self) -> None:
        piece = self.keep(SCORE.read_bytes())
        stretch = piece.stretches.get(first_bar=9, last_bar=10, kind="chunk")
        page = self.client.get(stretch.get_absolute_url())
        self.assertContains(page, "being engraved")
        asked = {"headers": {"HX-Request": "true"}}
        self.assertEqual(self.client.get(stretch.get_absolute_url(), **asked).status_code, 204)  # and asks again
        engrave.func(stretch.pk)
        self.assertNotContains(self.client.get(stretch.get_absolute_url(), **asked), "<html")
        page = self.client.get(stretch.get_absolute_url())
        self.assertContains(page, '<div class="score narrow"')
        stretch.refresh_from_db()
        lean = Lean(bar=9, position="2", takes=3, times=9, gain_ms=-21.0, ci95_ms=(-30.0, -12.0), leans=True)
        marked = notation(piece, stretch, [lean])
        self.assertIn('class="note early"', marked)
        self.assertIn("bar 9, beat 2: 21\xa0ms early", marked)
        self.assertNotIn("note early", notation(piece, stretch, []))
        self.assertEqual(notation(piece, Stretch(piece=piece, engraved={}), [lean]), "")

    def test_what_can_not_be_engraved_is_not_tried_again(self) -> None:
        piece = self.keep()
        for score in (b"MThd no notation", None):  # or its file is not there any more
            with self.subTest(score):
                Piece.objects.filter(pk=piece.pk).update(score=score)
                piece.stretches.update(engraved=None)
                stretch = piece.stretches.first()
                assert stretch
                engrave.func(stretch.pk)
                self.assertNotContains(self.client.get(stretch.get_absolute_url()), "being engraved")

    def test_a_stretch_asks_for_the_notes_of_its_bars(self) -> None:
        """The same onsets as the passage command gives, as often as it is practised."""
        piece = self.keep(SCORE.read_bytes())
        score = read_score(SCORE.read_bytes())
        for stretch in piece.stretches.all():
            for hand, staff in (("", ""), ("left", "lower"), ("right", "upper")):
                bars = chosen_bars(score.parts[0].hands[staff], f"{stretch.first_bar}-{stretch.last_bar}")
                once = passage_drill(bars, quarters_a_minute=104, name="")
                passage = passage_of(piece, stretch, hand)
                rounds = passage.drill.cycles // once.cycles
                self.assertEqual((passage.drill.part, passage.drill.cycle), (once.part, once.cycle))
                self.assertGreaterEqual(rounds, 3)
                self.assertEqual(passage.rounds, rounds)

    def test_once_with_the_click_and_once_alone_ends_with_the_click(self) -> None:
        """Every time alone is landed on a click; a longer stretch goes through fewer times, never under three."""
        piece = self.keep(click="alternate")
        for stretch in piece.stretches.all():
            drill = passage_of(piece, stretch).drill
            heard = drill.clicks.silence.heard
            self.assertEqual(drill.clicks.silence.silent, heard)
            rounds, rest = divmod(drill.cycles, heard)
            self.assertEqual((rest, rounds % 2), (0, 1))
            self.assertGreaterEqual(rounds, 3)

    def test_from_the_score_to_a_passage_that_is_secure_at_its_goal(self) -> None:
        piece = self.keep(goal_bpm="84", found_bpm="100", school="after")
        moment = SIX
        first = piece.stretches.get(first_bar=1, last_bar=2)
        with at(moment):
            self.assertContains(self.client.get(piece.get_absolute_url()), "Learn the notes of bars 1–2")
            for stretch in piece.stretches.filter(kind="chunk"):
                self.client.post(f"{stretch.get_absolute_url()}learned/", {"learned": "1"})
            page = self.client.get(piece.get_absolute_url())
            self.assertContains(page, "Begin bars 1–2 with the click")
            ladder = self.client.post(f"{first.get_absolute_url()}climb/", follow=True).context["ladder"]
        self.assertEqual([ladder.core.values[0], ladder.core.values[-1]], [70, 84])  # 70 % of 100, and the goal
        takes = 0
        while not piece_standing(piece, moment).stretches[0].core.is_done:
            with at(moment):
                asked = self.client.get(ladder.get_absolute_url()).context["standing"].url
                play_asked(self.client, asked, clean=True, moment=moment)
            moment += timedelta(minutes=5)
            takes += 1
            self.assertLess(takes, 40)
        self.assertEqual(takes, 3 * len(ladder.core.values))
        with at(moment):
            page = self.client.get(piece.get_absolute_url())
            self.assertEqual(page.context["standing"].at_goal, 1)
            self.assertContains(page, "bars 3–4")

    def test_hands_apart_each_with_its_own_notes(self) -> None:
        piece = self.keep(SCORE.read_bytes(), by_hands="on", school="throughout")
        stretch = piece.stretches.get(first_bar=1, last_bar=2)
        self.client.post(f"{stretch.get_absolute_url()}climb/")
        parts = Ladder.objects.filter(exercise__whole__stretch=stretch)
        asked = {part.exercise.hand: part.core.drills[0].part.play for part in parts}
        self.assertEqual(asked["left"], ("1", "2", "3", "4"))  # both bars of the lower staff are quarters
        self.assertEqual(len({str(play) for play in asked.values()}), 2)  # the upper one has all that both have
        first = self.client.get(piece.get_absolute_url()).context["next"]
        self.assertIn(first.standing.climb.ladder.exercise.hand, ("left", "right"))

    def test_a_hand_that_rests_has_no_part_of_its_own(self) -> None:
        """Bars in which the left hand has nothing are asked of both hands as they are, and of no hand alone."""
        piece = self.keep(SCORE.read_bytes(), by_hands="on", school="throughout")
        lower = [dict(one) for one in piece.music["hands"]["lower"]]
        piece.music["hands"]["lower"] = [{**one, "onsets": []} for one in lower[:2]] + lower[2:]
        piece.save(update_fields=["music"])
        for first, parts in ((1, 0), (3, 3)):
            stretch = piece.stretches.get(first_bar=first, last_bar=first + 1)
            self.assertEqual(self.client.post(f"{stretch.get_absolute_url()}climb/", follow=True).status_code, 200)
            stretch.refresh_from_db()
            self.assertIsNotNone(stretch.exercise)
            self.assertEqual(Ladder.objects.filter(exercise__whole__stretch=stretch).count(), parts)

    def test_a_new_goal_moves_the_ladders_and_keeps_what_was_played(self) -> None:
        piece = self.keep(school="throughout", goal_bpm="84")
        stretch = piece.stretches.get(first_bar=1, last_bar=2)
        ladder = self.client.post(f"{stretch.get_absolute_url()}climb/", follow=True).context["ladder"]
        with at(SIX):
            url = self.client.get(ladder.get_absolute_url()).context["standing"].url
            play_asked(self.client, url, clean=True, moment=SIX)
        words = {"name": "X", "goal_bpm": "96", "school": "throughout", "click": "beats", "size": "0", "chunks": "1 3"}
        self.client.post(piece.get_absolute_url(), words)
        ladder.refresh_from_db()
        self.assertEqual(ladder.core.values[-1], 96)
        piece.refresh_from_db()
        self.assertEqual(piece_standing(piece, SIX).stretches[0].takes, 1)

    def test_chunks_that_change_keep_what_was_worked_on_as_a_spot(self) -> None:
        piece = self.keep()
        stretch = piece.stretches.get(first_bar=1, last_bar=2)
        self.client.post(f"{stretch.get_absolute_url()}learned/", {"learned": "1"})
        words = {"name": "X", "goal_bpm": "96", "school": "after", "click": "beats", "size": "0", "chunks": "1, 4"}
        self.client.post(piece.get_absolute_url(), words)
        stretch.refresh_from_db()
        self.assertEqual(stretch.kind, Stretch.Kind.SPOT)
        self.assertEqual([one.last_bar for one in piece.stretches.filter(kind="chunk")], [3, 4])

    def test_marks_and_spots(self) -> None:
        piece = self.keep()
        address = piece.get_absolute_url()
        self.client.post(f"{address}mark/", {"bar": "2", "beat": "3", "sort": "rush", "note": "every time"})
        page = self.client.get(address)
        self.assertContains(page, "Bar 2, beat 3: I rush, every time")
        circle = page.context["pictures"][0].circles[0]
        self.assertEqual(circle.url, "?around=1-3#spot")
        around = self.client.get(f"{address}{circle.url.removesuffix('#spot')}")
        self.assertEqual(around.context["around"], ("1", "3"))
        answer = self.client.post(f"{address}spot/", {"first": "2", "last": "3"}, follow=True)
        self.assertContains(answer, "The join of bars 2 and 3")  # it is there already
        answer = self.client.post(f"{address}spot/", {"first": "2", "last": "4"}, follow=True)
        self.assertContains(answer, "Bars 2–4")
        for path, words, said in (
            ("mark", {"bar": "9", "beat": "1", "sort": "rush"}, "Bar 9 is not there, allowed are 1 to 4"),
            ("mark", {"bar": "1", "beat": "99", "sort": "rush"}, "less than or equal to 32"),
            ("spot", {"first": "3", "last": "9"}, "Bars 3 to 9 are not there"),
            ("spot", {"first": "x", "last": ""}, "Two numbers of bars"),
        ):
            answer = self.client.post(f"{address}{path}/", words, follow=True)
            self.assertContains(answer, said)

    def test_what_is_no_score_is_refused_where_it_stands(self) -> None:
        hostile = b"<?xml version='1.0'?><!DOCTYPE x [<!ENTITY a 'b'>]><score-partwise>&a;</score-partwise>"
        for content, said in (
            (b"hello", "neither MusicXML"),
            (hostile, "Entities"),
            (b"PK\x03\x04rubbish", "can’t|cannot|not"),
        ):
            page = self.look_at(content)
            self.assertRegex(page.content.decode(), said)
        two = musicxml(bar("q q q q", number=1, metre="4/4"), parts=("Drum", "Marimba"))
        self.assertContains(self.look_at(two), "1 &quot;Drum&quot;, 2 &quot;Marimba&quot;")
        self.assertContains(self.client.post("/pieces/new/", {"name": ""}), "A name, or a score", status_code=422)
        self.assertEqual(Piece.objects.count(), 0)

    def test_without_a_score_even_notes(self) -> None:
        self.client.post("/pieces/new/", {"name": "A groove", "bars": "8", "beats": "3", "grid": "2"})
        piece = Piece.objects.get()
        chunk = piece.stretches.get(first_bar=1, last_bar=2)
        drill = passage_of(piece, chunk).drill
        self.assertEqual((drill.cycle.beats, drill.part.grid, drill.cycles % 2), (3, 2, 0))

    def test_nobody_elses(self) -> None:
        piece = self.keep()
        other = Player.objects.create(username="other")
        Piece.objects.update(player=other)
        self.assertEqual(self.client.get(piece.get_absolute_url()).status_code, 404)
        self.assertEqual(self.client.post(f"{piece.get_absolute_url()}put-away/").status_code, 404)

    def test_put_away_and_brought_back(self) -> None:
        piece = self.keep()
        self.client.post(f"{piece.get_absolute_url()}put-away/")
        self.assertEqual(self.client.get("/work/").context["work"].groups, [])
        self.client.post(f"{piece.get_absolute_url()}bring-back/")
        self.assertEqual(len(self.client.get("/work/").context["work"].groups), 1)
        self.assertEqual(local_player().pieces.count(), 1)
        self.assertEqual(Exercise.objects.count(), 0)
