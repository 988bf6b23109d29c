"""Ladders: the shelf of them, the rule as a sentence, made of a drill, files in and out, and bad input."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from giusto.practice.ladder import ladder_of, parse_ladder
from studio.accounts.models import Player, local_player
from studio.drills.sentence.codec import query, words_of
from studio.drills.shelf import FAMILIES, shelf
from studio.ladders import actions
from studio.ladders.actions import ClimbError, start_ladder
from studio.ladders.models import Ladder
from studio.ladders.shelf import ready
from studio.takes.ceilings import probe_address
from tests.drills import fixed, plain
from tests.studio.ladders.climbing import at, ladder, play_asked, send, short

NOON = datetime(2026, 11, 20, 12, tzinfo=UTC)


class ShelfTests(TestCase):
    def test_every_family_has_one_and_each_starts(self) -> None:
        names = {name for name, _ in FAMILIES.values()}
        self.assertEqual({one.family for one in ready().values()}, names)
        for slug, one in ready().items():
            with self.subTest(slug):
                page = self.client.post(reverse("ladders:start"), {"slug": slug}, follow=True)
                self.assertContains(page, one.name)
                self.assertEqual(self.client.get(page.context["standing"].url).status_code, 200)
        self.assertEqual(Ladder.objects.count(), len(ready()))
        self.client.post(reverse("ladders:start"), {"slug": "to-the-edge"})  # again: the same one
        self.client.post(reverse("ladders:start"), {"slug": "nothing"})
        self.assertEqual(Ladder.objects.count(), len(ready()))
        self.assertEqual(self.client.get(reverse("ladders:new")).context["ready"], [])

    def test_rungs_that_ask_for_the_same_go_by_their_names(self) -> None:
        page = self.client.post(reverse("ladders:start"), {"slug": "settle"}, follow=True)
        take = play_asked(self.client, page.context["standing"].url, clean=True, moment=NOON)
        self.assertEqual(take.drill_name, "Clap with it")
        url = self.client.get(reverse("ladders:climb", args=[Ladder.objects.get().pk])).context["standing"]
        self.assertEqual([one.rung for one in url.tried], [1])


class RuleTests(TestCase):
    def setUp(self) -> None:
        self.ladder = start_ladder(player=local_player(), ladder=ladder_of(ladder()))
        self.url = self.ladder.get_absolute_url()

    def change(self, **words: object):  # type: ignore[no-untyped-def]
        form = self.client.get(self.url).context["form"]
        return self.client.post(self.url, {name: form[name].value() for name in form.fields} | words, follow=True)

    def test_another_school_keeps_the_attempts(self) -> None:
        for _ in range(2):
            url = self.client.get(self.url).context["standing"].url
            play_asked(self.client, url, clean=True, moment=NOON)
        self.change(kind="edge", clean_takes="2", nights="2")
        page = self.change(name="Renamed")
        self.assertContains(page, "Renamed")
        self.assertEqual(page.context["standing"].ladder.spec["rule"], {"kind": "edge", "clean": 2, "nights": 2})
        self.assertEqual(page.context["step"].secure, 1)
        self.assertIsNone(self.change(kind="stay").context["standing"].ladder.spec["fall"])
        self.assertEqual(self.change(kind="streak").context["standing"].ladder.spec["next_day"], {"back": 1})
        for kind in ("stay", "week", "band", "streak"):
            self.assertEqual(self.change(kind=kind).context["standing"].ladder.spec["rule"]["kind"], kind)
        self.assertEqual(len(page.context["standing"].tried), 2)

    def test_how_fast_it_goes_is_asked_of_the_rung_that_stands(self) -> None:
        self.change(kind="streak", clean_takes="1")
        with at(NOON):
            play_asked(self.client, self.client.get(self.url).context["standing"].url, clean=True, moment=NOON)
        with at(NOON + timedelta(minutes=5)):
            page = self.client.get(self.url)
        ladder, step = page.context["standing"].ladder, page.context["step"]
        self.assertEqual(step.rung, 2)
        self.assertEqual(page.context["fast_url"], probe_address(ladder.core.drills[1], ladder.exercise))
        self.assertNotEqual(page.context["fast_url"], probe_address(ladder.core.drills[0], ladder.exercise))

    def test_steps_of_silence_and_of_notes(self) -> None:
        drill = plain(silence=fixed(2, 1), cycles=12)
        vary = {"what": "silence", "from": 1, "to": 4, "by": 1}
        self.url = start_ladder(
            player=local_player(), ladder=ladder_of(ladder(drill=drill, vary=vary))
        ).get_absolute_url()
        spec = self.change(start="2", to="8", step="2").context["standing"].ladder.spec
        self.assertEqual(spec["vary"], {"what": "silence", "from": 2, "to": 8, "by": 2})
        notes = ladder(drill=plain(grid=1), vary={"what": "notes", "steps": [1, 2, 4]})
        self.url = start_ladder(player=local_player(), ladder=ladder_of(notes)).get_absolute_url()
        form = self.client.get(self.url).context["form"]
        self.assertEqual(form["steps"].value(), "1, 2, 4")
        spec = self.change(steps="1, 3").context["standing"].ladder.spec
        self.assertEqual(spec["vary"], {"what": "notes", "steps": [1, 3]})

    def test_no_more_ladders_than_a_page_shows(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_of(ladder(name="Second")))
        split = {"keys": "C, F"}
        with mock.patch.object(actions, "MAX_LADDERS", 3):
            page = self.client.post(f"/climb/{self.ladder.pk}/split/", split, follow=True)
            self.assertContains(page, "There would be more than 3 ladders. Take one down first.")
            self.assertEqual(Ladder.objects.count(), 2)
        with mock.patch.object(actions, "MAX_LADDERS", 4):
            self.client.post(f"/climb/{self.ladder.pk}/split/", split)
            self.assertEqual(Ladder.objects.count(), 4)
            with self.assertRaises(ClimbError):
                start_ladder(player=local_player(), ladder=ladder_of(ladder(name="Fifth")))

    def test_it_goes_back_to_a_page_of_ours_alone(self) -> None:
        for back, expected in (
            ("/today/", "/today/"),
            ("//elsewhere.example/", "/work/"),
            ("https://elsewhere.example/", "/work/"),
            ("http://testserver/today/", "/work/"),
            ("", "/work/"),
        ):
            answer = self.client.post(reverse("ladders:off"), {"is_off": "1", "back": back})
            self.assertEqual(answer.headers["Location"], expected, back)

    def test_htmx_gets_the_part(self) -> None:
        form = self.client.get(self.url).context["form"]
        words = {name: form[name].value() for name in form.fields} | {"to": "100"}
        page = self.client.post(self.url, words, headers={"HX-Request": "true"})
        self.assertTemplateUsed(page, "ladders/_climb.html")
        self.assertTemplateNotUsed(page, "ladders/climb.html")
        self.assertContains(page, "100")

    def test_limits_decide_what_is_clean(self) -> None:
        url = self.client.get(self.url).context["standing"].url
        play_asked(self.client, url, clean=True, moment=NOON)
        self.assertEqual(self.client.get(self.url).context["step"].needs["so_far"], 1)
        page = self.change(spread="0.1")
        self.assertEqual(page.context["step"].needs["so_far"], 0)

    def test_what_cannot_be_is_said_at_its_word_and_nothing_is_changed(self) -> None:
        for words, said in (
            ({"to": "50"}, "The last step can’t lie below the first."),
            ({"step": "0"}, "A step is more than nothing"),
            ({"step": "four"}, "Write it such as 4, or notch."),
            ({"clean_takes": ""}, "A whole number, please."),
            ({"clean_takes": "0"}, "1 at least, please."),
            ({"kind": "band", "low": "90", "high": "80"}, "More than the other one, please."),
            ({"kind": "nonsense"}, "Select a valid choice"),
            ({"falls": "-1"}, "1 at least, please."),
            ({"start": "nan"}, "A number, please."),
        ):
            with self.subTest(words):
                page = self.change(**words)
                self.assertEqual(page.status_code, 422)
                self.assertContains(page, said, status_code=422)
                self.assertEqual(Ladder.objects.get().spec, self.ladder.spec)

    def test_so_much_a_week_is_not_offered_where_nothing_is_counted(self) -> None:
        vary = {"what": "notes", "steps": [1, 2]}
        other = start_ladder(player=local_player(), ladder=ladder_of(ladder(vary=vary)))
        self.assertNotContains(self.client.get(other.get_absolute_url()), "so much a week")
        self.assertContains(self.client.get(self.url), "so much a week")

    def test_another_like_it_begins_anew(self) -> None:
        url = self.client.get(self.url).context["standing"].url
        play_asked(self.client, url, clean=True, moment=NOON)
        page = self.client.post(reverse("ladders:copy", args=[self.ladder.pk]), follow=True)
        self.assertEqual((page.context["ladder"].name, page.context["standing"].tried), ("Quarters 2", []))
        self.assertEqual(page.context["ladder"].spec, self.ladder.spec)
        self.client.post(reverse("ladders:copy", args=[self.ladder.pk]))
        self.assertEqual(Ladder.objects.filter(name="Quarters 3").count(), 1)

    def test_taken_down_and_back(self) -> None:
        page = self.client.post(reverse("ladders:delete", args=[self.ladder.pk]), follow=True)
        self.assertContains(page, "is taken down")
        self.assertEqual(self.client.get(self.url).status_code, 404)
        self.assertContains(self.client.get(reverse("work:page")), "Set it up again")
        self.client.post(reverse("ladders:restore", args=[self.ladder.pk]))
        self.assertEqual(self.client.get(self.url).status_code, 200)
        self.assertEqual(self.client.get(reverse("work:page"), {"deleted": "x"}).status_code, 200)

    def test_the_word_of_another_changes_nothing(self) -> None:
        other = Player.objects.create(username="another")
        theirs = start_ladder(player=other, ladder=ladder_of(ladder()))
        for name in ("climb", "file"):
            self.assertEqual(self.client.get(reverse(f"ladders:{name}", args=[theirs.pk])).status_code, 404)
        for name in ("delete", "restore", "climb", "copy"):
            self.assertEqual(self.client.post(reverse(f"ladders:{name}", args=[theirs.pk])).status_code, 404)
        self.assertRedirects(
            self.client.get(reverse("ladders:exercise", args=[theirs.exercise_id])), reverse("work:page")
        )


class FileTests(TestCase):
    def bring(self, text: str):  # type: ignore[no-untyped-def]
        file = SimpleUploadedFile("ladder.json", text.encode())
        return self.client.post(reverse("ladders:import"), {"file": file}, follow=True)

    def test_out_and_in_again(self) -> None:
        page = self.bring(json.dumps(ladder(fall=None)))
        self.assertContains(page, "Quarters")
        out = self.client.get(reverse("ladders:file", args=[Ladder.objects.get().pk]))
        self.assertEqual(parse_ladder(out.content), ladder_of(ladder(fall=None)))

    def test_faults_are_told_each_with_its_place(self) -> None:
        for text, said in (
            ("", "empty"),
            ("{", "JSON"),
            ("[]", "a ladder is a JSON object"),
            (json.dumps(ladder(vary={"what": "drills", "steps": []})), "vary.steps"),
            (json.dumps(ladder(vary={"what": "tempo", "from": 100, "to": 60, "by": 4})), "vary.to"),
            (json.dumps(ladder(vary={"what": "tempo", "from": 60, "to": 100, "by": 0})), "vary.by"),
            (json.dumps(ladder(more=1)), "more"),
        ):
            with self.subTest(said):
                self.assertContains(self.bring(text), said, status_code=422)
        self.assertContains(self.client.post(reverse("ladders:import")), "Choose a file first.", status_code=422)
        self.assertEqual(Ladder.objects.count(), 0)


class MadeOfADrillTests(TestCase):
    def make(self, by: str, drill=None, origin: str = ""):  # type: ignore[no-untyped-def]
        words = query({**words_of(validate(drill or short())), "drill": origin})
        return self.client.post(reverse("ladders:of"), {"words": words, "by": by}, follow=True)

    def test_what_was_played_before_counts(self) -> None:
        drill = shelf()["two-heard-two-silent"].drill.plain()
        send(self.client, drill, clean=True, moment=NOON, origin="two-heard-two-silent")
        page = self.make("tempo", drill, "two-heard-two-silent")
        self.assertEqual(len(page.context["standing"].tried), 1)
        self.assertEqual(page.context["ladder"].spec["vary"], {"what": "tempo", "from": 96, "to": 136, "by": 4})
        self.make("silence", drill, "two-heard-two-silent")  # the one that is there stays
        self.assertEqual(Ladder.objects.count(), 1)

    def test_by_silence_by_notes_and_note_by_note(self) -> None:
        silent = shelf()["two-heard-two-silent"].drill.plain()
        self.assertEqual(self.make("silence", silent).context["what"], "silence")
        self.assertContains(self.make("silence"), "it has no silence of one length")
        self.assertEqual(self.make("notes").context["what"], "notes")
        page = self.make("note by note", short(grid=4, on=["1"]))
        self.assertContains(page, "Snapped, away from the instrument")
        self.assertEqual(page.context["ladder"].limits.fused_cycles, 8)
        self.assertContains(self.make("note by note", short(play="free")), "No ladder can be made")
        self.assertEqual(self.client.post(reverse("ladders:of"), {"words": "bpm=x"}).status_code, 302)
