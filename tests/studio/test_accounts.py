"""The player's own page: name, time zone and words, and whose they are."""

from datetime import UTC, datetime

from django.conf import settings
from django.core.checks import run_checks
from django.core.management.base import SystemCheckError
from django.test import TestCase
from django.urls import reverse

from studio.accounts.checks import MIXED, refuse_mixtures
from studio.accounts.models import DEMO, Player, local_player
from studio.drills.sentence.note_words import note_word
from studio.takes.models import Take
from studio.vocabulary import Countings, NoteNames, Vocabulary, spoken_parts, using
from tests.studio.playing import play

SAID = {"display_name": "Odo Lind", "instrument": "marimba", "time_zone": "", "note_names": "american"}
SAID |= {"counts": "syllables"}


class OwnPageTests(TestCase):
    def keep(self, **changes: str) -> int:
        return self.client.post(reverse("accounts:you"), SAID | changes).status_code

    def test_name_and_instrument_stand_on_every_page(self) -> None:
        self.assertContains(self.client.get(reverse("drills:set")), "You</a>")
        self.assertEqual(self.keep(), 302)
        self.assertContains(self.client.get(reverse("drills:set")), ">Odo Lind<")

    def test_names_of_notes_and_counts(self) -> None:
        """Common practice: crotchet and quaver for quarter and eighth."""
        self.keep(note_names="british", counts="takadimi")
        page = self.client.get(reverse("drills:set"), {"drill": "two-heard-two-silent", "grid": "4"})
        self.assertContains(page, "semiquavers to play")
        self.assertContains(page, "Crotchet")
        self.assertContains(page, ">mi<")
        self.assertContains(page, ">the last semiquaver<")
        with using(Vocabulary(NoteNames.BRITISH, Countings.NUMBERS)):
            self.assertEqual((note_word("3/8", 3), note_word("3/8", 1)), ("quavers", "dotted crotchets"))
            self.assertEqual(spoken_parts(3), ("2", "3"))
        self.assertEqual(note_word("3/8", 3), "eighths")

    def test_each_family_of_names_is_a_choice_and_another_word_is_none(self) -> None:
        page = self.client.get(reverse("accounts:you"))
        self.assertContains(page, '<option value="american" selected>quarter, eighth, sixteenth</option>', html=True)
        self.assertContains(page, '<option value="british">crotchet, quaver, semiquaver</option>', html=True)
        self.assertEqual(self.keep(note_names="german"), 422)

    def test_days_by_the_players_clock(self) -> None:
        take = play(self.client)
        Take.objects.update(started_at=datetime(2026, 11, 25, 23, 30, tzinfo=UTC))
        self.keep(time_zone="Pacific/Auckland")
        self.assertRegex(self.client.get(take.get_absolute_url()).content.decode(), "26 November( 2026)?, 12:30")

    def test_time_zones_stand_by_continents(self) -> None:
        page = self.client.get(reverse("accounts:you"))
        self.assertContains(page, '<optgroup label="Pacific">')
        self.assertContains(page, '<option value="America/Argentina/Ushuaia">as in Argentina/Ushuaia</option>')
        self.assertContains(page, '<option value="UTC">as in UTC</option>')

    def test_what_is_no_time_zone_is_refused(self) -> None:
        self.assertEqual(self.keep(time_zone="Mars/Olympus"), 422)
        self.assertEqual(local_player().time_zone, "")

    def test_nobody_changes_the_demos_player(self) -> None:
        Player.objects.create(username=DEMO, display_name="Ilse")
        self.client.post(reverse("accounts:demo"))
        self.assertNotContains(self.client.get(reverse("accounts:you")), 'name="display_name"')
        self.assertEqual(self.keep(), 403)

    def test_without_a_demo_it_is_said(self) -> None:
        self.assertContains(self.client.post(reverse("accounts:demo"), follow=True), "There is no demo here")


class MixtureTests(TestCase):
    """Whoever is on this machine is its player; nobody else is, however they come."""

    def test_what_a_proxy_passes_on_is_not_the_local_player(self) -> None:
        address = reverse("drills:set")
        self.assertEqual(self.client.get(address).status_code, 200)
        for name in ("X-Forwarded-For", "Forwarded", "Via", "X-Real-IP", "X-Forwarded-Host"):
            with self.subTest(name), self.assertLogs("django.request"):
                self.assertEqual(self.client.get(address, headers={name: "10.78.0.2"}).status_code, 403)
        with self.assertLogs("django.request"):
            self.assertEqual(self.client.get(address, REMOTE_ADDR="10.78.0.2").status_code, 403)

    def test_settings_that_would_let_others_be_the_local_player_do_not_start(self) -> None:
        self.assertEqual(run_checks(tags=[MIXED]), [])
        for changed, code in (
            ({"ALLOWED_HOSTS": ["127.0.0.1", "giusto.local"]}, "giusto.E001"),
            ({"SECURE_PROXY_SSL_HEADER": ("HTTP_X_FORWARDED_PROTO", "https")}, "giusto.E002"),
            ({"USE_X_FORWARDED_HOST": True}, "giusto.E002"),
            ({"MIDDLEWARE": [*settings.MIDDLEWARE, "allauth.account.middleware.AccountMiddleware"]}, "giusto.E003"),
        ):
            with self.subTest(code), self.settings(**changed):
                self.assertEqual([one.id for one in run_checks(tags=[MIXED])], [code])
                with self.assertRaisesMessage(SystemCheckError, "the local player"):
                    refuse_mixtures()
