"""Teacher and pupil: what was agreed, looked at, said and asked, and what comes back of it."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from unittest.mock import patch

from django.db import InternalError, transaction
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from giusto.plan.routine import routine_of
from giusto.schedule import schedule
from studio.accounts.looking import Looking, looked_at, looking
from studio.accounts.models import DEMO, Player
from studio.drills.models import OwnDrill
from studio.joining.models import LESSON, AuditLine, Code, make_code
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.pieces.actions import keep_piece
from studio.pieces.models import Piece
from studio.plans.actions import begin_preset, keep_routine
from studio.plans.models import Routine
from studio.plans.presets import PRESETS
from studio.takes.models import Take
from studio.teaching import actions
from studio.teaching.copies import BLANK_ROUTINE
from studio.teaching.models import Assignment, Consent, Remark, Scope, Shown, consent_of
from studio.teaching.played import played_of
from tests.many.people import SECRET, Things, client_of, person
from tests.studio.ladders.climbing import ladder_core
from tests.studio.playing import play, send

NOW = datetime(2026, 11, 26, 12, tzinfo=UTC)  # a Thursday


class TeachingTestCase(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.things = Things()

    def setUp(self) -> None:
        self.pupil = client_of(self.things.pupil, raises=True)
        self.teacher = client_of(self.things.teacher, raises=True)

    def see(self, path: str = "/takes/") -> str:
        if path == "/takes/":
            path = self.things.take.get_absolute_url()
        return f"/pupils/{self.things.pupil.pk}/see{path}"

    def agree(self, **changes: object) -> Consent:
        agreed = {"scopes": [], "since": None, "until": timezone.localdate() + timedelta(days=9)} | changes
        return actions.agree(player=self.things.pupil, teacher=self.things.teacher, **agreed)  # type: ignore[arg-type]


class ConsentTests(TeachingTestCase):
    def test_from_the_teachers_code_to_what_the_pupil_agrees_to(self) -> None:
        pupil = person("mira")
        client = client_of(pupil, raises=True)
        code = self.teacher.post(reverse("teaching:code")).context["code"]
        self.assertRedirects(client.post(reverse("joining:join"), {"code": code}), reverse("teaching:consent"))
        self.assertContains(client.get(reverse("teaching:consent")), "What may Teacher see?")
        until = timezone.localdate() + timedelta(days=100)
        answer = client.post(reverse("teaching:consent"), {"scopes": ["sound"], "since": "today", "until": until})
        self.assertRedirects(answer, reverse("teaching:teachers"))
        consent = consent_of(pupil, self.things.teacher)
        assert consent is not None
        self.assertEqual((consent.scopes, consent.until), (["takes", "sound"], until))
        self.assertEqual(consent.since, timezone.localdate())
        self.assertNotIn(LESSON, client.session)

    def test_for_a_year_at_most_and_never_of_oneself(self) -> None:
        for until in (timezone.localdate() - timedelta(days=1), timezone.localdate() + timedelta(days=367)):
            with self.assertRaises(actions.ConsentError):
                self.agree(until=until)
        with self.assertRaises(actions.ConsentError):
            actions.agree(
                player=self.things.teacher,
                teacher=self.things.teacher,
                scopes=[],
                since=None,
                until=timezone.localdate(),
            )

    def test_ended_by_one_button_at_once(self) -> None:
        self.assertEqual(self.teacher.get(self.see()).status_code, 200)
        self.pupil.post(reverse("teaching:withdraw", args=[self.things.consent.pk]))
        self.assertEqual(self.teacher.get(self.see()).status_code, 404)
        self.assertEqual(self.teacher.get(reverse("teaching:pupil", args=[self.things.pupil.pk])).status_code, 404)
        self.assertNotContains(self.teacher.get(reverse("teaching:pupils")), "Pupil</a>")
        self.assertContains(self.pupil.get(self.things.take.get_absolute_url()), "Lean back.")  # what was said stays

    def test_it_ends_by_itself_and_with_the_teachers_role(self) -> None:
        Consent.objects.filter(pk=self.things.consent.pk).update(until=timezone.localdate() - timedelta(days=1))
        self.assertEqual(self.teacher.get(self.see()).status_code, 404)
        self.agree()
        self.assertEqual(self.teacher.get(self.see()).status_code, 200)
        Player.objects.filter(pk=self.things.teacher.pk).update(role=Player.Role.PLAYER)
        self.assertEqual(self.teacher.get(self.see()).status_code, 404)

    def test_own_words_and_sounds_by_their_own_ticks(self) -> None:
        sound = self.see(reverse("takes:sound", args=[self.things.take.pk]))
        month = self.see(reverse("progress:month", args=[2026, 11]))
        piece = self.see(self.things.piece.get_absolute_url())
        for path in (self.see(), self.see("/log/"), month, piece):
            self.assertNotContains(self.teacher.get(path), SECRET.split(",")[0])
        self.assertNotContains(self.teacher.get(self.see("/log/?q=nobody+else")), "One take found")
        self.assertEqual(self.teacher.get(sound).status_code, 404)
        self.assertNotContains(self.teacher.get(self.see()), "/sound/")
        self.agree(scopes=["words", "sound"])
        self.assertContains(self.teacher.get(self.see("/log/")), SECRET.split(",")[0])
        self.assertContains(self.teacher.get(month), SECRET.split(",")[0])
        self.assertEqual(self.teacher.get(sound).status_code, 200)
        self.assertContains(self.teacher.get(self.see()), "/sound/")

    def test_single_takes_from_a_day_on(self) -> None:
        self.agree(since=date(2026, 11, 26))
        self.assertEqual(self.teacher.get(self.see()).status_code, 404)
        later = play(self.pupil, started_at="2026-11-27T10:00:00Z")
        self.assertEqual(self.teacher.get(self.see(later.get_absolute_url())).status_code, 200)
        answer = self.teacher.post(
            reverse("teaching:remark", args=[self.things.pupil.pk]), {"text": "x", "take": self.things.take.pk}
        )
        self.assertEqual(answer.status_code, 404)


class LookTests(TeachingTestCase):
    def test_pages_are_the_pupils_and_their_links_lead_to_hers(self) -> None:
        page = self.teacher.get(self.see("/log/"))
        self.assertContains(page, "looked at, nothing can be changed")
        self.assertContains(page, f'href="{self.see()}')
        self.assertContains(page, f'href="{reverse("teaching:pupil", args=[self.things.pupil.pk])}"')
        self.assertNotContains(page, 'data-player="' + str(self.things.pupil.pk))  # no take of hers is sent from here
        self.assertIsNone(looking())

    def test_a_day_without_a_plan_offers_nothing_to_do(self) -> None:
        Routine.objects.filter(player=self.things.pupil).delete()
        page = self.teacher.get(self.see("/today/"))
        self.assertContains(page, "Nothing planned.")
        for words in ("Or begin with a plan", "Set a click, and play", "Write a routine"):
            self.assertNotContains(page, words)
            self.assertContains(self.pupil.get("/today/"), words)

    def test_each_look_is_a_line_that_the_pupil_reads(self) -> None:
        AuditLine.objects.all().delete()
        self.teacher.get(self.see())
        self.teacher.get(self.see("/today/"))
        self.teacher.get(reverse("teaching:pupil", args=[self.things.pupil.pk]))
        page = self.pupil.get(reverse("joining:lines"))
        for words in ("Teacher looked at a reading: ", "looked at Today", "opened your lesson"):
            self.assertContains(page, words)
        self.assertContains(client_of(self.things.another).get(reverse("joining:lines")), "Nobody but you")

    def test_the_page_of_all_pupils_is_a_look_too(self) -> None:
        """It tells each of them, and says what the lesson's page says."""
        AuditLine.objects.all().delete()
        with timezone.override("UTC"), patch("django.utils.timezone.now", return_value=NOW):
            (of_all,) = self.teacher.get(reverse("teaching:pupils")).context["glances"]
            self.assertContains(self.pupil.get(reverse("joining:lines")), "Teacher looked at your week")
            alone = self.teacher.get(reverse("teaching:pupil", args=[self.things.pupil.pk])).context["glance"]
        self.assertGreater(of_all.total, 0)
        self.assertEqual(of_all, alone)

    def test_nothing_can_be_written_while_one_looks(self) -> None:
        take = self.things.take
        look = Looking(self.things.pupil, self.things.teacher, False, False, None)
        with self.assertRaisesMessage(InternalError, "read-only transaction"), transaction.atomic(), looked_at(look):
            Take.objects.filter(pk=take.pk).update(note="changed")
        with looked_at(look):
            self.assertEqual(Take.objects.get(pk=take.pk).note, "")
        Take.objects.filter(pk=take.pk).update(tempo_bpm=61)  # and written again after it

    def test_a_view_that_would_write_answers_with_an_error_and_writes_nothing(self) -> None:
        def writes(*_: object) -> int:
            return Take.objects.update(note="changed")

        client = client_of(self.things.teacher)
        with patch("studio.log.views.heading", writes):
            self.assertEqual(client.get(self.see("/log/")).status_code, 500)
        self.assertEqual(Take.objects.get(pk=self.things.take.pk).note, SECRET)

    def test_the_demo_is_looked_at_by_everybody_here_and_by_nobody_else(self) -> None:
        demo = Player.objects.create(username=DEMO, display_name="Ilse")
        answer = self.pupil.post(reverse("accounts:demo"))
        self.assertEqual(answer.headers["Location"], f"/pupils/{demo.pk}/see/log/")
        self.assertContains(self.pupil.get(answer.headers["Location"]), "an invented player")
        self.assertEqual(client_of(None).get(answer.headers["Location"]).status_code, 302)
        self.assertFalse(AuditLine.objects.filter(player=demo).exists())


class GlanceTests(TeachingTestCase):
    def test_all_pupils_in_lines_and_one_in_a_page(self) -> None:
        start_ladder(player=self.things.pupil, ladder=ladder_core(), name="Quarters")
        with timezone.override("UTC"), patch("django.utils.timezone.now", return_value=NOW):
            page = self.teacher.get(reverse("teaching:pupils"))
            one = self.teacher.get(reverse("teaching:pupil", args=[self.things.pupil.pk]))
        self.assertContains(page, "Pupil</a>")
        glance = page.context["glances"][0]
        self.assertEqual([day for day, minutes in glance.days if minutes], [date(2026, 11, 25)])
        self.assertEqual(glance.total, glance.days[-2][1])
        self.assertEqual(glance.asked, 1)
        self.assertContains(one, self.things.take.title)
        self.assertContains(one, "For you")

    def test_a_rung_that_sticks_is_named_after_a_fortnight(self) -> None:
        ladder = start_ladder(player=self.things.pupil, ladder=ladder_core(), name="Quarters")
        for day in (1, 16, 17):
            take = play(self.pupil, drill=ladder.core.drills[0].plain(), started_at=f"2026-11-{day:02}T10:00:00Z")
            Take.objects.filter(pk=take.pk).update(exercise=ladder.exercise, said_clean=False)
        with timezone.override("UTC"), patch("django.utils.timezone.now", return_value=NOW):
            page = self.teacher.get(reverse("teaching:pupils"))
        (stuck,) = page.context["glances"][0].stuck
        self.assertEqual((stuck.name, stuck.takes), ("Quarters", 3))
        self.assertEqual(stuck.days, (NOW.date() - date(2026, 11, 1)).days)

    def test_the_month_of_each_on_a_page_of_its_own(self) -> None:
        page = self.teacher.get(reverse("teaching:months", args=[2026, 11]))
        self.assertContains(page, "Pupil, frame drum")
        self.assertContains(page, "one-page", count=1)
        self.assertNotContains(page, SECRET)


class RemarkTests(TeachingTestCase):
    def say(self, **about: object) -> object:
        words = {"text": "Breathe before the silence."} | about
        return self.teacher.post(reverse("teaching:remark", args=[self.things.pupil.pk]), words)

    def test_the_pupil_finds_it_where_it_belongs_and_on_today(self) -> None:
        of = self.things
        self.say(take=of.take.pk, silence=1)
        self.say(ladder=of.ladder.pk, rung=2)
        self.say(piece=of.piece.pk, bar=3)
        today = self.pupil.get(reverse("plan:today"))
        for words in (", silence 1", ", rung 2", ", bar 3", "Breathe before the silence."):
            self.assertContains(today, words)
        for path in (
            reverse("readings:silence", args=[of.take.pk, 1]),
            of.ladder.get_absolute_url(),
            of.piece.get_absolute_url(),
            of.take.get_absolute_url(),
        ):
            self.assertContains(self.pupil.get(path), "Breathe before the silence.")
            self.assertNotContains(self.pupil.get(path), "Say something of it")

    def test_read_it_leaves_today_and_stays_where_it_belongs(self) -> None:
        remark = self.things.remark
        self.assertContains(self.pupil.get(reverse("plan:today")), "Lean back.")
        self.pupil.post(reverse("teaching:remark-away", args=[remark.pk]), {"today": "yes"})
        self.assertNotContains(self.pupil.get(reverse("plan:today")), "Lean back.")
        self.assertContains(self.pupil.get(self.things.take.get_absolute_url()), "Lean back.")

    def test_said_otherwise_it_comes_anew(self) -> None:
        remark = self.things.remark
        self.pupil.post(reverse("teaching:remark-away", args=[remark.pk]))
        self.teacher.post(reverse("teaching:change-remark", args=[remark.pk]), {"text": "Lean forward."})
        self.assertContains(self.pupil.get(reverse("plan:today")), "Lean forward.")

    def test_of_nothing_of_two_things_or_of_anothers_is_refused(self) -> None:
        of = self.things
        count = Remark.objects.count()
        self.say()
        self.say(take=of.take.pk, piece=of.piece.pk)
        theirs = start_ladder(player=of.another, ladder=ladder_core())
        self.assertEqual(self.say(ladder=theirs.pk).status_code, 404)  # type: ignore[attr-defined]
        self.assertEqual(Remark.objects.count(), count)


class AssignmentTests(TeachingTestCase):
    def asked(self, what: str) -> Assignment:
        goal = {"what": what, "goal": "three clean", "due": "2026-12-24"}
        answer = self.teacher.post(reverse("teaching:assign", args=[self.things.pupil.pk]), goal)
        self.assertEqual(answer.status_code, 302)
        return Assignment.objects.latest("pk")

    def accept(self, assignment: Assignment) -> Assignment:
        self.pupil.post(reverse("teaching:accept", args=[assignment.pk]))
        assignment.refresh_from_db()
        self.assertTrue(assignment.is_on)
        return assignment

    def play_of(self, ladder: Ladder) -> None:
        """Let the pupil play a take of a ladder's first rung, now."""
        drill, now = ladder.core.drills[0], f"{timezone.now():%Y-%m-%dT%H:%M:%S.%fZ}"
        asked_s = schedule(drill).seconds(schedule(drill).notes.tick)
        send(self.pupil, drill.plain(), asked_s, origin=ladder.exercise.origin, started_at=now)

    def test_a_drill_and_what_was_played_of_it_comes_back(self) -> None:
        today = self.pupil.get(reverse("plan:today"))
        self.assertContains(today, "For you")
        self.assertContains(today, "four days")
        assignment = self.accept(self.things.assignment)
        own = OwnDrill.objects.get(player=self.things.pupil, name="For you")
        self.assertEqual(own.drill_key, assignment.drill_key)
        self.assertNotContains(self.pupil.get(reverse("plan:today")), "four days")
        play(self.pupil, drill=own.spec, started_at=f"{timezone.now():%Y-%m-%dT%H:%M:%S.%fZ}")
        found = played_of(assignment)
        assert found is not None
        self.assertEqual(found.takes, 1)
        self.assertContains(self.teacher.get(reverse("teaching:pupil", args=[self.things.pupil.pk])), "1 take,")

    def test_a_ladder_a_piece_a_block_each_a_copy(self) -> None:
        of = self.things
        ladder = start_ladder(player=of.teacher, ladder=ladder_core(), name="Eighths")  # the pupil has one of that name
        fields = {"goal_bpm": 77.0, "first_bar": 1, "last_bar": 8, "begins": [1, 5], "beats": 4, "grid": 2}
        piece = keep_piece(player=of.teacher, name="A march", note="mine alone", **fields)
        begin_preset(player=of.teacher, key=list(PRESETS)[-1])
        block = Routine.objects.get(player=of.teacher).core.blocks[0].name
        first = self.accept(self.asked(f"ladder:{ladder.pk}"))
        theirs = Ladder.objects.get(pk=first.ladder_id)
        self.assertEqual((theirs.player, theirs.name, theirs.spec), (of.pupil, "Eighths 2", ladder.spec))
        self.play_of(theirs)
        found = played_of(first)
        assert found is not None
        self.assertEqual(found.takes, 1)
        lesson = reverse("teaching:pupil", args=[of.pupil.pk])
        self.assertContains(self.teacher.get(lesson), "1 take,")
        second = self.accept(self.asked(f"piece:{piece.pk}"))
        copy = Piece.objects.get(pk=second.piece_id)
        self.assertEqual((copy.player, copy.name, copy.goal_bpm, copy.note), (of.pupil, "A march", 77.0, ""))
        before = len(Routine.objects.get(player=of.pupil).core.blocks)
        self.accept(self.asked(f"block:{block}"))
        self.assertEqual(len(Routine.objects.get(player=of.pupil).core.blocks), before + 1)
        self.assertEqual(self.pupil.get(reverse("plan:today")).status_code, 200)

    def test_of_a_block_what_was_played_of_its_exercises_comes_back(self) -> None:
        of = self.things
        start_ladder(player=of.teacher, ladder=ladder_core(), name="Left alone")
        exercise = {"name": "Left alone", "block": "Hands", "minutes": 5}
        plain = {**BLANK_ROUTINE, "zone": "UTC", "blocks": [{"name": "Hands", "minutes": [5, 10]}]}
        keep_routine(player=of.teacher, routine=routine_of({**plain, "exercises": [exercise]}))
        assignment = self.accept(self.asked("block:Hands"))
        found = played_of(assignment)
        assert found is not None
        self.assertEqual(found.takes, 0)
        ladder = Ladder.objects.get(player=of.pupil, name="Left alone")
        self.play_of(ladder)
        found = played_of(assignment)
        assert found is not None
        self.assertEqual(found.takes, 1)

    def test_put_away_or_taken_back_it_is_gone_from_today(self) -> None:
        for who, name in ((self.pupil, "assignment-away"), (self.teacher, "take-back")):
            Assignment.objects.update(put_away_at=None, taken_back_at=None)
            who.post(reverse(f"teaching:{name}", args=[self.things.assignment.pk]))
            self.assertNotContains(self.pupil.get(reverse("plan:today")), "four days")
            self.pupil.post(reverse("teaching:accept", args=[self.things.assignment.pk]))
            self.assertFalse(OwnDrill.objects.filter(player=self.things.pupil, name="For you").exists())

    def test_only_of_what_is_the_teachers(self) -> None:
        for what in (f"drill:{self.things.own.pk}", f"ladder:{self.things.ladder.pk}", "drill:x", "block:Nothing", "x"):
            answer = self.teacher.post(reverse("teaching:assign", args=[self.things.pupil.pk]), {"what": what})
            self.assertEqual(answer.status_code, 422)


class LinkTests(TeachingTestCase):
    def test_until_it_ends_by_itself_or_by_hand(self) -> None:
        take, nobody = self.things.take, client_of(None)
        self.pupil.post(reverse("teaching:show", args=[take.pk]), {"days": "7"})
        shown = Shown.objects.get(take=take)
        path = f"/shown/{shown.token}{take.get_absolute_url()}"
        self.assertContains(self.pupil.get(take.get_absolute_url()), path)
        page = nobody.get(path)
        self.assertContains(page, "shows you")
        self.assertNotContains(page, SECRET)
        self.assertNotContains(page, "Lean back.")
        self.assertNotContains(page, 'href="/log/')
        self.assertAlmostEqual((shown.ends_at - timezone.now()).days, 6, delta=1)
        Shown.objects.update(ends_at=timezone.now())
        self.assertEqual(nobody.get(path).status_code, 404)
        self.pupil.post(reverse("teaching:show", args=[take.pk]), {"days": "1"})
        self.assertEqual(nobody.get(path).status_code, 404)  # a new link
        self.pupil.post(reverse("teaching:show", args=[take.pk]))
        self.assertFalse(Shown.objects.exists())


class CodeTests(TeachingTestCase):
    def test_no_teacher_becomes_an_owner_by_a_code_for_a_new_password(self) -> None:
        path = reverse("teaching:let-in", args=[self.things.pupil.pk])
        self.assertRegex(self.teacher.post(path).context["code"], "....-....")
        for role in (Player.Role.TEACHER, Player.Role.OWNER):
            Player.objects.filter(pk=self.things.pupil.pk).update(role=role)
            self.assertEqual(client_of(self.things.teacher).post(path).status_code, 403)

    def test_a_replayed_code_of_a_lesson_is_nothing(self) -> None:
        code = make_code(self.things.teacher, Code.Kind.LESSON)
        first, second = client_of(self.things.another), client_of(self.things.owner)
        self.assertEqual(first.post(reverse("joining:join"), {"code": code}).status_code, 302)
        self.assertEqual(second.post(reverse("joining:join"), {"code": code}).status_code, 422)
        self.assertEqual(Scope.values, ["takes", "words", "sound"])
